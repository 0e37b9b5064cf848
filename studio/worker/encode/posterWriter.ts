import type { PosterRecipe } from '../../../core/backdrop/recipe'
import { writeAvif } from '../../../core/media/image/writeAvif'
import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import type { I420 } from '../../../core/picture/I420'
import { detailSsim, ssimI420 } from '../../../core/picture/ssim'
import type { QualityGoal, QualityTry } from '../../../core/weight/searchQuality'
import { frameOf, type Composed } from '../compose/composeFrame'
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
/** What a search for quality aims at, besides bytes. */
export const GOAL: Omit<QualityGoal, 'maxBytes'> = { enoughSsim: ENOUGH_SSIM, steps: STEPS }

/** A poster as written. */
export interface WrittenPoster extends QualityTry {
  readonly file: Blob
}

/** Writes a picture at a quality by its step. */
export interface PosterWriter {
  write(step: number): Promise<WrittenPoster>
  close(): void
}

/** Ready to write a picture in a format. Errors: `work/cannot-encode`. */
export async function posterWriter(
  shown: Composed,
  recipe: Pick<PosterRecipe, 'format' | 'width' | 'height' | 'sequence' | 'encoder'>,
  signal: AbortSignal,
): Promise<PosterWriter> {
  const reference = pixelsOf(shown)
  // What stays on screen is looked at longer than a frame before its clip.
  const likeness = recipe.sequence.kind === 'image' ? detailSsim : ssimI420
  const encode =
    recipe.encoder !== null
      ? outsideEncoder(shown, recipe)
      : recipe.format === 'avif'
        ? await avifEncoder(shown, recipe)
        : canvasEncoder(shown, recipe.format as 'webp' | 'jpeg')
  return {
    async write(step) {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const file = await encode.write(step / (STEPS - 1))
      const ssim = likeness(reference, await decodedPixels(file, recipe))
      return { step, file, bytes: file.size, ssim }
    },
    close: () => encode.close(),
  }
}

interface PosterEncoder {
  /** Writes at a quality from 0 (coarsest) to 1. */
  write(quality: number): Promise<Blob>
  close(): void
}

/**
 * An encoder outside of the browser: whoever has opened it answers under `/encode/` of its own
 * address.
 */
function outsideEncoder(
  picture: Composed,
  { format, width, height }: Pick<PosterRecipe, 'format' | 'width' | 'height'>,
): PosterEncoder {
  const { data } = drawn(picture).getContext('2d')!.getImageData(0, 0, width, height)
  // Chromium sends a blob nine times as fast as the same bytes.
  const pixels = new Blob([data])
  return {
    async write(quality) {
      const query = new URLSearchParams({
        width: String(width),
        height: String(height),
        quality: String(quality),
      })
      const answer = await fetch(
        new URL(`/encode/${format}?${query.toString()}`, self.location.origin),
        { method: 'POST', body: pixels },
      ).catch(() => null)
      if (!answer?.ok) throw new WorkError('work/cannot-encode')
      return new Blob([await answer.arrayBuffer()], { type: `image/${format}` })
    },
    close: () => undefined,
  }
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
export function drawn(
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
export function pixelsOf(picture: Composed): I420 {
  const { width, height } = picture.picture
  return convertRgbaToI420(
    drawn(picture).getContext('2d')!.getImageData(0, 0, width, height).data,
    width,
    height,
  )
}

/** A file's picture as planes. */
export async function decodedPixels(
  file: Blob,
  { width, height }: Pick<PosterRecipe, 'width' | 'height'>,
): Promise<I420> {
  const image = await createImageBitmap(file)
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  context.drawImage(image, 0, 0, width, height)
  image.close()
  return convertRgbaToI420(context.getImageData(0, 0, width, height).data, width, height)
}
