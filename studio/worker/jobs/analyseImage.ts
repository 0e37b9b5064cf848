import { convertOklabToHex } from '../../../core/picture/convertOklabToHex'
import { convertSrgbToOklab } from '../../../core/picture/convertSrgbToOklab'
import { dominantColours } from '../../../core/picture/palette'
import { WorkError } from '../WorkError'
import type { Analysed } from './analyseClip'

const PREVIEW = { width: 512, height: 384 }
const PALETTE_SIDE = 48

/**
 * Decodes an image upright, draws a small preview and finds its dominant colours. Errors:
 * `work/decode-failed`.
 */
export async function analyseImage(file: Blob): Promise<Analysed> {
  const picture = await createImageBitmap(file, { imageOrientation: 'from-image' }).catch(
    (cause: unknown) => {
      throw new WorkError(
        'work/decode-failed',
        'The image cannot be decoded in this browser. Export it again as JPEG or PNG.',
        cause,
      )
    },
  )
  const scale = Math.min(1, PREVIEW.width / picture.width, PREVIEW.height / picture.height)
  const canvas = new OffscreenCanvas(
    Math.max(1, Math.round(picture.width * scale)),
    Math.max(1, Math.round(picture.height * scale)),
  )
  const context = canvas.getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.drawImage(picture, 0, 0, canvas.width, canvas.height)
  const small = new OffscreenCanvas(PALETTE_SIDE, PALETTE_SIDE).getContext('2d', {
    willReadFrequently: true,
  })!
  small.drawImage(picture, 0, 0, PALETTE_SIDE, PALETTE_SIDE)
  picture.close()
  const { data } = small.getImageData(0, 0, PALETTE_SIDE, PALETTE_SIDE)
  const colours = Array.from(
    { length: data.length / 4 },
    (_, at) => [data[at * 4]!, data[at * 4 + 1]!, data[at * 4 + 2]!, data[at * 4 + 3]!] as const,
  )
    .filter(([, , , alpha]) => alpha > 127)
    .map(([r, g, b]) => convertSrgbToOklab(r, g, b))
  const blob = await canvas.convertToBlob({ type: 'image/webp', quality: 0.8 })
  const none = { startMs: 0, endMs: 0 }
  return {
    analysis: {
      version: 1,
      frames: 1,
      durationMs: 0,
      framesEachPoint: 1,
      motion: [],
      brightness: [],
      bytesEachSecond: [],
      motionMedian: 0,
      motionPeak: 0,
      cutsMs: [],
      titleEndMs: null,
      black: none,
      still: none,
      fade: none,
      flashes: { most: 0, ms: 0 },
      marks: [],
      bars: null,
      sharpness: 0,
      halfShare: 0,
      usable: null,
      asVideoBytes: null,
      missing: null,
      palette: dominantColours(colours, 5).map(({ colour, share }) => ({
        hex: convertOklabToHex(colour),
        share: Math.round(share * 100) / 100,
      })),
    },
    strip: { bytes: new Uint8Array(await blob.arrayBuffer()), cells: 1 },
    trace: null,
  }
}
