import { memorySource } from '../../../core/bytes/ByteSource'
import { GifDecoder } from '../../../core/media/gif/GifDecoder'
import { readGif } from '../../../core/media/gif/readGif'
import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import { parseHex } from '../../../core/picture/srgb'
import { LIMITED_BT709 } from '../compose/composeFrame'
import { WorkError } from '../WorkError'
import { chunkReader } from './chunkReader'
import type { DecodedFrame } from './DecodedFrame'
import type { OpenClip } from './OpenClip'

/**
 * Sequences of pictures are in memory as a whole while they are decoded: larger ones are refused.
 */
const LARGEST_FILE_BYTES = 256 * 1024 * 1024

/**
 * Decodes an animated GIF by our own code, an animated WebP and Motion JPEG by the browser's image
 * decoder. Errors: `work/cannot-decode`, `work/decode-failed`, `work/cancelled`.
 */
export async function* decodePictures(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  const { source, file, presentation } = clip
  const { family } = file.video.codec
  if (family !== 'mjpeg' && source.size > LARGEST_FILE_BYTES)
    throw new WorkError(
      'work/cannot-decode',
      'This sequence of pictures is larger than 256 MB. Export it as MP4 with H.264.',
    )
  const picture =
    family === 'mjpeg'
      ? jpegPictures(clip)
      : family === 'gif'
        ? await gifPictures(clip, await wholeFile(clip))
        : imagePictures(clip, await wholeFile(clip))
  try {
    for (let number = first; number <= last; number++) {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const timestamp = Math.round(
        ((presentation.times[number] ?? 0) * 1e6) / presentation.timescale,
      )
      yield { number, frame: await picture.frame(presentation.order[number]!, timestamp) }
    }
  } finally {
    picture.close()
  }
}

interface Pictures {
  frame(number: number, timestampUs: number): Promise<VideoFrame>
  close(): void
}

function wholeFile({ source, kept }: OpenClip): Promise<Uint8Array> {
  const held = (kept.file ??= source.read(0, source.size))
  held.catch(() => (kept.file = null))
  return held
}

async function gifPictures({ kept, matte }: OpenClip, bytes: Uint8Array): Promise<Pictures> {
  if (!kept.gif) {
    const file = await readGif(memorySource(bytes))
    kept.gif = { file, decoder: new GifDecoder(bytes, file) }
  }
  const { file: gif, decoder } = kept.gif
  return {
    // What the decoder gives is copied before anybody else can ask it.
    frame: (number, timestampUs) =>
      Promise.resolve(
        frameOfPixels(decoder.frame(number), { ...gif, matte, timestamp: timestampUs }),
      ),
    close: () => undefined,
  }
}

/** Motion JPEG: every sample is a JPEG of its own. */
function jpegPictures(clip: OpenClip): Pictures {
  const read = chunkReader(clip)
  return {
    async frame(sample, timestampUs) {
      const image = await createImageBitmap(
        new Blob([(await read(sample)).slice()], { type: 'image/jpeg' }),
        { colorSpaceConversion: 'none' },
      ).catch((cause: unknown) => {
        throw new WorkError('work/decode-failed', undefined, cause)
      })
      return drawnFrame(image, clip.matte, timestampUs)
    },
    close: () => undefined,
  }
}

function drawnFrame(image: ImageBitmap | VideoFrame, matte: string, timestamp: number): VideoFrame {
  const [width, height] =
    'displayWidth' in image
      ? [image.displayWidth, image.displayHeight]
      : [image.width, image.height]
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.drawImage(image, 0, 0)
  image.close()
  const { data } = context.getImageData(0, 0, width, height)
  return frameOfPixels(data, { width, height, matte, timestamp })
}

function imagePictures({ matte }: OpenClip, bytes: Uint8Array): Pictures {
  if (typeof ImageDecoder === 'undefined')
    throw new WorkError(
      'work/cannot-decode',
      'This browser cannot decode animated images. Use a current Chromium-based browser, or export the animation as MP4 with H.264.',
    )
  const decoder = new ImageDecoder({ data: bytes, type: 'image/webp' })
  return {
    async frame(number, timestampUs) {
      const { image } = await decoder.decode({ frameIndex: number }).catch((cause: unknown) => {
        throw new WorkError('work/decode-failed', undefined, cause)
      })
      return drawnFrame(image, matte, timestampUs)
    },
    close: () => decoder.close(),
  }
}

interface PixelsOrder {
  readonly width: number
  readonly height: number
  readonly matte: string
  readonly timestamp: number
}

/** Pixels flattened on a matte, with even sizes for 4:2:0, as a frame in limited BT.709. */
function frameOfPixels(
  pixels: Uint8ClampedArray<ArrayBuffer>,
  { width, height, matte, timestamp }: PixelsOrder,
): VideoFrame {
  const { r, g, b } = parseHex(matte)
  const under = [r, g, b] as const
  const evenWidth = Math.max(2, width - (width % 2))
  const evenHeight = Math.max(2, height - (height % 2))
  const flat = new Uint8ClampedArray(evenWidth * evenHeight * 4)
  for (let y = 0; y < evenHeight; y++) {
    for (let x = 0; x < evenWidth; x++) {
      const from = (Math.min(y, height - 1) * width + Math.min(x, width - 1)) * 4
      const to = (y * evenWidth + x) * 4
      const alpha = pixels[from + 3]! / 255
      for (let channel = 0; channel < 3; channel++)
        flat[to + channel] = under[channel]! + (pixels[from + channel]! - under[channel]!) * alpha
      flat[to + 3] = 255
    }
  }
  return new VideoFrame(convertRgbaToI420(flat, evenWidth, evenHeight).data, {
    format: 'I420',
    codedWidth: evenWidth,
    codedHeight: evenHeight,
    timestamp,
    colorSpace: LIMITED_BT709,
  })
}
