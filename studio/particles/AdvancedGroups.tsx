import { MAX_LINKS, SHAPES, type Definition, type Shape } from '../../core/particles/Definition'
import { ColorField } from '../color/ColorField'
import { Choice, Group, NumberField, Slider, Toggle } from '../ui/controls'
import { RangeFields } from './RangeFields'
import { useParticles } from './useParticles'

const FIRST_LINKS = { distance: 120, most: 3, width: 1, opacity: 0.6, filled: false } as const
const FIRST_BAND = { edge: 'bottom', from: 0, to: 0.6, soft: 0.3 } as const

const percent = (value: number): string => `${Math.round(value * 100)} %`

/** Everything in a definition that the first groups leave out. */
export function AdvancedGroups({ definition }: { definition: Definition }) {
  return (
    <>
      <ShapesGroup definition={definition} />
      <BandGroup definition={definition} />
      <LinksGroup definition={definition} />
      <TimesGroup definition={definition} />
      <ColouringGroup definition={definition} />
    </>
  )
}

/** Which shapes, and how often each. */
function ShapesGroup({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { shapes } = definition
  const set = (shape: Shape, weight: number, gesture: string): void => {
    const others = shapes.filter((each) => each.shape !== shape)
    // One shape stays: of nothing there is nothing to see.
    if (weight === 0 && others.length === 0) return
    const next = weight > 0 ? [...others, { shape, weight }] : others
    define(
      {
        shapes: [...SHAPES, undefined].flatMap((each) =>
          next.filter((entry) => entry.shape === each),
        ),
      },
      gesture,
    )
  }
  return (
    <Group title="Shapes" aside="how often each is drawn">
      {SHAPES.map((shape) => {
        const weight = shapes.find((each) => each.shape === shape)?.weight ?? 0
        return (
          <Slider
            key={shape}
            label={shape}
            value={weight}
            low={0}
            high={Math.max(10, weight)}
            step={1}
            shown={weight === 0 ? 'never' : String(weight)}
            onChange={(next, gesture) => set(shape, next, gesture)}
          />
        )
      })}
    </Group>
  )
}

/** Where elements are seen. */
function BandGroup({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { where } = definition
  const set = (
    fields: Partial<NonNullable<Definition['where']>>,
    gesture: string | null = null,
  ): void => define({ where: { ...(where ?? FIRST_BAND), ...fields } }, gesture)
  return (
    <Group title="Where" aside={where ? 'its ends are dragged on the stage' : undefined}>
      <Toggle
        label="Only in a band"
        note="From one edge; else everywhere."
        enabled={where !== null}
        onChange={(on) => define({ where: on ? FIRST_BAND : null })}
      />
      {where && (
        <>
          <Choice
            label="From the edge"
            value={where.edge}
            onChange={(edge) => set({ edge })}
            options={[
              { value: 'top', label: 'Top' },
              { value: 'right', label: 'Right' },
              { value: 'bottom', label: 'Bottom' },
              { value: 'left', label: 'Left' },
            ]}
          />
          <RangeFields
            names={['Begins', 'Ends']}
            value={where}
            low={0}
            high={1}
            step={0.01}
            show={percent}
            onChange={({ from, to }, gesture) => set({ from, to }, gesture)}
          />
          <Slider
            label="Softness of its ends"
            value={where.soft}
            low={0}
            high={1}
            step={0.05}
            shown={percent(where.soft)}
            onChange={(soft, gesture) => set({ soft }, gesture)}
          />
        </>
      )}
    </Group>
  )
}

/** Lines between near elements. */
function LinksGroup({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { links } = definition
  const set = (
    fields: Partial<NonNullable<Definition['links']>>,
    gesture: string | null = null,
  ): void => define({ links: { ...(links ?? FIRST_LINKS), ...fields } }, gesture)
  return (
    <Group title="Links">
      <Toggle
        label="Lines between near elements"
        enabled={links !== null}
        onChange={(on) => define({ links: on ? FIRST_LINKS : null })}
      />
      {links && (
        <>
          <Slider
            label="Longest"
            value={links.distance}
            low={4}
            high={400}
            step={2}
            shown={`${links.distance} px`}
            onChange={(distance, gesture) => set({ distance }, gesture)}
          />
          <Slider
            label="Of one element at most"
            value={links.most}
            low={1}
            high={MAX_LINKS}
            step={1}
            shown={String(links.most)}
            onChange={(most, gesture) => set({ most }, gesture)}
          />
          <Slider
            label="Width"
            value={links.width}
            low={0.25}
            high={8}
            step={0.25}
            shown={`${links.width} px`}
            onChange={(width, gesture) => set({ width }, gesture)}
          />
          <Slider
            label="Strength"
            value={links.opacity}
            low={0}
            high={1}
            step={0.05}
            shown={percent(links.opacity)}
            onChange={(opacity, gesture) => set({ opacity }, gesture)}
          />
          <Toggle
            label="Fill closed shapes"
            enabled={links.filled}
            onChange={(filled) => set({ filled })}
          />
        </>
      )}
    </Group>
  )
}

/** How long things take, and what happens within a life. */
function TimesGroup({ definition }: { definition: Definition }) {
  const { define, move } = useParticles(definition)
  const { life, sway, wander, twinkle, spin, rise, swell } = definition.motion
  return (
    <Group title="Times and turns" aside="all in whole rounds of the period">
      <NumberField
        label="Own period"
        value={definition.period}
        low={2}
        high={120}
        suffix="s"
        decimals={2}
        onChange={(period) => define({ period })}
      />
      <NumberField
        label="A life of slow ones"
        value={life}
        low={0.5}
        high={120}
        suffix="s"
        decimals={2}
        onChange={(next) => move({ life: next })}
      />
      {sway && (
        <NumberField
          label="Swaying to and fro"
          value={sway.seconds}
          low={0.5}
          high={120}
          suffix="s"
          decimals={2}
          onChange={(seconds) => move({ sway: { ...sway, seconds } })}
        />
      )}
      {wander && (
        <NumberField
          label="A round of wandering"
          value={wander.seconds}
          low={0.5}
          high={120}
          suffix="s"
          decimals={2}
          onChange={(seconds) => move({ wander: { ...wander, seconds } })}
        />
      )}
      {twinkle && (
        <NumberField
          label="From bright to bright"
          value={twinkle.seconds}
          low={0.5}
          high={60}
          suffix="s"
          decimals={2}
          onChange={(seconds) => move({ twinkle: { ...twinkle, seconds } })}
        />
      )}
      <RangeFields
        names={['Slowest spin', 'Fastest spin']}
        value={spin}
        low={-60}
        high={60}
        step={1}
        show={(value) => `${value} turns a minute`}
        onChange={(next, gesture) => move({ spin: next }, gesture)}
      />
      <Slider
        label="Thrown up, and down again"
        value={rise}
        low={-400}
        high={400}
        step={5}
        shown={`${rise} px`}
        onChange={(next, gesture) => move({ rise: next }, gesture)}
      />
      <Slider
        label="Growing to the middle of a life"
        value={swell}
        low={0}
        high={1}
        step={0.02}
        shown={percent(swell)}
        onChange={(next, gesture) => move({ swell: next }, gesture)}
      />
    </Group>
  )
}

/** Which element has which colour, and what is in the middle of lights. */
function ColouringGroup({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { colours, most } = definition
  return (
    <Group title="Colouring and limit">
      <Choice
        label="Colours go by"
        value={colours.by}
        onChange={(by) => define({ colours: { ...colours, by } })}
        options={[
          { value: 'random', label: 'Chance' },
          { value: 'depth', label: 'Depth' },
          { value: 'age', label: 'Age' },
        ]}
      />
      <Toggle
        label="Another colour in the middle"
        note="Of glows and stars: light is brighter than its colour."
        enabled={colours.core !== null}
        onChange={(on) => define({ colours: { ...colours, core: on ? '#ffffff' : null } })}
      />
      {colours.core !== null && (
        <ColorField
          label="In the middle"
          value={colours.core}
          onChange={(core, gesture) => define({ colours: { ...colours, core } }, gesture)}
        />
      )}
      <NumberField
        label="Elements at most"
        value={most}
        low={1}
        high={2000}
        onChange={(next) => define({ most: next })}
      />
    </Group>
  )
}
