import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { FOCAL_CLASSES, type FocalClass } from '../../../../core/fit/focal'
import { panOf, type Slide } from '../../../../core/kinds/slideshow/Slideshow'
import { useBackdrop } from '../../../state/backdropStore'
import { ColorField } from '../../../color/ColorField'
import { Button, Choice, Group, NumberField, Slider, Toggle } from '../../../ui/controls'
import { ViewFields } from '../../pan/ViewFields'
import { WordFields } from './WordFields'

type Fields = Partial<Omit<Slide, 'id' | 'sourceId' | 'transition'>>
type Set = (slide: Fields, gesture?: string | null) => void

/** A slow zoom into the middle: what a designer starts from. */
const FIRST_PAN: NonNullable<Slide['pan']> = {
  from: { x: 0, y: 0, zoom: 1 },
  to: { x: 0.05, y: 0.05, zoom: 1.15 },
}

/** What is decided of one slide. */
export function SlideGroup({
  document,
  slide,
}: {
  document: DocumentOf<'slideshow'>
  slide: Slide
}) {
  const { base, fit } = document
  const dispatch = useBackdrop((state) => state.dispatch)
  const set: Set = (fields, gesture = null) =>
    dispatch({ type: 'slides/set', id: slide.id, slide: fields }, gesture)
  const number = base.slides.indexOf(slide) + 1
  const { placing } = slide
  return (
    <Group title={`Slide ${number}`} aside="this slide only">
      <Choice
        label="Placing"
        hideLabel
        value={placing}
        onChange={(next) => set({ placing: next })}
        options={[
          { value: 'cover', label: 'Cover', note: 'fills the region' },
          { value: 'contain', label: 'Contain', note: 'shown whole' },
          { value: 'tile', label: 'Tile', note: 'repeated' },
        ]}
      />
      {placing === 'tile' && (
        <NumberField
          label="Width of a tile"
          value={slide.tileWidth}
          low={16}
          high={2000}
          suffix="px"
          onChange={(tileWidth) => set({ tileWidth })}
        />
      )}
      {placing !== 'tile' && <FocalFields slide={slide} shared={fit.focal} set={set} />}
      <Slider
        label="Opacity over the colour"
        value={slide.opacity}
        low={0}
        high={1}
        step={0.01}
        shown={`${Math.round(slide.opacity * 100)} %`}
        onChange={(opacity, gesture) => set({ opacity }, gesture)}
      />
      {(slide.opacity < 1 || placing !== 'cover') && (
        <ColorField
          label="Colour behind the image"
          value={slide.background}
          onChange={(background, gesture) => set({ background }, gesture)}
        />
      )}
      {placing === 'cover' && <PanFields slide={slide} base={base} set={set} />}
      <WordFields document={document} slide={slide} />
      {number > 1 && (
        <Button onClick={() => dispatch({ type: 'slides/first', id: slide.id })}>
          Start with this slide
        </Button>
      )}
    </Group>
  )
}

const CLASS_LABELS: Readonly<Record<FocalClass, string>> = { phone: 'Phones', laptop: 'Laptops' }

/** A focal point of its own, for all screens and for some. */
function FocalFields({
  slide: { focal },
  shared,
  set,
}: {
  slide: Slide
  shared: { readonly x: number; readonly y: number }
  set: Set
}) {
  const point = (
    label: string,
    value: { readonly x: number; readonly y: number },
    onChange: (next: { x: number; y: number }) => void,
  ) => (
    <div className="flex gap-2" role="group" aria-label={label}>
      {(['x', 'y'] as const).map((axis) => (
        <NumberField
          key={axis}
          label={`${label}, ${axis === 'x' ? 'from the left' : 'from the top'}`}
          value={value[axis] * 100}
          low={0}
          high={100}
          suffix="%"
          onChange={(percent) => onChange({ ...value, [axis]: percent / 100 })}
        />
      ))}
    </div>
  )
  return (
    <>
      <Toggle
        label="Its own focal point"
        note={
          focal
            ? 'Drag it on the stage.'
            : 'Else that of the backdrop. Drag the point on the stage.'
        }
        enabled={focal !== null}
        onChange={(on) =>
          set({
            focal: on ? { focal: { ...shared }, ownFocal: { phone: null, laptop: null } } : null,
          })
        }
      />
      {focal &&
        point('All screens', focal.focal, (next) => set({ focal: { ...focal, focal: next } }))}
      {focal &&
        FOCAL_CLASSES.map((each) => {
          const own = focal.ownFocal[each]
          const setOwn = (next: { x: number; y: number } | null): void =>
            set({ focal: { ...focal, ownFocal: { ...focal.ownFocal, [each]: next } } })
          return (
            <div key={each} className="flex flex-col gap-1.5">
              <Toggle
                label={`Another one on ${CLASS_LABELS[each].toLowerCase()}`}
                enabled={own !== null}
                onChange={(on) => setOwn(on ? { ...focal.focal } : null)}
              />
              {own && point(CLASS_LABELS[each], own, setOwn)}
            </div>
          )
        })}
    </>
  )
}

/** Slow pan and zoom of a slide, and the same for all. */
function PanFields({
  slide,
  base,
  set,
}: {
  slide: Slide
  base: DocumentOf<'slideshow'>['base']
  set: Set
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { pan } = slide
  const forAll = (): void => {
    const gesture = crypto.randomUUID()
    for (const { id } of base.slides) dispatch({ type: 'slides/set', id, slide: { pan } }, gesture)
  }
  const isShared = base.slides.every((each) => JSON.stringify(panOf(each)) === JSON.stringify(pan))
  return (
    <>
      <Toggle
        label="Slow pan and zoom"
        note="Through the whole time in which it is seen. Drag both views on the stage."
        enabled={pan !== null}
        onChange={(on) => set({ pan: on ? FIRST_PAN : null })}
      />
      {pan &&
        (['from', 'to'] as const).map((which) => (
          <div
            key={which}
            role="group"
            aria-label={which === 'from' ? 'Start view' : 'End view'}
            className="flex flex-col gap-1"
          >
            <span className="text-xs text-muted">
              {which === 'from' ? 'Start view' : 'End view'}
            </span>
            <ViewFields
              view={pan[which]}
              onChange={(view) => set({ pan: { ...pan, [which]: view } })}
            />
          </div>
        ))}
      {!isShared && (
        <Button onClick={forAll}>{pan ? 'Pan all slides like this one' : 'Stop all pans'}</Button>
      )}
    </>
  )
}
