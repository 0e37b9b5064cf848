import { Plus, X } from 'lucide-react'
import type { Definition } from '../../core/particles/Definition'
import { ColorField } from '../color/ColorField'
import { Button, Choice, Group, Slider } from '../ui/controls'
import { RangeFields } from './RangeFields'
import { useParticles } from './useParticles'

const MAX_COLOURS = 12
const percent = (value: number): string => `${Math.round(value * 100)} %`

/** Size, colours and depth. */
export function LookGroups({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { depth, opacity, size, blend } = definition
  const deepen = (fields: Partial<Definition['depth']>, gesture: string | null = null): void =>
    define({ depth: { ...depth, ...fields } }, gesture)
  return (
    <>
      <Group title="Size and colour">
        <RangeFields
          names={['Smallest', 'Largest']}
          value={size}
          low={0.5}
          high={definition.size.to > 200 ? 800 : 200}
          step={0.5}
          show={(value) => `${value} px`}
          onChange={(next, gesture) => define({ size: next }, gesture)}
        />
        <RangeFields
          names={['Faintest', 'Strongest']}
          value={opacity}
          low={0}
          high={1}
          step={0.01}
          show={percent}
          onChange={(next, gesture) => define({ opacity: next }, gesture)}
        />
        <Palette definition={definition} />
        <Choice
          label="Blending"
          value={blend}
          onChange={(next) => define({ blend: next })}
          options={[
            { value: 'normal', label: 'Normal', note: 'covers' },
            { value: 'add', label: 'Add', note: 'overlaps are brighter' },
          ]}
        />
      </Group>
      <Group title="Depth" aside="near ones are larger, faster, softer">
        <Slider
          label="Planes"
          value={depth.planes}
          low={1}
          high={6}
          step={1}
          shown={String(depth.planes)}
          onChange={(planes, gesture) => deepen({ planes }, gesture)}
        />
        {depth.planes > 1 && (
          <>
            <Slider
              label="Far ones smaller by"
              value={depth.size}
              low={0}
              high={1}
              step={0.02}
              shown={percent(depth.size)}
              onChange={(value, gesture) => deepen({ size: value }, gesture)}
            />
            <Slider
              label="Far ones slower by"
              value={depth.speed}
              low={0}
              high={1}
              step={0.02}
              shown={percent(depth.speed)}
              onChange={(value, gesture) => deepen({ speed: value }, gesture)}
            />
          </>
        )}
        <Slider
          label="Near ones out of focus"
          value={depth.softness}
          low={0}
          high={1}
          step={0.05}
          shown={percent(depth.softness)}
          onChange={(value, gesture) => deepen({ softness: value }, gesture)}
        />
      </Group>
    </>
  )
}

/** The colours with their weights. */
function Palette({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { colours } = definition
  const { palette } = colours
  const set = (next: typeof palette, gesture: string | null = null): void =>
    define({ colours: { ...colours, palette: next } }, gesture)
  return (
    <div role="group" aria-label="Colours" className="flex flex-col gap-1.5">
      {palette.map(({ colour, weight }, index) => (
        <div key={index} className="flex items-center gap-1">
          <ColorField
            label={`Colour ${index + 1}`}
            value={colour}
            onChange={(next, gesture) =>
              set(palette.with(index, { colour: next, weight }), gesture)
            }
          />
          <Button
            tone="quiet"
            className="px-1.5!"
            disabled={palette.length === 1}
            aria-label={`Take colour ${index + 1} away`}
            onClick={() => set(palette.toSpliced(index, 1))}
          >
            <X className="size-4" aria-hidden />
          </Button>
        </div>
      ))}
      {palette.length < MAX_COLOURS && (
        <Button onClick={() => set([...palette, palette[palette.length - 1]!])}>
          <Plus className="size-4" aria-hidden />
          Add a colour
        </Button>
      )}
    </div>
  )
}
