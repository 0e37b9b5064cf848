import { useState } from 'react'
import { textureBytes } from '../../../core/handoff/layers/texture'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { playedCost, TEXTURE_COST } from '../../../core/scrim/blendCost'
import { withLayer, type ScrimLayer } from '../../../core/scrim/Scrim'
import { maskingOf, TYPICAL_ERROR } from '../../../core/scrim/masking'
import {
  LINE_ANGLES,
  isAngled,
  lineAngle,
  meanCoverage,
  tileOfTexture,
} from '../../../core/texture/patterns'
import { MAX_TILE_SIDE, PATTERNS, type Pattern, type Texture } from '../../../core/texture/Texture'
import { tileFromPixels } from '../../../core/texture/tileFromPixels'
import { Told } from '../../color/ColorField'
import { measuredKey } from '../../state/contrastStore'
import { useStage } from '../../state/stageStore'
import { AddImage } from '../../shelf/AddImage'
import type { LoadedImage } from '../../shelf/loadImage'
import { AskedButton } from '../../ui/AskedButton'
import { Choice, Slider } from '../../ui/controls'
import { formatBytes } from '../../ui/format'
import { useAsked } from '../../ui/useAsked'
import type { BenchProps } from '../Room'
import { Seen } from './BlendPicker'
import { textureContrasts, type Offered } from './textureContrasts'
import { useScrim } from './useScrim'
import { useStagePicture, type StagePicture } from './useStagePicture'

const NAMES: Readonly<Record<Pattern, string>> = {
  lines: 'Lines',
  'scan-lines': 'Scan lines',
  hairline: 'Hairline',
  dots: 'Dots',
  checks: 'Checks',
  weave: 'Weave',
  grain: 'Grain',
  paper: 'Paper',
  own: 'From the shelf',
}

const ANGLE_NAMES: Readonly<Record<(typeof LINE_ANGLES)[number], string>> = {
  0: 'Upright',
  45: 'Rising',
  90: 'Level',
  135: 'Falling',
}

/** Where the middle of the errors of a playing file is taken, if the stage shows no picture. */
const MIDDLE = { r: 128, g: 128, b: 128 }

type Found = ReadonlyMap<Offered, WorstMoment | null>

/** What a texture is of: its pattern, how large it is, and what it does. */
export function TextureFields({
  document,
  sources,
  projectId,
  layer,
}: Pick<BenchProps, 'document' | 'sources' | 'projectId'> & { readonly layer: ScrimLayer }) {
  const { scrim, part, index, setLayer } = useScrim(document)
  const picture = useStagePicture()
  const { texture, angleDeg } = layer
  const set = (fields: Partial<Texture>, gesture: string | null = null): void =>
    setLayer({ texture: { ...texture, ...fields } }, gesture)
  const offered: readonly Pattern[] = texture.tile ? [...PATTERNS, 'own'] : PATTERNS
  const { found, asked } = useContrasts(document, sources, index, offered)
  return (
    <>
      <div role="group" aria-label="Pattern" className="grid grid-cols-3 gap-1.5">
        {offered.map((pattern) => {
          const own = pattern === 'own' ? texture.tile : null
          const shown: ScrimLayer = {
            ...layer,
            texture: { pattern, scale: texture.scale, tile: own },
          }
          return (
            <PatternButton
              key={pattern}
              isChosen={texture.pattern === pattern}
              name={NAMES[pattern]}
              layer={shown}
              scrim={withLayer(scrim, index, shown)}
              picture={picture}
              worst={found.get(pattern) ?? null}
              onTake={() => set({ pattern, tile: own })}
            />
          )
        })}
      </div>
      <AskedButton key={`${part} ${index}`} asked={asked}>
        Measure copy with each pattern
      </AskedButton>
      {found.has('none') && <Without worst={found.get('none')!} />}
      <AddImage
        projectId={projectId}
        label={texture.tile ? 'Another tile from the shelf' : 'A tile from the shelf'}
        emptyText="An image on the shelf can be a pattern as well: a small tile whose edges meet."
        make={tileOf}
        onAdd={(tile) => set({ pattern: 'own', tile })}
      />
      {isAngled(texture.pattern) && (
        <Choice
          label="Angle"
          value={String(lineAngle(angleDeg))}
          onChange={(angle) => setLayer({ angleDeg: Number(angle) })}
          options={LINE_ANGLES.map((angle) => ({
            value: String(angle),
            label: ANGLE_NAMES[angle],
          }))}
        />
      )}
      <Slider
        label="Scale (device pixels for each of its pixels)"
        value={texture.scale}
        low={1}
        high={8}
        step={1}
        shown={`${texture.scale} px`}
        onChange={(scale, gesture) => set({ scale }, gesture)}
      />
      <Effects layer={layer} ground={picture?.mean ?? null} />
    </>
  )
}

/** The least contrast with each pattern, on request; gone when what it depends on changes. */
function useContrasts(
  document: BenchProps['document'],
  sources: BenchProps['sources'],
  index: number,
  patterns: readonly Pattern[],
) {
  const screen = useStage((state) => state.screen)
  const key = `${screen} ${index} ${measuredKey(document, sources)}`
  const [state, setState] = useState<{ readonly key: string; readonly found: Found }>({
    key,
    found: new Map(),
  })
  const asked = useAsked<never>(async (signal, tell) => {
    const found = new Map<Offered, WorstMoment | null>()
    const isMeasured = await textureContrasts(
      document,
      sources,
      screen,
      index,
      patterns,
      signal,
      (offered, worst) => {
        found.set(offered, worst)
        tell(`Measuring, ${found.size} of ${patterns.length + 1}`)
        if (!signal.aborted) setState({ key, found: new Map(found) })
      },
    )
    if (!isMeasured) throw new Error('The frames cannot be measured here.')
    return undefined
  })
  return { found: state.key === key ? state.found : (new Map() as Found), asked }
}

function PatternButton({
  isChosen,
  name,
  layer,
  scrim,
  picture,
  worst,
  onTake,
}: {
  readonly isChosen: boolean
  readonly name: string
  readonly layer: ScrimLayer
  readonly scrim: Parameters<typeof Seen>[0]['scrim']
  readonly picture: StagePicture | null
  readonly worst: WorstMoment | null
  readonly onTake: () => void
}) {
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      onClick={onTake}
      className="overflow-hidden rounded border border-line bg-white text-left aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
    >
      <Seen scrim={scrim} picture={picture} />
      <span className="block truncate px-1.5 pt-0.5 text-xs">{name}</span>
      <span className="block truncate px-1.5 pb-0.5 font-mono text-[0.68rem] text-muted">
        {worst ? <Ratio worst={worst} /> : formatBytes(textureBytes(layer))}
      </span>
    </button>
  )
}

/** The worst of all copy, in short. */
const Ratio = ({ worst: { ratio, text } }: { readonly worst: WorstMoment }) => (
  <Told told={{ ratio, needed: text.needed }} />
)

function Without({ worst }: { readonly worst: WorstMoment | null }) {
  return (
    <p role="status" className="text-xs">
      {worst ? (
        <>
          The least of all copy with each pattern; without this layer it is <Ratio worst={worst} />{' '}
          ({worst.text.label.toLowerCase()}, needs {worst.text.needed}).
        </>
      ) : (
        'There is no copy to be read.'
      )}
    </p>
  )
}

/** What the texture covers, takes and hides. */
function Effects({
  layer,
  ground,
}: {
  readonly layer: ScrimLayer
  readonly ground: StagePicture['mean']
}) {
  const { texture, angleDeg, strength } = layer
  const covered = meanCoverage(tileOfTexture(texture, angleDeg))
  const { left, pattern } = maskingOf(layer, ground ?? MIDDLE)
  const percent = (value: number): string => `${Math.round(value * 100)}\u00a0%`
  const error = Math.round(TYPICAL_ERROR)
  const cost = `CPU ${(layer.blend === 'normal' ? TEXTURE_COST : playedCost(layer.blend)).toFixed(1)} of a playing clip alone`
  return (
    <p className="text-xs text-muted">
      Covers {percent(covered)} of the pixels, at {percent(strength)}: as strong as an even layer of{' '}
      {percent(covered * strength)} where it is finer than 4 px. {formatBytes(textureBytes(layer))}{' '}
      in the style, no file; {cost}. Errors of compression (±{error} of 255 in a file of 38 dB) are
      seen {left <= 1 ? `${percent(1 - left)} weaker` : `${percent(left - 1)} stronger`}, under a
      pattern of ±{Math.round(pattern)}.
    </p>
  )
}

/** A tile of an image. Throws an Error with what to do where there is nothing to repeat. */
function tileOf({ image, size }: LoadedImage) {
  const factor = Math.min(1, MAX_TILE_SIDE / Math.max(size.width, size.height))
  const [width, height] = [size.width, size.height].map((side) =>
    Math.max(1, Math.round(side * factor)),
  )
  const context = new OffscreenCanvas(width!, height!).getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.drawImage(image, 0, 0, width!, height!)
  const { data } = context.getImageData(0, 0, width!, height!)
  const tile = tileFromPixels(data, width!, height!)
  if (!tile)
    throw new Error(
      'This image is the same everywhere, so there is nothing to repeat. Choose one with a pattern.',
    )
  return tile
}
