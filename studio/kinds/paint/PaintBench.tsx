import { Plus, Shuffle, Trash2 } from 'lucide-react'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { bandingOf } from '../../../core/kinds/paint/banding'
import {
  addStop,
  colorStop,
  moveStop,
  removeStop,
  reversed,
} from '../../../core/kinds/paint/editGradient'
import {
  BLENDS,
  MAX_GRADIENTS,
  MAX_STOPS,
  newGradient,
  type Gradient,
  type Paint,
} from '../../../core/kinds/paint/Paint'
import { widestGap } from '../../../core/picture/gradientStops'
import type { BenchProps } from '../../rooms/Room'
import { ColorField } from '../../color/ColorField'
import { Button, Choice, Group, Note, NumberField, Slider, Toggle } from '../../ui/controls'
import { Picker } from '../../ui/Picker'
import { BaseGroup } from '../BaseGroup'
import { Palettes } from './Palettes'
import { SavedPaints } from './SavedPaints'
import { useSelected } from './paintSelection'
import { usePaint } from './usePaint'

type Props = Omit<BenchProps, 'document'> & { readonly document: DocumentOf<'paint'> }

/** Colour and gradients of a paint. */
export function PaintBench({ document, projectId }: Props) {
  const { base } = document
  const { set } = usePaint(base)
  const { index } = useSelected(base.gradients)
  const gradient = base.gradients[index]
  return (
    <>
      <Group title="Colour" aside={gradient ? 'below the gradients' : 'of the whole region'}>
        <ColorField
          label="Colour"
          value={base.color}
          onChange={(color, gesture) => set({ color }, gesture)}
        />
      </Group>
      <Gradients base={base} index={index} />
      {gradient && <GradientGroup base={base} gradient={gradient} index={index} />}
      <Palettes base={base} projectId={projectId} />
      <Banding base={base} />
      <SavedPaints base={base} projectId={projectId} />
      <BaseGroup document={document} projectId={projectId} />
    </>
  )
}

/** Which gradients there are; one is open. */
function Gradients({ base, index }: { base: Paint; index: number }) {
  const { set } = usePaint(base)
  const select = useSelected(base.gradients).set
  const { gradients, color } = base
  const add = (): void => {
    // A second one must let the first be seen.
    const next = { ...newGradient(color, '#e8a15f'), opacity: gradients.length > 0 ? 0.5 : 1 }
    set({ gradients: [...gradients, next] })
    select({ gradient: gradients.length, stop: 0 })
  }
  return (
    <Group title="Gradients" aside={gradients.length === 0 ? 'none' : 'from back to front'}>
      {gradients.length > 1 && (
        <Choice
          label="Open gradient"
          hideLabel
          value={String(index)}
          onChange={(next) => select({ gradient: Number(next), stop: 0 })}
          options={gradients.map((each, at) => ({
            value: String(at),
            label: at === 0 ? 'Back' : 'Front',
            note: each.shape,
          }))}
        />
      )}
      <div className="flex flex-wrap gap-2">
        <Button disabled={gradients.length >= MAX_GRADIENTS} onClick={add}>
          <Plus className="size-4" aria-hidden />
          Add a gradient
        </Button>
        {gradients.length > 0 && (
          <Button onClick={() => set({ gradients: gradients.toSpliced(index, 1) })}>
            <Trash2 className="size-4" aria-hidden />
            Remove {gradients.length > 1 ? (index === 0 ? 'the back one' : 'the front one') : 'it'}
          </Button>
        )}
      </div>
      {gradients.length > 1 && (
        <div className="flex items-center justify-between">
          <span className="text-xs text-muted">Blend mode of the front one</span>
          <Picker
            label="Blend mode of the front one"
            value={base.blend}
            onChange={(blend) => set({ blend })}
            options={BLENDS.map((each) => ({ value: each, label: each }))}
          />
        </div>
      )}
    </Group>
  )
}

/** The open gradient in numbers; it is dragged on the stage and in the deck. */
function GradientGroup({
  base,
  gradient,
  index,
}: {
  base: Paint
  gradient: Gradient
  index: number
}) {
  const { setGradient } = usePaint(base)
  const set = (fields: Partial<Gradient>, gesture: string | null = null): void =>
    setGradient(index, { ...gradient, ...fields }, gesture)
  const { shape, angleDeg, centre, radius, space, opacity } = gradient
  return (
    <Group title="Gradient" aside="drag it on the stage">
      <Choice
        label="Shape"
        hideLabel
        value={shape}
        onChange={(next) => set({ shape: next })}
        options={[
          { value: 'linear', label: 'Linear' },
          { value: 'radial', label: 'Radial' },
          { value: 'conic', label: 'Conic' },
        ]}
      />
      <Stops base={base} gradient={gradient} index={index} />
      <div className="flex gap-2">
        {shape !== 'radial' && (
          <NumberField
            label={shape === 'linear' ? 'Angle' : 'Starts at'}
            value={angleDeg}
            low={0}
            high={360}
            suffix="°"
            onChange={(next) => set({ angleDeg: next })}
          />
        )}
        {shape !== 'linear' && (
          <>
            <NumberField
              label="Centre across"
              value={centre.x * 100}
              low={0}
              high={100}
              suffix="%"
              onChange={(x) => set({ centre: { ...centre, x: x / 100 } })}
            />
            <NumberField
              label="Centre down"
              value={centre.y * 100}
              low={0}
              high={100}
              suffix="%"
              onChange={(y) => set({ centre: { ...centre, y: y / 100 } })}
            />
          </>
        )}
        {shape === 'radial' && (
          <NumberField
            label="Radius"
            value={radius * 100}
            low={10}
            high={200}
            suffix="%"
            onChange={(next) => set({ radius: next / 100 })}
          />
        )}
      </div>
      <Slider
        label="Opacity"
        value={opacity}
        low={0}
        high={1}
        step={0.01}
        shown={`${Math.round(opacity * 100)} %`}
        onChange={(next, gesture) => set({ opacity: next }, gesture)}
      />
      <Choice
        label="Mixed in"
        value={space}
        onChange={(next) => set({ space: next })}
        options={[
          { value: 'oklab', label: 'OKLab', note: 'even to the eye' },
          { value: 'srgb', label: 'sRGB', note: 'as older tools do' },
        ]}
      />
    </Group>
  )
}

/** The stops of the open gradient; one is open. */
function Stops({ base, gradient, index }: { base: Paint; gradient: Gradient; index: number }) {
  const { setGradient } = usePaint(base)
  const { stop: at, set: select } = useSelected(base.gradients)
  const { stops } = gradient
  const stop = stops[at]!
  return (
    <>
      <div role="group" aria-label="Stops" className="flex flex-wrap gap-1.5">
        {stops.map((each, number) => (
          <button
            key={number}
            type="button"
            aria-pressed={number === at}
            aria-label={`Stop ${number + 1}, ${each.color} at ${Math.round(each.at * 100)} %`}
            onClick={() => select({ stop: number })}
            className="size-8 rounded border border-ink/25 aria-pressed:outline-2 aria-pressed:outline-offset-2 aria-pressed:outline-curtain"
            style={{ background: each.color }}
          />
        ))}
        <Button
          disabled={stops.length >= MAX_STOPS}
          className="px-2!"
          aria-label="Add a stop"
          title="Add a stop"
          onClick={() => setGradient(index, addStop(gradient, widestGap(gradient.stops)))}
        >
          <Plus className="size-4" aria-hidden />
        </Button>
        <Button
          disabled={stops.length <= 2}
          className="px-2!"
          aria-label={`Remove stop ${at + 1}`}
          title="Remove this stop"
          onClick={() => setGradient(index, removeStop(gradient, at))}
        >
          <Trash2 className="size-4" aria-hidden />
        </Button>
        <Button
          className="px-2!"
          aria-label="Reverse the colours"
          title="Reverse the colours"
          onClick={() => setGradient(index, reversed(gradient))}
        >
          <Shuffle className="size-4" aria-hidden />
        </Button>
      </div>
      <div className="flex gap-2">
        <ColorField
          label={`Colour of stop ${at + 1}`}
          value={stop.color}
          onChange={(color, gesture) => setGradient(index, colorStop(gradient, at, color), gesture)}
        />
        <div className="w-24">
          <NumberField
            label="Place"
            value={stop.at * 100}
            low={0}
            high={100}
            suffix="%"
            decimals={1}
            onChange={(place) => setGradient(index, moveStop(gradient, at, place / 100))}
          />
        </div>
      </div>
    </>
  )
}

/** The steps of dark gradients, and the texture that hides them. */
function Banding({ base }: { base: Paint }) {
  const { set } = usePaint(base)
  if (base.gradients.length === 0) return null
  const { step, px, isVisible } = bandingOf(base)
  return (
    <Group title="Steps (banding)" aside="on a screen 1920 px wide">
      {step === 0 ? (
        <p className="text-muted">No bands wide enough to be seen.</p>
      ) : (
        <p>
          Largest step: ΔL* {step.toFixed(2)} between bands {px} px wide.{' '}
          <span className="text-muted">Edges are seen from 0.33.</span>
        </p>
      )}
      {isVisible && (
        <Note tone="look">
          Screens have 256 levels: a dark gradient this slow is seen as steps. Dither hides them.
        </Note>
      )}
      <Toggle
        label="Dither"
        note="A fine texture of less than 1 kB over the gradient."
        enabled={base.dither}
        onChange={(dither) => set({ dither })}
      />
    </Group>
  )
}
