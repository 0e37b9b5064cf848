import { useEffect, useRef, useState } from 'react'
import type { Rendition } from '../../../core/api/wire'
import type { ClipRecipe } from '../../../core/backdrop/recipe'
import { toNumber } from '../../../core/Fraction'
import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import { planesOf, type I420 } from '../../../core/picture/I420'
import { PLAIN_SHAPE } from '../../../core/picture/pictureShape'
import { measureQuality } from '../../../core/picture/ssim'
import { messageOf } from '../../api/client'
import { frameWorker } from '../../state/frameWorker'
import type { LoadedSources } from '../../state/loadedSources'
import { placeOfRendition } from './useRenditionIndex'

/** A finished file that can be looked at. */
export interface Finished {
  readonly key: string
  readonly label: string
  readonly recipe: ClipRecipe
  readonly rendition: Rendition
}

/** Both sides of a comparison, at the size of the right one. */
export interface Pair {
  readonly left: ImageBitmap
  readonly right: ImageBitmap
}

/**
 * Frame `k` of the right file, and the same moment of the left one or of the source; the last pair
 * stays until the next is there.
 */
export function usePair(
  sources: LoadedSources,
  left: Finished | null,
  right: Finished | null,
  k: number,
): { pair: Pair | null; error: string | null } {
  const [state, setState] = useState<{ pair: Pair | null; error: string | null }>({
    pair: null,
    error: null,
  })
  const shown = useRef<Pair | null>(null)
  useEffect(() => () => closePair(shown.current), [])
  useEffect(() => {
    if (!right) return
    const abort = new AbortController()
    const { signal } = abort
    const load = async (): Promise<Pair> => {
      const own = await exactFrame(right, k, signal)
      return {
        right: own,
        left: left
          ? await exactFrame(left, sameMoment(k, right.recipe, left.recipe), signal)
          : await composedFrame(sources, right.recipe, k, signal),
      }
    }
    load().then(
      (pair) => {
        // Whole pictures weigh megabytes: those that are not shown any more are let go at once.
        closePair(signal.aborted ? pair : shown.current)
        if (signal.aborted) return
        shown.current = pair
        setState({ pair, error: null })
      },
      (error: unknown) =>
        !signal.aborted && setState((before) => ({ ...before, error: messageOf(error) })),
    )
    return () => abort.abort()
  }, [sources, left, right, k])
  return state
}

function closePair(pair: Pair | null): void {
  pair?.left.close()
  pair?.right.close()
}

/** The frame of another file that shows what frame `k` of this one shows. */
function sameMoment(
  k: number,
  { sequence: from }: ClipRecipe,
  { sequence: to }: ClipRecipe,
): number {
  return Math.min(
    to.frames - 1,
    Math.round((k * toNumber(to.frameRate)) / toNumber(from.frameRate)),
  )
}

async function exactFrame(
  { rendition, recipe }: Finished,
  number: number,
  signal: AbortSignal,
): Promise<ImageBitmap> {
  return (
    await frameWorker().run(
      {
        type: 'exact',
        place: placeOfRendition(rendition),
        number,
        width: recipe.width,
        quick: false,
        shape: PLAIN_SHAPE,
      },
      { signal },
    )
  ).picture
}

async function composedFrame(
  sources: LoadedSources,
  { sequence, width, height, copyBlur }: ClipRecipe,
  number: number,
  signal: AbortSignal,
): Promise<ImageBitmap> {
  const got: ImageBitmap[] = []
  await frameWorker().run(
    {
      type: 'output',
      places: sources.places,
      sequence,
      width,
      height,
      copyBlur,
      numbers: [number],
    },
    { signal, onStep: ({ picture }) => void got.push(picture) },
  )
  const [picture] = got
  if (!picture) throw new Error('The source does not have this frame.')
  return picture
}

/**
 * How long a pair must be shown before it is measured, so that stepping through frames is not
 * slowed.
 */
const MEASURE_AFTER_MS = 200

/** The quality of one side against the other, on luma as coded; null until it is measured. */
export function usePictureQuality(
  pair: Pair | null,
): { readonly ssim: number; readonly psnr: number } | null {
  const [measured, setMeasured] = useState<{
    readonly pair: Pair
    readonly ssim: number
    readonly psnr: number
  } | null>(null)
  useEffect(() => {
    if (!pair) return
    const timer = setTimeout(() => {
      const { width, height } = pair.right
      if (width === 0) return
      const [one, other] = [pair.left, pair.right].map(
        (picture) =>
          planesOf(planesOfPicture(picture, width - (width % 2), height - (height % 2)))[0],
      )
      setMeasured({ pair, ...measureQuality(one!, other!) })
    }, MEASURE_AFTER_MS)
    return () => clearTimeout(timer)
  }, [pair])
  return measured?.pair === pair ? measured : null
}

function planesOfPicture(picture: ImageBitmap, width: number, height: number): I420 {
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  context.drawImage(picture, 0, 0, width, height)
  return convertRgbaToI420(context.getImageData(0, 0, width, height).data, width, height)
}
