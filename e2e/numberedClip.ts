import type { Page } from 'playwright-core'
import type { EncodedTrack } from '../core/media/EncodedTrack'

/* A clip that carries its frame number in the picture: eight bars, black or white, a bit each. */

const [WIDTH, HEIGHT, BITS] = [320, 180, 8]

/** Encodes frames 0 to `count` − 1 in a page with WebCodecs, as a track ready to be written. */
export async function encodeNumbered(
  page: Page,
  count: number,
  frameRate: EncodedTrack['frameRate'],
): Promise<EncodedTrack> {
  const coded = await page.evaluate(encode, { count, width: WIDTH, height: HEIGHT, bits: BITS })
  return {
    family: 'vp9',
    width: WIDTH,
    height: HEIGHT,
    frameRate,
    colour: { primaries: 1, transfer: 1, matrix: 1, fullRange: false },
    description: null,
    frames: coded.map(({ data, key }) => ({
      data: Uint8Array.from(Buffer.from(data, 'base64')),
      key,
    })),
  }
}

async function encode(order: { count: number; width: number; height: number; bits: number }) {
  const chunks: { data: string; key: boolean }[] = []
  const encoder = new VideoEncoder({
    output: (chunk) => {
      const bytes = new Uint8Array(chunk.byteLength)
      chunk.copyTo(bytes)
      chunks.push({ data: btoa(String.fromCharCode(...bytes)), key: chunk.type === 'key' })
    },
    error: (error) => {
      throw error
    },
  })
  encoder.configure({
    codec: 'vp09.00.10.08',
    width: order.width,
    height: order.height,
    bitrate: 2_000_000,
    latencyMode: 'quality',
  })
  const canvas = new OffscreenCanvas(order.width, order.height)
  const context = canvas.getContext('2d')!
  for (let number = 0; number < order.count; number++) {
    for (let bit = 0; bit < order.bits; bit++) {
      context.fillStyle = (number >> bit) & 1 ? '#fff' : '#000'
      const bar = order.width / order.bits
      context.fillRect(bit * bar, 0, bar, order.height)
    }
    const frame = new VideoFrame(canvas, { timestamp: number * 40_000 })
    encoder.encode(frame, { keyFrame: number % 30 === 0 })
    frame.close()
  }
  await encoder.flush()
  encoder.close()
  return chunks
}

/** The number in a picture of RGBA pixels, `width` × `height`. */
export function numberIn(pixels: Uint8Array, width: number, height: number): number {
  let number = 0
  for (let bit = 0; bit < BITS; bit++) {
    const x = Math.floor(((bit + 0.5) * width) / BITS)
    const y = height >> 1
    if (pixels[(y * width + x) * 4 + 1]! > 127) number |= 1 << bit
  }
  return number
}
