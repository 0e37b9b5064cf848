import { useMemo } from 'react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { clipRecipes, recipeKey } from '../../../core/backdrop/recipe'
import { SCREENS } from '../../../core/fit/screens'
import { toNumber } from '../../../core/Fraction'
import { bytesEachPart, costliestFrames } from '../../../core/weight/frameCosts'
import type { LoadedSources } from '../../state/loadedSources'
import { useWork } from '../../state/workStore'
import { FORMAT_NAMES, formatBytes } from '../../ui/format'
import { Picker } from '../../ui/Picker'
import { usePicture } from '../../ui/usePicture'
import { useRenditionIndex, useRenditionPictures } from './useRenditionIndex'
import { useWeightView } from './weightView'

const CELLS = 14
const PARTS_EACH_SECOND = 4
const NAMED = 5

/**
 * Where in the loop the bytes are: bytes a second as bars over the filmstrip, with the frames that
 * cost most.
 */
export function SecondsView({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const made = useWork((state) => state.made)
  const { screenClass, family, set } = useWeightView()
  const clips = clipRecipes(document, sources.known)
  const finished = clips.filter(({ recipe }) => made[recipeKey(recipe)])
  const shown =
    finished.find((clip) => clip.screenClass === screenClass && clip.recipe.family === family) ??
    finished.find((clip) => clip.screenClass === screenClass) ??
    finished[0]
  const rendition = shown && made[recipeKey(shown.recipe)]
  const { index, error } = useRenditionIndex(rendition)
  const numbers = useMemo(
    () =>
      index
        ? Array.from({ length: Math.min(CELLS, index.sizes.length) }, (_, cell) =>
            Math.floor(((cell + 0.5) * index.sizes.length) / Math.min(CELLS, index.sizes.length)),
          )
        : [],
    [index],
  )
  const pictures = useRenditionPictures(rendition, numbers, 160)
  if (!shown || !rendition || !index)
    return <Missing rendered={rendition !== undefined} error={error} />
  const fps = toNumber(shown.recipe.sequence.frameRate)
  const parts = bytesEachPart(index.sizes, fps, PARTS_EACH_SECOND)
  const max = Math.max(...parts.map(({ bytesPerSecond }) => bytesPerSecond))
  const costly = costliestFrames(index.sizes, NAMED)
  const total = index.sizes.reduce((sum, bytes) => sum + bytes, 0)
  return (
    <div className="flex h-full flex-col gap-1 px-4 py-1.5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-xs text-muted">
        <Picker
          label="File"
          value={recipeKey(shown.recipe)}
          onChange={(key) => {
            const chosen = finished.find(({ recipe }) => recipeKey(recipe) === key)
            if (chosen) set({ screenClass: chosen.screenClass, family: chosen.recipe.family })
          }}
          options={finished.map(({ screenClass: each, recipe }) => ({
            value: recipeKey(recipe),
            label: `${SCREENS[each].label}, ${FORMAT_NAMES[recipe.family]}`,
          }))}
        />
        <span>
          <b className="font-mono font-medium text-ink">
            {formatBytes(Math.round((total * fps) / index.sizes.length))}
          </b>{' '}
          a second on average, at most{' '}
          <b className="font-mono font-medium text-ink">{formatBytes(Math.round(max))}</b>
        </span>
        <span>
          The {NAMED} heaviest frames take{' '}
          {Math.round((costly.reduce((sum, { bytes }) => sum + bytes, 0) / total) * 100)} %:{' '}
          {costly
            .slice(0, 3)
            .map(
              ({ k, bytes }) =>
                `${(k / fps).toFixed(2)} s ${formatBytes(bytes)}${k === 0 ? ' (key frame)' : ''}`,
            )
            .join(', ')}{' '}
          …
        </span>
      </div>
      <Bars parts={parts} costly={costly} frames={index.sizes.length} fps={fps} />
      <div className="relative flex h-12 shrink-0 overflow-hidden rounded-sm bg-ink/15">
        {numbers.map((number) => (
          <Cell key={number} picture={pictures.get(number) ?? null} />
        ))}
        {costly.map(({ k }) => (
          <span
            key={k}
            aria-hidden
            className="absolute inset-y-0 w-0.5 -translate-x-1/2 bg-curtain"
            style={{ left: middleOf(k, index.sizes.length) }}
          />
        ))}
      </div>
      <Ruler frames={index.sizes.length} fps={fps} />
    </div>
  )
}

/** Why there are no bars yet. */
function Missing({ rendered, error }: { rendered: boolean; error: string | null }) {
  if (!rendered)
    return (
      <p className="px-4 py-3 text-muted">
        Render the files first: this view reads the bytes of each frame from them.
      </p>
    )
  return error ? (
    <p role="alert" className="px-4 py-3 text-fix">
      {error}
    </p>
  ) : (
    <p role="status" className="px-4 py-3 text-muted">
      Reading the file’s index …
    </p>
  )
}

/** Where a frame's middle is, as a share of the loop's width. */
const middleOf = (k: number, frames: number): string => `${((k + 0.5) / frames) * 100}%`

interface BarsProps {
  readonly parts: ReturnType<typeof bytesEachPart>
  readonly costly: ReturnType<typeof costliestFrames>
  readonly frames: number
  readonly fps: number
}

/** Bytes a second as bars, and marks at the frames that cost most. */
function Bars({ parts, costly, frames, fps }: BarsProps) {
  const max = Math.max(...parts.map(({ bytesPerSecond }) => bytesPerSecond))
  return (
    <div
      className="relative min-h-10 flex-1"
      role="img"
      aria-label={`Bytes a second over the loop, at most ${formatBytes(Math.round(max))}`}
    >
      {parts.map(({ from, to, bytesPerSecond }) => (
        <span
          key={from}
          title={`${(from / fps).toFixed(2)} s: ${formatBytes(Math.round(bytesPerSecond))} a second`}
          className="absolute bottom-0 bg-[#54406b]"
          style={{
            left: `${(from / frames) * 100}%`,
            width: `calc(${((to - from) / frames) * 100}% - 1px)`,
            height: `${Math.max(1, (bytesPerSecond / max) * 100)}%`,
          }}
        />
      ))}
      {costly.map(({ k, bytes }) => (
        <span
          key={k}
          aria-hidden
          title={`frame ${k}: ${formatBytes(bytes)}`}
          className="absolute top-0 bottom-0 w-px bg-curtain"
          style={{ left: middleOf(k, frames) }}
        >
          <span className="absolute -top-0.5 -left-1 size-2 rotate-45 bg-curtain" />
        </span>
      ))}
    </div>
  )
}

function Ruler({ frames, fps }: Pick<BarsProps, 'frames' | 'fps'>) {
  return (
    <div aria-hidden className="relative h-4 shrink-0 font-mono text-[0.66rem] text-muted">
      {Array.from({ length: Math.ceil(frames / fps - 0.3) }, (_, second) => (
        <span
          key={second}
          className="absolute border-l border-line-strong pl-1"
          style={{ left: `${((second * fps) / frames) * 100}%` }}
        >
          {second} s
        </span>
      ))}
    </div>
  )
}

function Cell({ picture }: { picture: ImageBitmap | null }) {
  const canvas = usePicture(picture)
  return <canvas ref={canvas} className="h-full min-w-0 flex-1 object-cover" aria-hidden />
}
