import type { Definition } from '../../core/particles/Definition'
import { Group, Slider } from '../ui/controls'
import { RangeFields } from './RangeFields'
import { useParticles } from './useParticles'

/** What swings is given when it is first moved, in seconds. */
const FIRST_SECONDS = { sway: 5, wander: 9, twinkle: 2 } as const

const COMPASS = ['up', 'up right', 'right', 'down right', 'down', 'down left', 'left', 'up left']
const wordsOf = (degrees: number): string => COMPASS[Math.round(degrees / 45) % 8]!

/** Where elements go, how fast, and how irregularly. */
export function MotionGroup({ definition }: { definition: Definition }) {
  const { move } = useParticles(definition)
  const { direction, spread, speed, sway, wander, twinkle } = definition.motion
  return (
    <Group title="Motion" aside="the arrow on the stage sets direction and speed">
      <Slider
        label="Direction"
        value={direction}
        low={0}
        high={360}
        step={1}
        shown={`${Math.round(direction)}°, ${wordsOf(direction)}`}
        onChange={(next, gesture) => move({ direction: next }, gesture)}
      />
      <Slider
        label="Spread of directions"
        value={spread}
        low={0}
        high={360}
        step={1}
        shown={`${Math.round(spread)}°`}
        onChange={(next, gesture) => move({ spread: next }, gesture)}
      />
      <RangeFields
        names={['Slowest', 'Fastest']}
        value={speed}
        low={0}
        high={speed.to > 300 ? 2000 : 300}
        step={1}
        show={(value) => `${Math.round(value)} px/s`}
        onChange={(next, gesture) => move({ speed: next }, gesture)}
      />
      <Slider
        label="Sway"
        value={sway?.distance ?? 0}
        low={0}
        high={200}
        step={1}
        shown={sway ? `${Math.round(sway.distance)} px` : 'none'}
        onChange={(distance, gesture) =>
          move(
            {
              sway: distance > 0 ? { seconds: FIRST_SECONDS.sway, ...sway, distance } : null,
            },
            gesture,
          )
        }
      />
      <Slider
        label="Wandering"
        value={wander?.distance ?? 0}
        low={0}
        high={300}
        step={1}
        shown={wander ? `${Math.round(wander.distance)} px` : 'none'}
        onChange={(distance, gesture) =>
          move(
            {
              wander: distance > 0 ? { seconds: FIRST_SECONDS.wander, ...wander, distance } : null,
            },
            gesture,
          )
        }
      />
      <Slider
        label="Twinkling"
        value={twinkle?.amount ?? 0}
        low={0}
        high={1}
        step={0.02}
        shown={twinkle ? `${Math.round(twinkle.amount * 100)} %` : 'none'}
        onChange={(amount, gesture) =>
          move(
            {
              twinkle: amount > 0 ? { seconds: FIRST_SECONDS.twinkle, ...twinkle, amount } : null,
            },
            gesture,
          )
        }
      />
    </Group>
  )
}
