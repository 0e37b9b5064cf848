import type { PosterFacts } from '../../../core/api/wire'
import type { PosterRecipe } from '../../../core/backdrop/recipe'
import { coverRect } from '../../../core/fit/cover'
import { convertOklabToHex } from '../../../core/picture/convertOklabToHex'
import type { Oklab } from '../../../core/picture/convertSrgbToOklab'
import { describeCells } from '../../../core/picture/describeCells'
import type { I420 } from '../../../core/picture/I420'
import { swapDifference } from '../../../core/picture/swapDifference'
import { searchQuality } from '../../../core/weight/searchQuality'
import type { Composed } from '../compose/composeFrame'
import { composedImage } from '../compose/stillPicture'
import {
  decodedPixels,
  drawn,
  GOAL,
  pixelsOf,
  posterWriter,
  type WrittenPoster,
} from '../encode/posterWriter'
import { tonedPicture } from '../sequences/OpenToned'
import type { OpenSequence } from '../sequences/OpenSequence'
import { blobOf, cleanedPlace, placeIn, type Places } from '../sources'
import { WorkError } from '../WorkError'
import { pictureKey, type PosterPictures } from './PosterPictures'
import type { SharedQuality } from './SharedQuality'

const PLACEHOLDER_WIDTH = 20

/**
 * Renders a poster: composes its picture exactly as the clip's frames are composed, searches the
 * coarsest quality that is good enough within its size limit, and measures the swap against the
 * first frame of the sequence on the decoded file. Errors:
 * `work/cannot-encode` and those of decoding.
 */
export async function renderPoster(
  open: OpenSequence,
  recipe: PosterRecipe,
  places: Places,
  { pictures, shared }: PosterMemory,
  signal: AbortSignal,
  onDone: (done: number) => void = () => undefined,
): Promise<{ bytes: Uint8Array<ArrayBuffer>; facts: PosterFacts }> {
  const first = await composedPicture(open, pictures, recipe, 'first', signal)
  const shown =
    recipe.picture.kind === 'source'
      ? await posterPicture(recipe, places)
      : recipe.picture.kind === 'first'
        ? first
        : await composedPicture(open, pictures, recipe, 'frame', signal)
  if (recipe.format === 'svg') return cleanedDrawing(shown, recipe, places)
  const kept = recipe.shared
    ? await shared.choose(recipe, places, signal, onDone)
    : await searchedPoster(shown, recipe, signal)
  const swap = swapDifference(
    cellsOf(await decodedPixels(kept.file, recipe)),
    cellsOf(pixelsOf(first)),
  )
  return {
    bytes: new Uint8Array(await kept.file.arrayBuffer()),
    facts: {
      kind: 'poster',
      type: `image/${recipe.format}`,
      width: recipe.width,
      height: recipe.height,
      ssim: Math.round(kept.ssim * 10_000) / 10_000,
      swapDeltaE: swap.mean,
      swapWorst: swap.worst,
      placeholder: await placeholderOf(shown, recipe),
      encoder: recipe.encoder,
    },
  }
}

async function searchedPoster(
  shown: Composed,
  recipe: PosterRecipe,
  signal: AbortSignal,
): Promise<WrittenPoster> {
  const writer = await posterWriter(shown, recipe, signal)
  try {
    return await searchQuality(writer.write, { ...GOAL, maxBytes: recipe.maxBytes })
  } finally {
    writer.close()
  }
}

/** A drawing that is delivered as it is: nothing is encoded, so nothing differs. */
async function cleanedDrawing(
  shown: Composed,
  recipe: PosterRecipe,
  places: Places,
): Promise<{ bytes: Uint8Array<ArrayBuffer>; facts: PosterFacts }> {
  const { width, height, sequence } = recipe
  const file = await blobOf(placeIn(places, cleanedPlace(sequence.inputs[0]!)), 'image/svg+xml')
  return {
    bytes: new Uint8Array(await file.arrayBuffer()),
    facts: {
      kind: 'poster',
      type: 'image/svg+xml',
      width,
      height,
      ssim: 1,
      swapDeltaE: 0,
      swapWorst: 0,
      placeholder: await placeholderOf(shown, recipe),
      encoder: recipe.encoder,
    },
  }
}

/** What posters made before leave for the next ones. */
export interface PosterMemory {
  readonly pictures: PosterPictures
  readonly shared: SharedQuality
}

async function composedPicture(
  open: OpenSequence,
  pictures: PosterPictures,
  recipe: PosterRecipe,
  which: 'first' | 'frame',
  signal: AbortSignal,
): Promise<Composed> {
  const { picture, sequence, width, height, copyBlur } = recipe
  const moment = which === 'frame' && picture.kind === 'frame' ? picture : null
  const key = pictureKey({ sequence, width, height, copyBlur }, moment)
  return pictures.find(key, async () => {
    const frames = moment
      ? open.atMoments([moment], recipe, signal)
      : open.composed([0], recipe, signal)
    for await (const { picture: planes, colour, kind } of frames)
      return { picture: planes, colour, kind }
    throw new WorkError('work/decode-failed')
  })
}

/** An image from the shelf, cropped to the poster's shape as a region that it covers. */
async function posterPicture(recipe: PosterRecipe, places: Places): Promise<Composed> {
  const { picture, sequence } = recipe
  const base = sequence.kind === 'particles' ? sequence.under : sequence
  if (picture.kind !== 'source') throw new WorkError('work/unreadable')
  const place = placeIn(places, picture.sha256)
  const image = await createImageBitmap(await blobOf(place, picture.mime), {
    imageOrientation: 'from-image',
  }).catch((cause: unknown) => {
    throw new WorkError(
      'work/decode-failed',
      'The image could not be decoded. Choose another one, or the first frame, under Timing, Poster.',
      cause,
    )
  })
  const { shown } = coverRect(image, recipe, { x: 0.5, y: 0.5 })
  const matte = base.kind === 'footage' ? base.shape.matte : WHITE
  const composed = composedImage(image, shown, matte, recipe)
  return base.tone ? tonedPicture(composed, base.tone) : composed
}

const WHITE = '#ffffff'

function cellsOf(pixels: I420): Oklab[] {
  return describeCells(pixels, { matrix: 'bt709', fullRange: false }).colours
}

/** A tiny picture as a data address, and the mean colour. */
async function placeholderOf(
  picture: Composed,
  { width, height }: PosterRecipe,
): Promise<PosterFacts['placeholder']> {
  const high = Math.max(1, Math.round((PLACEHOLDER_WIDTH * height) / width))
  const canvas = new OffscreenCanvas(PLACEHOLDER_WIDTH, high)
  const context = canvas.getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.drawImage(drawn(picture), 0, 0, PLACEHOLDER_WIDTH, high)
  const file = await canvas.convertToBlob({ type: 'image/webp', quality: 0.6 })
  const bytes = new Uint8Array(await file.arrayBuffer())
  const cells = cellsOf(picture.picture)
  const mean = (axis: keyof Oklab): number =>
    cells.reduce((sum, cell) => sum + cell[axis], 0) / cells.length
  return {
    dataUrl: `data:${file.type};base64,${btoa(String.fromCharCode(...bytes))}`,
    colour: convertOklabToHex({ lightness: mean('lightness'), a: mean('a'), b: mean('b') }),
  }
}
