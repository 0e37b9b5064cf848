import { Shuffle } from 'lucide-react'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { cycleWords, MIN_HOLD_SECONDS } from '../../../../core/kinds/slideshow/cycle'
import {
  MAX_HOLD_SECONDS,
  slideCycle,
  timingsOf,
  type SlideOrder,
  type Slideshow,
} from '../../../../core/kinds/slideshow/Slideshow'
import { MAX_TRANSITION_SECONDS } from '../../../../core/kinds/slideshow/transition'
import { slideshowCost } from '../../../../core/kinds/slideshow/slideCost'
import type { BenchProps } from '../../../rooms/Room'
import { useBackdrop } from '../../../state/backdropStore'
import { Button, Choice, Group, NumberField, Toggle } from '../../../ui/controls'
import { useSlideView } from '../slideView'
import { TransitionGroup } from './TransitionGroup'

type Props = Omit<BenchProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** Hold, transition and cycle; how slides change, in which order, and by whom. */
export function CycleBench({ document, sources }: Props) {
  const selected = useSlideView((state) => state.selected)
  const set = useSlideView((state) => state.set)
  const { base } = document
  const slide = base.slides.find(({ id }) => id === selected) ?? null
  return (
    <>
      <CycleGroup base={base} />
      {slide && <OwnHold base={base} id={slide.id} onDone={() => set({ selected: null })} />}
      <TransitionGroup document={document} sources={sources} slide={slide} />
      <OrderGroup base={base} />
      <ControlsGroup base={base} />
    </>
  )
}

/** The shared times: whichever is set, the others follow. */
function CycleGroup({ base }: { base: Slideshow }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { seconds } = slideCycle(base)
  const own = base.slides.flatMap(({ holdSeconds }, index) =>
    holdSeconds === null ? [] : [index + 1],
  )
  return (
    <Group title="Cycle" aside={cycleWords(timingsOf(base))}>
      <div className="flex gap-2">
        <NumberField
          label="Hold"
          value={base.holdSeconds}
          low={MIN_HOLD_SECONDS}
          high={MAX_HOLD_SECONDS}
          suffix="s"
          decimals={2}
          onChange={(holdSeconds) => dispatch({ type: 'slides/shared', slides: { holdSeconds } })}
        />
        <NumberField
          label="Transition"
          value={base.transition.seconds}
          low={0}
          high={MAX_TRANSITION_SECONDS}
          suffix="s"
          decimals={2}
          onChange={(length) =>
            dispatch({ type: 'slides/transition', id: null, transition: { seconds: length } })
          }
        />
        <NumberField
          label="Cycle"
          value={seconds}
          low={1}
          high={base.slides.length * MAX_HOLD_SECONDS}
          suffix="s"
          decimals={1}
          onChange={(wanted) => dispatch({ type: 'slides/cycle', seconds: wanted })}
        />
      </div>
      {own.length > 0 && (
        <p className="text-xs text-muted">
          {own.length === 1 ? `Slide ${own[0]} has its` : `Slides ${own.join(', ')} have their`} own
          hold.
        </p>
      )}
      <p className="text-xs text-muted">
        Over a whole cycle about {slideshowCost(base).toFixed(2)} times the processor time of a
        playing clip.
      </p>
    </Group>
  )
}

/** How long one slide stays. */
function OwnHold({ base, id, onDone }: { base: Slideshow; id: number; onDone: () => void }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const slide = base.slides.find((each) => each.id === id)!
  const set = (holdSeconds: number | null): void =>
    dispatch({ type: 'slides/set', id, slide: { holdSeconds } })
  return (
    <Group title={`Slide ${base.slides.indexOf(slide) + 1}`} aside="chosen on the deck">
      <Toggle
        label="Its own hold"
        enabled={slide.holdSeconds !== null}
        onChange={(on) => set(on ? base.holdSeconds : null)}
      />
      {slide.holdSeconds !== null && (
        <NumberField
          label="Hold of this slide"
          value={slide.holdSeconds}
          low={MIN_HOLD_SECONDS}
          high={MAX_HOLD_SECONDS}
          suffix="s"
          decimals={2}
          onChange={set}
        />
      )}
      <Button onClick={onDone}>Show what all slides share</Button>
    </Group>
  )
}

const ORDER_NOTES: Readonly<Record<SlideOrder, string>> = {
  given: 'One after another, over and over.',
  shuffled:
    'With the script another order in each cycle, none twice in a row; without it the order below.',
  visit: 'The next one each time a visitor comes. It replaces the first slide once it has loaded.',
  day: 'Everyone sees the same one on a day. It replaces the first slide once it has loaded.',
}

function OrderGroup({ base }: { base: Slideshow }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { order, seed, delivery } = base
  return (
    <Group title="Order" aside="slide 1 is always painted first">
      <div className="grid grid-cols-2 gap-1.5" role="group" aria-label="Order">
        {(
          [
            ['given', 'As given'],
            ['shuffled', 'Shuffled'],
            ['visit', 'One per visit'],
            ['day', 'One per day'],
          ] as const
        ).map(([value, label]) => (
          <button
            key={value}
            type="button"
            disabled={delivery === 'clip'}
            aria-pressed={order === value}
            onClick={() => dispatch({ type: 'slides/shared', slides: { order: value } })}
            className="rounded border border-line bg-white px-2.5 py-1.5 text-left font-medium disabled:opacity-45 aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
          >
            {label}
          </button>
        ))}
      </div>
      <p className="text-xs text-muted">
        {delivery === 'clip'
          ? 'A clip shows the slides as given, over and over.'
          : ORDER_NOTES[order]}
      </p>
      {delivery === 'live' && order === 'shuffled' && (
        <Button
          onClick={() => dispatch({ type: 'slides/shared', slides: { seed: (seed + 1) % 1000 } })}
        >
          <Shuffle className="size-4" aria-hidden />
          Another order without script
        </Button>
      )}
    </Group>
  )
}

function ControlsGroup({ base }: { base: Slideshow }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { controls, delivery } = base
  const set = (fields: Partial<Slideshow['controls']>): void =>
    dispatch({ type: 'slides/shared', slides: { controls: { ...controls, ...fields } } })
  if (delivery === 'clip')
    return (
      <Group title="Visitor controls">
        <p className="text-muted">
          A clip has no slides to choose from: only the pause control, under Behaviour.
        </p>
      </Group>
    )
  return (
    <Group title="Visitor controls" aside="the pause control is under Behaviour">
      <Toggle
        label="Previous and next"
        note="Also by swiping, and with arrow keys on the buttons."
        enabled={controls.arrows}
        onChange={(arrows) => set({ arrows })}
      />
      <Toggle
        label="Markers"
        note="One for each slide, the present one filled."
        enabled={controls.markers}
        onChange={(markers) => set({ markers })}
      />
      {(controls.arrows || controls.markers) && (
        <Choice
          label="Place"
          value={controls.place}
          onChange={(place) => set({ place })}
          options={[
            { value: 'bottom-left', label: 'Left' },
            { value: 'bottom-centre', label: 'Middle' },
            { value: 'bottom-right', label: 'Right' },
          ]}
        />
      )}
    </Group>
  )
}
