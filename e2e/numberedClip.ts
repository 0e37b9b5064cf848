import type { Page } from 'playwright-core'
import type { EncodedTrack } from '../core/media/EncodedTrack'

/* A clip that carries its frame number in the picture: eight bars, black or white, a bit each. */

const [WIDTH, HEIGHT, BITS] = [320, 180, 8]

/**
 * Encodes frames 0 to `count` − 1 in a page with WebCodecs, as a track ready to be written. Each
 * shows its own number unless `shown` gives another.
 */
export async function encodeNumbered(
  page: Page,
  count: number,
  frameRate: EncodedTrack['frameRate'],
  shown: (number: number) => number = (number) => number,
): Promise<EncodedTrack> {
  const numbers = Array.from({ length: count }, (_, number) => shown(number))
  const coded = await page.evaluate(encode, { numbers, width: WIDTH, height: HEIGHT, bits: BITS })
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

interface Order {
  readonly numbers: readonly number[]
  readonly width: number
  readonly height: number
  readonly bits: number
}

async function encode(order: Order) {
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
  for (const [index, number] of order.numbers.entries()) {
    for (let bit = 0; bit < order.bits; bit++) {
      context.fillStyle = (number >> bit) & 1 ? '#fff' : '#000'
      const bar = order.width / order.bits
      context.fillRect(bit * bar, 0, bar, order.height)
    }
    const frame = new VideoFrame(canvas, { timestamp: index * 40_000 })
    encoder.encode(frame, { keyFrame: index % 30 === 0 })
    frame.close()
  }
  await encoder.flush()
  encoder.close()
  return chunks
}

/** The same frames as JPEG files. */
export async function encodeJpegs(page: Page, count: number): Promise<Uint8Array[]> {
  const numbers = Array.from({ length: count }, (_, number) => number)
  const files = await page.evaluate(
    async (order) => {
      const canvas = new OffscreenCanvas(order.width, order.height)
      const context = canvas.getContext('2d')!
      const coded: string[] = []
      for (const number of order.numbers) {
        for (let bit = 0; bit < order.bits; bit++) {
          context.fillStyle = (number >> bit) & 1 ? '#fff' : '#000'
          const bar = order.width / order.bits
          context.fillRect(bit * bar, 0, bar, order.height)
        }
        const file = await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.9 })
        coded.push(btoa(String.fromCharCode(...new Uint8Array(await file.arrayBuffer()))))
      }
      return coded
    },
    { numbers, width: WIDTH, height: HEIGHT, bits: BITS },
  )
  return files.map((file) => Uint8Array.from(Buffer.from(file, 'base64')))
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
