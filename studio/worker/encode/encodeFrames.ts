import type { EncodedFrame, EncodedTrack } from '../../../core/media/EncodedTrack'
import { WorkError } from '../WorkError'
import { colourFacts } from './colourFacts'
import { EncoderSession, type ChunkWatcher, type EncodeOrder } from './EncoderSession'
import { storedBytes } from './storedBytes'

const BLOCK_BYTES = 256 * 1024

/**
 * Encodes frames as they come, in order; each is closed when the encoder has it. The first is a key
 * frame. `watch` sees each kept frame as it comes out. Errors: `work/cannot-encode`,
 * `work/cancelled`.
 */
export async function encodeFrames(
  order: EncodeOrder,
  frames: AsyncIterable<VideoFrame>,
  onFrame: (done: number) => void,
  signal: AbortSignal,
  watch: ChunkWatcher | null = null,
): Promise<EncodedTrack> {
  const { steering, preroll = 0, keyEvery = Infinity } = order
  const encoded: EncodedFrame[] = []
  const room = arena()
  let dropped = 0
  let described: VideoDecoderConfig | null = null
  // What only brings the encoder into its stride is asked for what the first kept frame is asked
  // for.
  const first = steering?.rateControl.next() ?? 0
  const session = await EncoderSession.start(
    { ...order, bitsPerSecond: steering?.by === 'rate' ? first : order.bitsPerSecond },
    (chunk, decoder) => {
      // Encoders here give a chunk for each frame, in order (docs/method.md).
      if (dropped < preroll) {
        dropped += 1
        return
      }
      // The configuration of the first frame that is kept is the one that holds.
      described ??= decoder
      const stored = storedBytes(order.family, chunk)
      const data = room(stored.byteLength)
      data.set(stored)
      encoded.push({ data, key: chunk.type === 'key' })
      steering?.rateControl.took(stored.byteLength)
      watch?.(chunk, decoder)
      onFrame(encoded.length)
    },
  )
  try {
    let count = 0
    for await (const frame of frames) {
      try {
        if (signal.aborted) throw new WorkError('work/cancelled')
        if (count > preroll && steering?.rateControl.waits()) await session.settled()
        const setting = count <= preroll ? first : (steering?.rateControl.next() ?? 0)
        if (steering?.by === 'rate') session.setRate(setting)
        session.encode(
          frame,
          count === preroll || count % keyEvery === 0,
          steering?.by === 'quantizer' ? setting : null,
        )
        count += 1
      } finally {
        frame.close()
      }
      await session.room()
    }
    await session.finish()
  } finally {
    session.close()
  }
  if (encoded.length === 0) throw new WorkError('work/cannot-encode')
  // In a property, because the compiler does not see that the callback has set it.
  const { decoderConfig } = { decoderConfig: described as VideoDecoderConfig | null }
  const description = decoderConfig?.description
  return {
    family: order.family,
    width: order.width,
    height: order.height,
    frameRate: order.frameRate,
    frames: encoded,
    description: description ? toBytes(description) : null,
    colour: colourFacts(decoderConfig?.colorSpace ?? null),
  }
}

/**
 * Hands out places in large blocks: a buffer for each small frame would weigh several times the
 * frame.
 */
function arena(): (bytes: number) => Uint8Array<ArrayBuffer> {
  let block = new Uint8Array(0)
  let used = 0
  return (bytes) => {
    if (used + bytes > block.byteLength) {
      block = new Uint8Array(Math.max(bytes, BLOCK_BYTES))
      used = 0
    }
    used += bytes
    return block.subarray(used - bytes, used)
  }
}

function toBytes(data: AllowSharedBufferSource): Uint8Array {
  return ArrayBuffer.isView(data)
    ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength).slice()
    : new Uint8Array(data as ArrayBuffer).slice()
}
