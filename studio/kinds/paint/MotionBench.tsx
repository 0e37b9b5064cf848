import { paintCost, playedCostWords } from '../../../core/behaviour/playedCost'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { FIRST_MOTION, PAINT_SECONDS, type PaintMotion } from '../../../core/kinds/paint/Paint'
import { Choice, Group, Slider, Toggle } from '../../ui/controls'
import { usePaint } from './usePaint'

/** Slow motion of a paint. */
export function MotionBench({ document: { base } }: { document: DocumentOf<'paint'> }) {
  const { set } = usePaint(base)
  const { motion, gradients } = base
  const change = (fields: Partial<PaintMotion>, gesture: string | null = null): void =>
    set({ motion: { ...(motion ?? FIRST_MOTION), ...fields } }, gesture)
  if (gradients.length === 0)
    return (
      <Group title="Slow motion">
        <p className="text-muted">
          An even colour cannot be seen to move. Add a gradient under Paint first.
        </p>
      </Group>
    )
  return (
    <Group title="Slow motion">
      <Toggle
        label="Slow motion"
        note="There and back, by style alone. It stands still for visitors who ask for reduced motion."
        enabled={motion !== null}
        onChange={(on) => set({ motion: on ? FIRST_MOTION : null })}
      />
      {motion && (
        <>
          <Choice
            label="What moves"
            value={motion.moves}
            onChange={(moves) => change({ moves })}
            options={[
              { value: 'angle', label: 'Angle', note: 'turns' },
              { value: 'centre', label: 'Centre', note: 'drifts' },
              { value: 'stops', label: 'Stops', note: 'spread' },
            ]}
          />
          <Slider
            label="How far"
            value={motion.amount}
            low={0.05}
            high={1}
            step={0.05}
            shown={`${Math.round(motion.amount * 100)} %`}
            onChange={(amount, gesture) =>
              change({ amount: Math.round(amount * 100) / 100 }, gesture)
            }
          />
          <Slider
            label="There and back"
            value={motion.seconds}
            low={PAINT_SECONDS.min}
            high={PAINT_SECONDS.max}
            step={1}
            shown={`${motion.seconds} s`}
            onChange={(seconds, gesture) => change({ seconds }, gesture)}
          />
          <p className="text-xs text-muted">{playedCostWords(paintCost(base))}</p>
        </>
      )}
    </Group>
  )
}
