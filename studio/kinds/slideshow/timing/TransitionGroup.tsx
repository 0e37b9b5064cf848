import { useState } from 'react'
import { transitionCost } from '../../../../core/kinds/slideshow/slideCost'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { EASINGS } from '../../../../core/kinds/easing'
import { transitionOf, type Slide } from '../../../../core/kinds/slideshow/Slideshow'
import {
  DIRECTIONS,
  MAX_TRANSITION_SECONDS,
  type Transition,
  type TransitionStyle,
} from '../../../../core/kinds/slideshow/transition'
import { useBackdrop } from '../../../state/backdropStore'
import type { LoadedSources } from '../../../state/loadedSources'
import { ColorField } from '../../../color/ColorField'
import { Button, Choice, Group, Slider } from '../../../ui/controls'
import { slidesOf } from '../slidesOf'
import { usePreviews } from '../usePreviews'
import { TransitionPreview } from './TransitionPreview'
import {
  DIRECTED,
  DIRECTION_LABELS,
  EASING_LABELS,
  STYLE_LABELS,
  TRANSITION_GROUPS,
} from './transitionWords'

/** How slides give way to one another: all of them, or one. */
export function TransitionGroup({
  document,
  sources,
  slide,
}: {
  document: DocumentOf<'slideshow'>
  sources: LoadedSources
  /** The slide whose transition is chosen; null for all of them. */
  slide: Slide | null
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { base } = document
  const transition = slide ? transitionOf(base, slide) : base.transition
  const set = (fields: Partial<Transition>, gesture: string | null = null): void =>
    dispatch({ type: 'slides/transition', id: slide?.id ?? null, transition: fields }, gesture)
  const number = slide ? base.slides.indexOf(slide) + 1 : null
  const others = base.slides.filter((each) => each.transition !== null).length
  return (
    <Group
      title={number === null ? 'Transition' : `Transition after slide ${number}`}
      aside="on your images"
    >
      <StyleChoice
        document={document}
        sources={sources}
        slide={slide}
        onChoose={(style) => set({ style })}
      />
      <Details transition={transition} set={set} />
      {slide?.transition && (
        <Button
          onClick={() => dispatch({ type: 'slides/transition', id: slide.id, transition: null })}
        >
          As the others
        </Button>
      )}
      {!slide && others > 0 && (
        <p className="text-xs text-muted">
          {others === 1 ? 'One slide has' : `${others} slides have`} a transition of their own.
        </p>
      )}
    </Group>
  )
}

function StyleChoice({
  document,
  sources,
  slide,
  onChoose,
}: {
  document: DocumentOf<'slideshow'>
  sources: LoadedSources
  slide: Slide | null
  onChoose: (style: TransitionStyle) => void
}) {
  const { base } = document
  const [played, setPlayed] = useState<TransitionStyle | null>(null)
  const pictures = usePreviews(slidesOf(document, sources).map(({ source }) => source))
  const at = slide ? base.slides.indexOf(slide) : 0
  const pair = [base.slides[at]!, base.slides[(at + 1) % base.slides.length]!] as const
  const transition = slide ? transitionOf(base, slide) : base.transition
  return (
    <div role="group" aria-label="Style of the transition" className="flex flex-col gap-2">
      {TRANSITION_GROUPS.map(({ label, styles }) => (
        <div key={label}>
          <div className="mb-1 text-xs text-muted">{label}</div>
          <div className="grid grid-cols-3 gap-1.5">
            {styles.map((style) => {
              const shown = { ...transition, style }
              return (
                <button
                  key={style}
                  type="button"
                  aria-pressed={transition.style === style}
                  onClick={() => onChoose(style)}
                  onPointerEnter={() => setPlayed(style)}
                  onPointerLeave={() => setPlayed(null)}
                  onFocus={() => setPlayed(style)}
                  onBlur={() => setPlayed(null)}
                  className="flex flex-col overflow-hidden rounded border border-line bg-white text-left aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
                >
                  <TransitionPreview
                    transition={shown}
                    slides={pair}
                    pictures={pictures}
                    playing={played === style}
                  />
                  <span className="block px-1.5 pt-0.5 leading-tight">{STYLE_LABELS[style]}</span>
                  <span className="block px-1.5 pb-1 font-mono text-[0.7rem] text-muted">
                    CPU {transitionCost(shown).toFixed(1)}
                  </span>
                </button>
              )
            })}
          </div>
        </div>
      ))}
      <p className="text-xs text-muted">
        CPU: processor time while it lasts, as a multiple of a playing clip of 1280 × 720, measured
        without a graphics processor.
      </p>
    </div>
  )
}

/** What the chosen style leaves open. */
function Details({
  transition,
  set,
}: {
  transition: Transition
  set: (fields: Partial<Transition>, gesture?: string | null) => void
}) {
  const { style, seconds, easing, direction, color, softness, angleDeg, seed } = transition
  return (
    <>
      <Slider
        label="Length"
        value={seconds}
        low={0}
        high={MAX_TRANSITION_SECONDS}
        step={0.1}
        shown={`${seconds.toFixed(1)} s`}
        onChange={(next, gesture) => set({ seconds: next }, gesture)}
      />
      {style !== 'mosaic' && (
        <Choice
          label="Easing"
          value={easing}
          onChange={(next) => set({ easing: next })}
          options={EASINGS.map((value) => ({ value, label: EASING_LABELS[value] }))}
        />
      )}
      {DIRECTED.has(style) && (
        <Choice
          label="Direction"
          value={direction}
          onChange={(next) => set({ direction: next })}
          options={DIRECTIONS.map((value) => ({ value, label: DIRECTION_LABELS[value] }))}
        />
      )}
      {style === 'through-colour' && (
        <ColorField
          label="Colour between two slides"
          value={color}
          onChange={(next, gesture) => set({ color: next }, gesture)}
        />
      )}
      {style === 'edge' && (
        <>
          <Slider
            label="Softness"
            value={softness}
            low={0}
            high={1}
            step={0.01}
            shown={`${Math.round(softness * 100)} %`}
            onChange={(next, gesture) => set({ softness: next }, gesture)}
          />
          <Slider
            label="Angle (0 goes up, 90 to the right)"
            value={angleDeg}
            low={0}
            high={360}
            step={5}
            shown={`${angleDeg}°`}
            onChange={(next, gesture) => set({ angleDeg: next }, gesture)}
          />
        </>
      )}
      {style === 'mosaic' && (
        <Button onClick={() => set({ seed: (seed + 1) % 1000 })}>Another order of the tiles</Button>
      )}
    </>
  )
}
