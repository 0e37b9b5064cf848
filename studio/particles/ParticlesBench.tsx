import { Dices, RotateCcw } from 'lucide-react'
import { elementCount } from '../../core/particles/elements'
import { MAX_ELEMENTS, type Definition } from '../../core/particles/Definition'
import type { Particles } from '../../core/particles/Particles'
import { prepare } from '../../core/particles/prepare'
import { styleOf, STYLES } from '../../core/particles/styles'
import { regionHeightPx } from '../../core/fit/cover'
import { SCREENS } from '../../core/fit/screens'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { renderHindrance } from '../../core/backdrop/delivered'
import type { BenchProps } from '../rooms/Room'
import { useBackdrop } from '../state/backdropStore'
import { useStage } from '../state/stageStore'
import { Button, Choice, Group, Note, Slider, Toggle } from '../ui/controls'
import { AdvancedGroups } from './AdvancedGroups'
import { LookGroups } from './LookGroups'
import { MotionGroup } from './MotionGroup'
import { useParticleView } from './particleView'
import { SpriteGroup } from './SpriteGroup'
import { StylePicker } from './StylePicker'
import { useParticles } from './useParticles'

/** Particles over the base: which style, and what is changed of it. */
export function ParticlesBench({ document, projectId }: BenchProps) {
  const { particles } = document
  return (
    <>
      <Group title="Particles" aside={`${STYLES.length} styles, or your own`}>
        <StylePicker particles={particles} />
      </Group>
      {particles && <Controls document={document} particles={particles} projectId={projectId} />}
    </>
  )
}

/** The region's size on the stage's screen, in CSS pixels. */
export function useArea({ fit }: BackdropDocument): { width: number; height: number } {
  const screen = SCREENS[useStage((state) => state.screen)]
  const grown = useStage((state) => state.regionHeight)
  const height = grown ?? regionHeightPx(fit.height, screen.height)
  return { width: screen.width, height: fit.scope === 'page' ? screen.height : height }
}

/** Decisions in the order in which designers take them. */
function Controls({
  document,
  particles,
  projectId,
}: {
  document: BackdropDocument
  particles: Particles
  projectId: string
}) {
  const { definition } = particles
  const { advanced, set } = useParticleView()
  return (
    <>
      <CountGroup document={document} particles={particles} />
      <LookGroups definition={definition} />
      <SpriteGroup definition={definition} projectId={projectId} />
      <MotionGroup definition={definition} />
      <PointerGroup definition={definition} />
      <FormGroup document={document} />
      <Group title="All settings">
        <Toggle
          label="Show all settings"
          note="Everything in the definition. As text it is in the deck below."
          enabled={advanced}
          onChange={(next) => set({ advanced: next })}
        />
      </Group>
      {advanced && <AdvancedGroups definition={definition} />}
    </>
  )
}

/** How many are drawn on the stage's screen: the designer thinks of those, not of a density. */
function CountGroup({ document, particles }: { document: BackdropDocument; particles: Particles }) {
  const { definition, style } = particles
  const dispatch = useBackdrop((state) => state.dispatch)
  const { define } = useParticles(definition)
  const area = useArea(document)
  const megapixels = (area.width * area.height) / 1e6
  const count = elementCount(prepare(definition), area)
  const begun = styleOf(style)
  const isChanged = begun && JSON.stringify(begun.definition) !== JSON.stringify(definition)
  const isCut = definition.perMegapixel * megapixels > definition.most
  return (
    <Group title="Count" aside={`on this screen, ${area.width} × ${Math.round(area.height)}`}>
      <Slider
        label="Elements"
        value={Math.round(Math.sqrt(count) * 10) / 10}
        low={1}
        high={Math.ceil(Math.sqrt(MAX_ELEMENTS))}
        step={0.1}
        shown={`${count}`}
        onChange={(root, gesture) => {
          const wanted = Math.min(MAX_ELEMENTS, Math.max(1, Math.round(root * root)))
          const perMegapixel = Math.min(4000, Math.max(0.5, wanted / megapixels))
          define(
            {
              perMegapixel: Math.round(perMegapixel * 10) / 10,
              most: Math.min(MAX_ELEMENTS, Math.max(definition.most, wanted)),
            },
            gesture,
          )
        }}
      />
      <p className="text-xs text-muted">
        {definition.perMegapixel} in an area of 1000 × 1000 px, {definition.most} at most.
        {isCut && ' This screen would have more: the limit holds them back.'}
      </p>
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => define({ seed: newSeed() })}>
          <Dices className="size-4" aria-hidden />
          New seed
        </Button>
        {isChanged && (
          <Button
            onClick={() =>
              dispatch({
                type: 'particles/set',
                particles: { ...particles, definition: begun.definition },
              })
            }
          >
            <RotateCcw className="size-4" aria-hidden />
            As in the style
          </Button>
        )}
      </div>
    </Group>
  )
}

const newSeed = (): number => crypto.getRandomValues(new Uint32Array(1))[0]! >>> 1

/** Whether they are drawn live or rendered; the deck tells what speaks for either. */
function FormGroup({ document }: { document: BackdropDocument }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { set } = useParticleView()
  const asked = document.particles!.form
  const hindrance = renderHindrance(document.base)
  return (
    <Group title="Delivered">
      <Choice
        label="How particles are delivered"
        hideLabel
        value={asked}
        onChange={(form) => dispatch({ type: 'particles/show', show: { form } })}
        options={[
          { value: 'live', label: 'Live' },
          { value: 'rendered', label: 'As one clip' },
        ]}
      />
      {asked === 'rendered' && hindrance && (
        <Note tone="look">{hindrance} Until then they are delivered live.</Note>
      )}
      <Button onClick={() => set({ deck: 'form' })}>Compare both</Button>
    </Group>
  )
}

const REACTIONS = [
  { value: 'none', label: 'None' },
  { value: 'part', label: 'Part' },
  { value: 'gather', label: 'Gather' },
  { value: 'brighten', label: 'Light' },
  { value: 'link', label: 'Link' },
] as const

/** What a mouse does; it can be tried on the stage. */
function PointerGroup({ definition }: { definition: Definition }) {
  const { define } = useParticles(definition)
  const { pointer } = definition
  const change = (
    fields: Partial<NonNullable<Definition['pointer']>>,
    gesture: string | null = null,
  ): void => define({ pointer: { ...FIRST_POINTER, ...pointer, ...fields } }, gesture)
  return (
    <Group title="Pointer" aside="try it on the stage">
      <Choice
        label="What a mouse does"
        hideLabel
        value={pointer?.reaction ?? 'none'}
        onChange={(reaction) =>
          reaction === 'none' ? define({ pointer: null }) : change({ reaction })
        }
        options={REACTIONS}
      />
      {pointer && (
        <>
          <Slider
            label="Reach"
            value={pointer.radius}
            low={20}
            high={600}
            step={10}
            shown={`${pointer.radius} px`}
            onChange={(radius, gesture) => change({ radius }, gesture)}
          />
          <Slider
            label="Strength"
            value={pointer.strength}
            low={0}
            high={1}
            step={0.05}
            shown={`${Math.round(pointer.strength * 100)} %`}
            onChange={(strength, gesture) => change({ strength }, gesture)}
          />
        </>
      )}
      {pointer?.reaction === 'link' && !definition.links && (
        <Note tone="look">
          There are no links that could reach the pointer. Switch links on under all settings.
        </Note>
      )}
      <p className="text-xs text-muted">Nothing happens by touch: fingers scroll the page.</p>
    </Group>
  )
}

const FIRST_POINTER = { reaction: 'part', radius: 140, strength: 0.6 } as const
