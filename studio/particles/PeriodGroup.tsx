import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { particlesOf } from '../../core/backdrop/delivered'
import { kindOf } from '../../core/kinds'
import type { Particles } from '../../core/particles/Particles'
import { useBackdrop } from '../state/backdropStore'
import { Choice, Group, NumberField } from '../ui/controls'
import { useParticles } from './useParticles'

/** How long particles take until they are as at the beginning, and how often they are drawn. */
export function PeriodGroup({
  document,
  particles,
}: {
  document: BackdropDocument
  particles: Particles
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { define } = useParticles(particles.definition)
  const turn = kindOf(document.base).motion(document.base)?.turnSeconds ?? null
  const period = particlesOf(document)!.period
  const seconds = (value: number): string => `${Math.round(value * 100) / 100} s`
  return (
    <Group title="Particles" aside={`period ${seconds(period)}`}>
      {turn !== null && (
        <Choice
          label={`Their period, over ${seconds(turn)} of the base`}
          value={particles.follows}
          onChange={(follows) => dispatch({ type: 'particles/show', show: { follows } })}
          options={[
            { value: 'whole', label: 'Equal' },
            { value: 'half', label: 'Half' },
            { value: 'third', label: 'Third' },
            { value: 'own', label: 'Own' },
          ]}
        />
      )}
      {(turn === null || particles.follows === 'own') && (
        <NumberField
          label="Period"
          value={particles.definition.period}
          low={2}
          high={120}
          suffix="s"
          decimals={2}
          onChange={(next) => define({ period: next })}
        />
      )}
      <Choice
        label="Frames a second"
        value={String(particles.frameRate) as '30' | '60'}
        onChange={(rate) =>
          dispatch({ type: 'particles/show', show: { frameRate: rate === '60' ? 60 : 30 } })
        }
        options={[
          { value: '30', label: '30', note: 'calm motion needs no more' },
          { value: '60', label: '60', note: 'twice the cost' },
        ]}
      />
      <p className="text-xs text-muted">
        After a period everything is where it was, so it never jumps. Speeds stay about the same:
        what crosses the screen does so a whole number of times.
      </p>
    </Group>
  )
}
