import type { PosterFacts } from '../../../core/api/wire'
import type { PosterRecipe, SharedPicture } from '../../../core/backdrop/recipe'
import { coverRect } from '../../../core/fit/cover'
import { sequenceKey } from '../../../core/kinds/Sequence'
import { writeAvif } from '../../../core/media/image/writeAvif'
import { convertOklabToHex } from '../../../core/picture/convertOklabToHex'
import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import type { Oklab } from '../../../core/picture/convertSrgbToOklab'
import { describeCells } from '../../../core/picture/describeCells'
import type { I420 } from '../../../core/picture/I420'
import { ssimI420 } from '../../../core/picture/ssim'
import { swapDifference } from '../../../core/picture/swapDifference'
import { type QualityTry, searchQuality } from '../../../core/weight/searchQuality'
import { shareBytes } from '../../../core/weight/shareBytes'
import { frameOf, type Composed } from '../compose/composeFrame'
import { composedImage } from '../compose/stillPicture'
import type { OpenSequence } from '../sequences/OpenSequence'
import { openImage } from '../sequences/OpenStill'
import { blobOf, cleanedPlace, placeIn, type Places } from '../sources'
import { WorkError } from '../WorkError'

/** Qualities that are tried: 32 steps need five tries. */
const STEPS = 32
/**
 * Finer settings show no visible difference. A poster is looked at longer than any frame of a clip,
 * and SSIM is lenient on smooth pictures, so posters need a higher value than clips.
 */
const ENOUGH_SSIM = 0.995
/**
 * The useful range of quality, coarsest to finest: a canvas takes 0 to 1, AV1 a quantizer of 255 to
 * 0.
 */
const QUALITY = { webp: [0.2, 0.98], jpeg: [0.2, 0.98], avif: [220, 12] } as const
const PLACEHOLDER_WIDTH = 20

/** A poster as written. */
interface WrittenPoster extends QualityTry {
  readonly file: Blob
}

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
  { pictures, ladders }: PosterMemory,
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
  const writer = await posterWriter(shown, recipe, signal)
  try {
    const shared = recipe.shared && (await sharedStep(recipe, places, ladders, signal, onDone))
    const kept =
      shared === null
        ? await searchQuality(writer.write, {
            maxBytes: recipe.maxBytes,
            enoughSsim: ENOUGH_SSIM,
            steps: STEPS,
          })
        : await writer.write(shared)
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
      },
    }
  } finally {
    writer.close()
  }
}

/** Writes a picture at a quality by its step. */
interface PosterWriter {
  write(step: number): Promise<WrittenPoster>
  close(): void
}

async function posterWriter(
  shown: Composed,
  recipe: Pick<PosterRecipe, 'format' | 'width' | 'height'>,
  signal: AbortSignal,
): Promise<PosterWriter> {
  const reference = pixelsOf(shown)
  const encode =
    recipe.format === 'avif'
      ? await avifEncoder(shown, recipe)
      : canvasEncoder(shown, recipe.format as 'webp' | 'jpeg')
  return {
    async write(step) {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const file = await encode.write(step / (STEPS - 1))
      const ssim = ssimI420(reference, await decodedPixels(file, recipe))
      return { step, file, bytes: file.size, ssim }
    },
    close: () => encode.close(),
  }
}

/** Bytes and quality of a picture at some steps, coarsest first. */
type Ladder = readonly QualityTry[]

/** What pictures weigh at several qualities, kept for all that share bytes with them. */
export class QualityLadders {
  private readonly held = new Map<string, Promise<Ladder>>()

  /** The ladder of a key: made now, or kept from before. */
  find(key: string, make: () => Promise<Ladder>): Promise<Ladder> {
    const held = this.held.get(key)
    if (held) return held
    const made = make()
    this.held.set(key, made)
    made.catch(() => this.held.delete(key))
    return made
  }
}

/** Steps of quality that are compared: neighbours differ by about a sixth of their bytes. */
const LADDER_STEPS = [1, 4, 7, 10, 13, 16, 19, 22, 25, 28, 31]

/**
 * The step at which a picture is written that shares bytes with others, so that the worst of them
 * looks as good as possible; the coarsest where even that is too heavy.
 */
async function sharedStep(
  recipe: PosterRecipe,
  places: Places,
  ladders: QualityLadders,
  signal: AbortSignal,
  onDone: (done: number) => void,
): Promise<number> {
  const { pictures, budgets, index } = recipe.shared!
  const all: Ladder[] = []
  for (const picture of pictures) {
    const { sequence, width, height, copyBlur } = picture
    const most = Math.min(
      ...budgets.filter(({ count }) => count > all.length).map(({ bytes }) => bytes),
    )
    const key = JSON.stringify([
      sequenceKey(sequence),
      width,
      height,
      copyBlur,
      recipe.format,
      most,
    ])
    all.push(
      await ladders.find(key, () =>
        ladderOf({ ...picture, format: recipe.format }, places, most, signal),
      ),
    )
    onDone(all.length / (pictures.length + 1))
  }
  return (shareBytes(all, budgets)?.[index] ?? all[index]![0]!).step
}

async function ladderOf(
  picture: SharedPicture & Pick<PosterRecipe, 'format'>,
  places: Places,
  maxBytes: number,
  signal: AbortSignal,
): Promise<Ladder> {
  const open = await openImage(picture.sequence, placeIn(places, picture.sequence.sourceSha256))
  const tries: QualityTry[] = []
  for await (const shown of open.composed([0], picture, signal)) {
    const writer = await posterWriter(shown, picture, signal)
    try {
      for (const step of LADDER_STEPS) {
        const { bytes, ssim } = await writer.write(step)
        if (tries.length > 0 && bytes > maxBytes) break
        tries.push({ step, bytes, ssim })
        if (ssim >= ENOUGH_SSIM) break
      }
    } finally {
      writer.close()
    }
  }
  return tries
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
    },
  }
}

/** What posters made before leave for the next ones. */
export interface PosterMemory {
  readonly pictures: PosterPictures
  readonly ladders: QualityLadders
}

/** The last composed pictures: the formats of a poster share them. */
export class PosterPictures {
  private readonly held: { readonly key: string; readonly picture: Composed }[] = []

  /** The picture of a key: made now, or kept from before. */
  async find(key: string, make: () => Promise<Composed>): Promise<Composed> {
    const held = this.held.find((each) => each.key === key)
    if (held) return held.picture
    const picture = await make()
    this.held.unshift({ key, picture })
    this.held.length = Math.min(this.held.length, MAX_COMPOSED)
    return picture
  }
}
const MAX_COMPOSED = 4

async function composedPicture(
  open: OpenSequence,
  pictures: PosterPictures,
  recipe: PosterRecipe,
  which: 'first' | 'frame',
  signal: AbortSignal,
): Promise<Composed> {
  const { picture, sequence, width, height, copyBlur } = recipe
  const moment = which === 'frame' && picture.kind === 'frame' ? picture : null
  const key = JSON.stringify([sequenceKey(sequence), width, height, copyBlur, moment])
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
  return composedImage(
    image,
    shown,
    sequence.kind === 'footage' ? sequence.shape.matte : WHITE,
    recipe,
  )
}

const WHITE = '#ffffff'

interface PosterEncoder {
  /** Writes at a quality from 0 (coarsest) to 1. */
  write(quality: number): Promise<Blob>
  close(): void
}

function canvasEncoder(picture: Composed, format: 'webp' | 'jpeg'): PosterEncoder {
  const canvas = drawn(picture)
  const [coarsest, finest] = QUALITY[format]
  return {
    async write(quality) {
      const file = await canvas.convertToBlob({
        type: `image/${format}`,
        quality: coarsest + (finest - coarsest) * quality,
      })
      // A format the browser cannot write silently becomes PNG.
      if (file.type !== `image/${format}`) throw new WorkError('work/cannot-encode')
      return file
    },
    close: () => undefined,
  }
}

/** One AV1 key frame for each quality, wrapped by our own writer: canvases do not write AVIF. */
async function avifEncoder(
  picture: Composed,
  { width, height }: Pick<PosterRecipe, 'width' | 'height'>,
): Promise<PosterEncoder> {
  const config: VideoEncoderConfig = {
    codec: 'av01.0.13M.08',
    width,
    height,
    bitrateMode: 'quantizer',
    framerate: 30,
    latencyMode: 'quality',
  }
  const supported =
    typeof VideoEncoder === 'undefined'
      ? false
      : await VideoEncoder.isConfigSupported(config).then(
          (answer) => answer.supported,
          () => false,
        )
  if (!supported)
    throw new WorkError(
      'work/cannot-encode',
      'This browser cannot encode AV1, which AVIF posters need. Switch AVIF off under Timing, Poster, or use a current Chromium-based browser.',
    )
  let take: (data: Uint8Array) => void = () => undefined
  let failed: (error: unknown) => void = () => undefined
  const encoder = new VideoEncoder({
    output: (chunk) => {
      const data = new Uint8Array(chunk.byteLength)
      chunk.copyTo(data)
      take(data)
    },
    error: (cause) => failed(new WorkError('work/cannot-encode', undefined, cause)),
  })
  encoder.configure(config)
  const [coarsest, finest] = QUALITY.avif
  let count = 0
  return {
    async write(quality) {
      const unit = new Promise<Uint8Array>(
        (resolve, reject) => ([take, failed] = [resolve, reject]),
      )
      const frame = frameOf(picture, count++ * 33_333)
      encoder.encode(frame, {
        keyFrame: true,
        av1: { quantizer: Math.round(coarsest + (finest - coarsest) * quality) },
      } as VideoEncoderEncodeOptions)
      frame.close()
      // If flushing fails, the error above says why.
      await encoder.flush().catch(() => undefined)
      return new Blob([writeAvif(await unit, width, height)], { type: 'image/avif' })
    },
    close: () => encoder.state !== 'closed' && encoder.close(),
  }
}

/** A picture drawn as a browser shows it. */
function drawn(
  picture: Composed,
  width = picture.picture.width,
  height = picture.picture.height,
): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height)
  const frame = frameOf(picture, 0)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.imageSmoothingQuality = 'high'
  context.drawImage(frame, 0, 0, width, height)
  frame.close()
  return canvas
}

/**
 * What a browser shows of a picture, as planes of limited BT.709: both sides of a comparison go the
 * same way.
 */
function pixelsOf(picture: Composed): I420 {
  const { width, height } = picture.picture
  return convertRgbaToI420(
    drawn(picture).getContext('2d')!.getImageData(0, 0, width, height).data,
    width,
    height,
  )
}

async function decodedPixels(
  file: Blob,
  { width, height }: Pick<PosterRecipe, 'width' | 'height'>,
): Promise<I420> {
  const image = await createImageBitmap(file)
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  context.drawImage(image, 0, 0, width, height)
  image.close()
  return convertRgbaToI420(context.getImageData(0, 0, width, height).data, width, height)
}

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
