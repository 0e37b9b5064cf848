import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { ClipSource, PosterFacts } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { drawnLive, sequenceOf } from '../../../../core/backdrop/delivered'
import {
  posterRecipes,
  proofRecipe,
  recipeKey,
  type ClipRecipe,
  type PosterRecipe,
} from '../../../../core/backdrop/recipe'
import { SCREENS } from '../../../../core/fit/screens'
import type { ShareRect } from '../../../../core/picture/pictureShape'
import { VISIBLE_SWAP } from '../../../../core/picture/swapDifference'
import { mediaUrl, messageOf } from '../../../api/client'
import { useOutputFrames } from '../../../clip/useOutputFrames'
import { useBackdrop } from '../../../state/backdropStore'
import { frameWorker } from '../../../state/frameWorker'
import { loadedSources } from '../../../state/loadedSources'
import { useStage } from '../../../state/stageStore'
import { useWork } from '../../../state/workStore'
import { Button, Note } from '../../../ui/controls'
import { formatBytes } from '../../../ui/format'
import { useAsync } from '../../../ui/useAsync'
import { usePicture } from '../../../ui/usePicture'
import { Wipe } from '../../../ui/Wipe'
import type { OfferedPoster } from '../../../worker/jobs/posterCandidates'
import { placesOf, sourcesOf } from '../clipOf'

const FIRST = [0]
const REASONS = {
  sharpest: 'sharpest',
  calmest: 'calmest behind the copy',
  'closest to the average frame': 'closest to the average frame',
} as const

/**
 * The poster beside the first frame that plays, with a dividing line to drag, the figure of the
 * swap, and frames that would make good posters.
 */
export function PosterView({
  document,
  source,
}: {
  document: FootageDocument
  source: ClipSource
}) {
  const recipes = useMemo(() => posterRecipes(document, sourcesOf(source)), [document, source])
  const shown = (recipes.find(({ screenClass }) => screenClass === 'laptop') ?? recipes[0]!).recipe
  const { facts, url, error } = usePoster(source, shown)
  const { pictures } = useOutputFrames(
    sequenceOf(drawnLive(document), sourcesOf(source)),
    placesOf(source),
    FIRST,
    shown.width,
  )
  const first = pictures?.[0] ?? null
  const onWipe = useWipeOnStage(url, first)
  const over = facts !== null && facts.swapDeltaE > VISIBLE_SWAP
  return (
    <div
      className="flex h-full gap-4 overflow-x-auto px-4 py-2"
      tabIndex={0}
      role="region"
      aria-label="Poster and first frame"
    >
      <div className="aspect-video h-full shrink-0">
        {url && first ? (
          <Wipe
            label="Compare poster with first frame"
            leftLabel="poster"
            rightLabel="first frame"
            left={<img src={url} alt="The poster" className="size-full object-cover" />}
            right={<Picture picture={first} label="The first frame of the clip" />}
            onChange={onWipe}
          />
        ) : (
          <p
            role={error ? 'alert' : 'status'}
            className={`grid h-full place-items-center bg-paper p-3 text-center ${error ? 'text-fix' : 'text-muted'}`}
          >
            {error ?? 'Rendering the poster …'}
          </p>
        )}
      </div>
      <div className="flex w-72 shrink-0 flex-col gap-1.5 overflow-y-auto text-[0.82rem]">
        <p className="flex items-baseline gap-2" role="status">
          <span className="text-3xl leading-none figure-face">
            {facts ? facts.swapDeltaE.toFixed(2) : '–'}
          </span>
          <span className="text-muted">
            ΔE swap, worst place {facts ? facts.swapWorst.toFixed(1) : '–'}
          </span>
        </p>
        {facts &&
          (over ? (
            <Note tone="look">
              The poster swap is visible.{' '}
              {document.poster.picture.kind === 'first'
                ? 'Increase the maximum poster size.'
                : 'Use the first frame, or start the loop at this frame.'}
            </Note>
          ) : (
            <p>The poster swap is invisible.</p>
          ))}
        <Files recipes={recipes} />
      </div>
      <Offers document={document} source={source} />
    </div>
  )
}

/** Bytes and quality of every poster that is rendered. */
function Files({ recipes }: { recipes: ReturnType<typeof posterRecipes> }) {
  const made = useWork((state) => state.made)
  return (
    <table className="w-full text-left text-xs" aria-label="Posters">
      <thead className="text-muted">
        <tr>
          {['Screen', 'Format', 'Bytes', 'SSIM'].map((cell) => (
            <th key={cell} scope="col" className="font-normal">
              {cell}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {recipes.map(({ screenClass, recipe }) => {
          const rendition = made[recipeKey(recipe)]
          const facts = rendition?.facts.kind === 'poster' ? rendition.facts : null
          return (
            <tr
              key={`${screenClass} ${recipe.format}`}
              className="border-t border-line tabular-nums"
            >
              <td>
                {SCREENS[screenClass].label}, {recipe.width} px
              </td>
              <td>
                {recipe.format === 'jpeg' ? 'JPEG' : recipe.format === 'webp' ? 'WebP' : 'AVIF'}
              </td>
              <td>{rendition ? formatBytes(rendition.bytes) : '–'}</td>
              <td>{facts ? facts.ssim.toFixed(3) : 'not made'}</td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** The poster's file, rendered when it is viewed; its address once it exists. */
function usePoster(
  source: ClipSource,
  recipe: PosterRecipe,
): { facts: PosterFacts | null; url: string | null; error: string | null } {
  const key = recipeKey(recipe)
  const rendition = useWork((state) => state.made[key])
  const renderPosterFiles = useWork((state) => state.renderPosterFiles)
  const { error } = useAsync<true>(`${source.id} ${key}`, async (signal) => {
    await renderPosterFiles(loadedSources([source]), recipe, signal)
    return true
  })
  const facts = rendition?.facts.kind === 'poster' ? rendition.facts : null
  return { facts, url: rendition && facts ? mediaUrl(rendition.sha256, facts.type) : null, error }
}

function Picture({ picture, label }: { picture: ImageBitmap; label: string }) {
  const canvas = usePicture(picture)
  return <canvas ref={canvas} role="img" aria-label={label} className="size-full object-cover" />
}

/**
 * Shows the same comparison on the stage, where the copy is over it, as soon as the line is moved.
 */
function useWipeOnStage(url: string | null, first: ImageBitmap | null): (share: number) => void {
  const { value: picture } = useAsync<ImageBitmap>(
    url,
    async (signal) => {
      const answer = await fetch(url!, { signal })
      return createImageBitmap(await answer.blob())
    },
    { dispose: (old) => old.close() },
  )
  useEffect(() => () => useStage.getState().set({ scrub: null, held: null }), [])
  return useCallback(
    (share) => {
      if (!picture || !first || first.width === 0) return
      const canvas = new OffscreenCanvas(first.width, first.height)
      const context = canvas.getContext('2d')!
      context.drawImage(first, 0, 0)
      const line = Math.round(share * first.width)
      if (line > 0)
        context.drawImage(
          picture,
          0,
          0,
          (line / first.width) * picture.width,
          picture.height,
          0,
          0,
          line,
          first.height,
        )
      useStage
        .getState()
        .set({ scrub: { number: -1, picture: canvas.transferToImageBitmap() }, held: null })
    },
    [first, picture],
  )
}

/** What the look for other frames has come to, for one loop. */
interface Look {
  readonly key: string
  readonly offers: readonly OfferedPoster[] | null
  /** The share done while it is under way. */
  readonly done: number | null
  readonly error: string | null
}

/**
 * Looks for frames that would make good posters when it is asked to; what is under way for another
 * loop stops.
 */
function useOffers(
  source: ClipSource,
  recipe: ClipRecipe,
): Look & { look: (copy: ShareRect | null) => void; stop: () => void } {
  const key = recipeKey(recipe)
  const [state, setState] = useState<Look>({ key, offers: null, done: null, error: null })
  const abort = useRef<AbortController | null>(null)
  useEffect(() => () => abort.current?.abort(), [key])
  const look = async (copy: ShareRect | null): Promise<void> => {
    const own = new AbortController()
    const { signal } = own
    abort.current = own
    const show = (fields: Partial<Look>): void => {
      if (!signal.aborted) setState({ key, offers: null, done: null, error: null, ...fields })
    }
    show({ done: 0 })
    try {
      const { sequence, width, height } = recipe
      const order = {
        type: 'candidates',
        places: placesOf(source),
        sequence,
        width,
        height,
        copyBlur: null,
        copy,
      } as const
      show({
        offers: await frameWorker().run(order, { signal, onStep: ({ done }) => show({ done }) }),
      })
    } catch (problem) {
      show({ error: messageOf(problem) })
    }
  }
  const stop = (): void => {
    abort.current?.abort()
    setState({ key, offers: null, done: null, error: null })
  }
  // Frames of another loop do not belong here.
  const own = state.key === key ? state : { key, offers: null, done: null, error: null }
  return { ...own, look: (copy) => void look(copy), stop }
}

/** Frames of the loop that would make good posters. */
function Offers({ document, source }: { document: FootageDocument; source: ClipSource }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const copy = useStage((state) => state.copyPlace)
  const { offers, done, error, look, stop } = useOffers(
    source,
    proofRecipe(document, sourcesOf(source))!,
  )
  const { picture } = document.poster
  if (!offers) {
    return (
      <div className="min-w-56 flex-1">
        <p className="mb-2 max-w-sm text-[0.82rem] text-muted">
          Another frame may work better as the poster, especially where no clip plays: on phones,
          with reduced motion.
        </p>
        {done === null ? (
          <Button onClick={() => look(copy)}>Suggest frames</Button>
        ) : (
          <Button onClick={stop}>Reading frames, {Math.round(done * 100)} %: stop</Button>
        )}
        {error && (
          <p role="alert" className="mt-1 text-fix">
            {error}
          </p>
        )}
      </div>
    )
  }
  return (
    <ul aria-label="Suggested poster frames" className="flex min-w-[32rem] flex-1 gap-2">
      {offers.map((offer) => {
        const taken = picture.kind === 'frame' && picture.ticks === offer.ticks
        return (
          <li
            key={offer.reason}
            className={`flex h-full w-40 shrink-0 flex-col rounded border bg-sheet ${taken ? 'border-curtain ring-1 ring-curtain' : 'border-line'}`}
          >
            <div className="min-h-0 flex-1 overflow-hidden">
              <Picture
                picture={offer.picture}
                label={`The frame at ${(offer.ticks / offer.timescale).toFixed(2)} seconds`}
              />
            </div>
            <p className="px-2 pt-1 text-xs leading-tight">
              {REASONS[offer.reason]}
              <span className="block font-mono text-muted">
                {(offer.ticks / offer.timescale).toFixed(2)} s
              </span>
            </p>
            <Button
              className="m-1.5 min-h-7!"
              disabled={taken}
              onClick={() =>
                dispatch({
                  type: 'poster/picture',
                  picture: { kind: 'frame', ticks: offer.ticks, timescale: offer.timescale },
                })
              }
            >
              {taken ? 'Taken' : 'Use as poster'}
            </Button>
          </li>
        )
      })}
    </ul>
  )
}
