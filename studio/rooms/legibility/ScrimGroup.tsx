import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react'
import type { ReactNode } from 'react'
import { scrimImage, scrimStyle } from '../../../core/handoff/layers/scrim'
import {
  addLayer,
  addScrimStop,
  moveLayer,
  moveScrimStop,
  removeLayer,
  removeScrimStop,
} from '../../../core/scrim/editScrim'
import {
  evenLayer,
  MAX_SCRIM_LAYERS,
  MAX_SCRIM_STOPS,
  type ScrimLayer,
  type ScrimStop,
} from '../../../core/scrim/Scrim'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { scrimPartOf, type ScrimPart } from '../../../core/backdrop/scrimOn'
import { measuredKey } from '../../state/contrastStore'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'
import { ColorField } from '../../color/ColorField'
import { Button, Choice, Group, NumberField, Slider, Toggle } from '../../ui/controls'
import { AskedButton } from '../../ui/AskedButton'
import { useAsked } from '../../ui/useAsked'
import type { BenchProps } from '../Room'
import { BLEND_NAMES, BlendPicker } from './BlendPicker'
import { fittedLayer } from './fittedLayer'
import { TextureFields } from './TextureFields'
import { openScrim, useScrim } from './useScrim'
import { weakestScrim, type WeakestLayer } from './weakestScrim'

const SHAPES = { even: 'Even', linear: 'Linear', radial: 'Radial', texture: 'Texture' } as const
const percent = (value: number): string => `${Math.round(value * 100)} %`

/** What lies between background and copy, layer by layer. */
export function ScrimGroup({
  document,
  sources,
  projectId,
}: Pick<BenchProps, 'document' | 'sources' | 'projectId'>) {
  const { part, scrim, index, layer, onStage, set } = useScrim(document)
  const { layers } = scrim
  return (
    <Group title="Scrim" aside="between background and copy">
      <PhoneScrim document={document} />
      {layers.length === 0 && (
        <p className="text-muted">Nothing lies between background and copy.</p>
      )}
      <ol aria-label="Layers, the front one first" className="flex flex-col gap-1">
        {layers
          .map((each, at) => (
            <li key={at}>
              <button
                type="button"
                aria-pressed={at === index}
                className="flex w-full items-center gap-2.5 rounded border border-line bg-white px-2 py-1.5 text-left aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
                title={at === index && onStage ? 'Hide its handles' : 'Show its handles'}
                onClick={() =>
                  openScrim({ layer: at, stop: 0, onStage: !(at === index && onStage) })
                }
              >
                <span
                  aria-hidden
                  className="h-5 w-9 shrink-0 rounded-sm border border-ink/25 bg-white"
                  style={scrimStyle([each])}
                />
                <span className="font-medium">{SHAPES[each.shape]}</span>
                {each.blend !== 'normal' && (
                  <span className="text-xs text-muted">
                    {BLEND_NAMES[each.blend].toLowerCase()}
                  </span>
                )}
                <span className="ml-auto font-mono text-xs text-muted">
                  {percent(each.strength)}
                </span>
              </button>
            </li>
          ))
          .reverse()}
      </ol>
      <div className="flex gap-1.5">
        <Button
          disabled={layers.length >= MAX_SCRIM_LAYERS}
          onClick={() => {
            set(addLayer(scrim))
            openScrim({ layer: layers.length, stop: 0 })
          }}
        >
          <Plus className="size-4" aria-hidden /> Add a layer
        </Button>
        {layer && (
          <>
            <IconButton
              name="Move this layer forward"
              disabled={index === layers.length - 1}
              onClick={() => {
                set(moveLayer(scrim, index, index + 1))
                openScrim({ layer: index + 1 })
              }}
            >
              <ArrowUp className="size-4" aria-hidden />
            </IconButton>
            <IconButton
              name="Move this layer back"
              disabled={index === 0}
              onClick={() => {
                set(moveLayer(scrim, index, index - 1))
                openScrim({ layer: index - 1 })
              }}
            >
              <ArrowDown className="size-4" aria-hidden />
            </IconButton>
            <IconButton
              name="Remove this layer"
              onClick={() => {
                set(removeLayer(scrim, index))
                openScrim({ layer: Math.max(0, index - 1), stop: 0 })
              }}
            >
              <Trash2 className="size-4" aria-hidden />
            </IconButton>
          </>
        )}
      </div>
      {layer && <OpenLayer {...{ document, sources, projectId, layer }} />}
      {layer && (
        // What was found is true for what it was found of.
        <Weakest
          key={`${part} ${index} ${measuredKey(document, sources)}`}
          {...{ document, sources, index }}
        />
      )}
    </Group>
  )
}

/** On which screens a scrim is. */
const screensText = ({ ownScrim }: BackdropDocument, part: ScrimPart): string =>
  part === 'phone' ? 'on phones' : ownScrim.phone ? 'on wider screens' : 'on all screens'

/** Whether phones have a scrim of their own, and which of the two is open: that of the stage. */
function PhoneScrim({ document }: Pick<BenchProps, 'document'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const screen = useStage((state) => state.screen)
  const setScreen = useStage((state) => state.setScreen)
  const isOwn = document.ownScrim.phone !== null
  return (
    <>
      <Toggle
        label="Own scrim on phones"
        note={`In windows up to ${document.weight.breakpoints.phone} px wide. It begins as a copy of the other.`}
        enabled={isOwn}
        onChange={(on) => dispatch({ type: 'scrim/own', scrim: on ? document.scrim : null })}
      />
      {isOwn && (
        <Choice<ScrimPart>
          label="Scrim to edit, as the stage shows it"
          value={scrimPartOf(document, screen)}
          onChange={(part) => setScreen(part === 'phone' ? 'phone' : 'laptop')}
          options={[
            { value: 'phone', label: 'On phones' },
            { value: 'shared', label: 'On wider screens' },
          ]}
        />
      )}
    </>
  )
}

/** The weakest strength at which all copy is read, on request; taken in one step. */
function Weakest({
  document,
  sources,
  index,
}: Pick<BenchProps, 'document' | 'sources'> & { readonly index: number }) {
  const screen = useStage((now) => now.screen)
  const { scrim, part, setLayer } = useScrim(document)
  const { state, ask, stop } = useAsked((signal, tell) =>
    weakestScrim(document, sources, screen, index, signal, (tried) =>
      tell(`Trying ${percent(tried)} …`),
    ),
  )
  const now = scrim.layers[index]!.strength
  const found = state.is === 'done' ? state.found.strength : null
  return (
    <>
      {state.is === 'busy' ? (
        <Button onClick={stop}>{state.told ?? 'Measuring …'} Stop</Button>
      ) : (
        <Button onClick={ask}>Find the weakest strength</Button>
      )}
      {state.is === 'failed' && (
        <p role="alert" className="text-xs text-fix">
          {state.message}
        </p>
      )}
      {state.is === 'done' && (
        <Found {...state.found} now={now} screens={screensText(document, part)} />
      )}
      {found !== null && percent(found) !== percent(now) && (
        <Button tone="accent" onClick={() => setLayer({ strength: found })}>
          Use {percent(found)}
        </Button>
      )}
    </>
  )
}

function Found({
  strength,
  worst,
  failsFrom,
  now,
  screens,
}: WeakestLayer & { readonly now: number; readonly screens: string }) {
  const isNow = strength !== null && percent(strength) === percent(now)
  const text =
    strength === 0
      ? `All copy is read without this layer, ${screens} at all times.`
      : strength !== null
        ? `At ${percent(strength)}${isNow ? ', as it is now,' : ''} all copy that lies on it is read, ${screens} at all times; one percent less is not enough.`
        : worst
          ? `No strength of this layer is enough: ${worst.text.label.toLowerCase()} (${worst.screen}) stays at ${worst.ratio.toFixed(2)} : 1, needs ${worst.text.needed}. Try another shape, colour or position.`
          : 'There is no copy to be read.'
  const more =
    failsFrom === null
      ? ''
      : ` From ${percent(failsFrom)} on copy fails again: more of this layer is not better.`
  return (
    <p role="status" className="text-xs">
      {text}
      {more}
    </p>
  )
}

function IconButton({
  name,
  disabled = false,
  onClick,
  children,
}: {
  name: string
  disabled?: boolean
  onClick: () => void
  children: ReactNode
}) {
  return (
    <Button className="px-2!" aria-label={name} title={name} disabled={disabled} onClick={onClick}>
      {children}
    </Button>
  )
}

function OpenLayer({
  document,
  sources,
  projectId,
  layer,
}: Pick<BenchProps, 'document' | 'sources' | 'projectId'> & { readonly layer: ScrimLayer }) {
  const { scrim, index, setLayer } = useScrim(document)
  const { shape, stops, strength, angleDeg, centre, radius } = layer
  const [first] = stops
  const isTexturedElsewhere = scrim.layers.some(
    (each, at) => at !== index && each.shape === 'texture',
  )
  return (
    <>
      <Choice
        label="Shape"
        hideLabel
        value={shape}
        onChange={(next) => {
          setLayer({ shape: next })
          openScrim({ stop: 0 })
        }}
        options={(Object.keys(SHAPES) as ScrimLayer['shape'][])
          // A scrim has one texture at most.
          .filter((each) => each !== 'texture' || !isTexturedElsewhere)
          .map((each) => ({ value: each, label: SHAPES[each] }))}
      />
      {shape === 'texture' && <TextureFields {...{ document, sources, projectId, layer }} />}
      <BlendPicker scrim={scrim} index={index} onChange={(blend) => setLayer({ blend })} />
      <Slider
        label="Strength"
        value={strength}
        low={0}
        high={1}
        step={0.01}
        shown={percent(strength)}
        onChange={(next, gesture) => setLayer({ strength: next }, gesture)}
      />
      {shape === 'even' || shape === 'texture' ? (
        <ColorField
          label="Colour"
          value={first!.color}
          onChange={(color, gesture) =>
            setLayer({ stops: stops.with(0, { ...first!, color }) }, gesture)
          }
        />
      ) : (
        <Stops document={document} layer={layer} />
      )}
      {shape === 'linear' && (
        <Slider
          label="Angle (0 runs up, 90 to the right)"
          value={angleDeg}
          low={0}
          high={360}
          step={1}
          shown={`${Math.round(angleDeg)}°`}
          onChange={(next, gesture) => setLayer({ angleDeg: next }, gesture)}
        />
      )}
      {(shape === 'linear' || shape === 'radial') && (
        <Fit key={JSON.stringify(layer)} document={document} layer={layer} />
      )}
      {shape === 'radial' && (
        <>
          <div className="flex gap-2">
            <NumberField
              label="Centre across"
              value={centre.x * 100}
              low={0}
              high={100}
              suffix="%"
              onChange={(x) => setLayer({ centre: { ...centre, x: x / 100 } })}
            />
            <NumberField
              label="Centre down"
              value={centre.y * 100}
              low={0}
              high={100}
              suffix="%"
              onChange={(y) => setLayer({ centre: { ...centre, y: y / 100 } })}
            />
          </div>
          <Slider
            label="Radius (of the region)"
            value={radius}
            low={0.1}
            high={2}
            step={0.01}
            shown={percent(radius)}
            onChange={(next, gesture) => setLayer({ radius: next }, gesture)}
          />
        </>
      )}
    </>
  )
}

/** Lays a gradient behind the copy, in one step. */
function Fit({ document, layer }: Pick<BenchProps, 'document'> & { readonly layer: ScrimLayer }) {
  const { part, setLayer } = useScrim(document)
  const asked = useAsked<never>(async (signal) => {
    const fitted = await fittedLayer(document, part, layer)
    if (!fitted) throw new Error('There is no copy to fit it to. Write some on the stage.')
    if (!signal.aborted) setLayer(fitted)
    return undefined
  })
  return <AskedButton asked={asked}>Fit to the copy on all its screens</AskedButton>
}

/** The stops of a gradient; one is open. They are dragged on the stage as well. */
function Stops({ document, layer }: Pick<BenchProps, 'document'> & { readonly layer: ScrimLayer }) {
  const { stop: open, setLayer } = useScrim(document)
  const { stops } = layer
  const stop = stops[open]!
  const change = (fields: Partial<ScrimStop>, gesture: string | null): void =>
    setLayer({ stops: stops.with(open, { ...stop, ...fields }) }, gesture)
  return (
    <>
      <div role="group" aria-label="Stops" className="flex flex-wrap gap-1.5">
        {stops.map((each, number) => (
          <button
            key={number}
            type="button"
            aria-pressed={number === open}
            aria-label={`Stop ${number + 1}, ${each.color}, ${percent(each.strength)} strong at ${percent(each.at)}`}
            onClick={() => openScrim({ stop: number })}
            className="size-8 rounded border border-ink/25 aria-pressed:outline-2 aria-pressed:outline-offset-2 aria-pressed:outline-curtain"
            style={{
              background: `${scrimImage([evenLayer(each.color, each.strength)])}, #fff`,
            }}
          />
        ))}
        <IconButton
          name="Add a stop"
          disabled={stops.length >= MAX_SCRIM_STOPS}
          onClick={() => setLayer(addScrimStop(layer))}
        >
          <Plus className="size-4" aria-hidden />
        </IconButton>
        <IconButton
          name={`Remove stop ${open + 1}`}
          disabled={stops.length <= 2}
          onClick={() => setLayer(removeScrimStop(layer, open))}
        >
          <Trash2 className="size-4" aria-hidden />
        </IconButton>
      </div>
      <div className="flex gap-2">
        <ColorField
          label={`Colour of stop ${open + 1}`}
          value={stop.color}
          onChange={(color, gesture) => change({ color }, gesture)}
        />
        <div className="w-24">
          <NumberField
            label="Place"
            value={stop.at * 100}
            low={0}
            high={100}
            suffix="%"
            decimals={1}
            onChange={(place) => setLayer(moveScrimStop(layer, open, place / 100))}
          />
        </div>
      </div>
      <Slider
        label={`Strength of stop ${open + 1}, of the layer’s`}
        value={stop.strength}
        low={0}
        high={1}
        step={0.01}
        shown={percent(stop.strength)}
        onChange={(strength, gesture) => change({ strength }, gesture)}
      />
    </>
  )
}
