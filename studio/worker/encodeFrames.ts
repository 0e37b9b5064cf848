import { lowestAvcLevel } from '../../core/media/codecs/h264'
import { lowestVp9Level, vp9CodecString } from '../../core/media/codecs/vp9'
import type { EncodedFrame, EncodedTrack } from '../../core/media/EncodedTrack'
import type { ColourFacts } from '../../core/media/MediaFile'
import type { Fraction } from '../../core/loop/Fraction'
import { WorkError } from './WorkError'

const MOST_WAITING = 8
const BLOCK_BYTES = 256 * 1024

/** What an encoder is asked for. */
export interface EncodeOrder {
  readonly family: 'vp9' | 'h264' | 'av1' | 'vp8'
  readonly width: number
  readonly height: number
  readonly frameRate: Fraction
  readonly bitsPerSecond: number
  /** Frames from one key frame to the next; without it only the first is asked to be one. */
  readonly keyEvery?: number
  /** A quantizer for each frame in place of the bit rate, for codecs that take one. */
  readonly quantizerOf?: ((k: number) => number) | null
  /** Frames at the front that only bring the encoder into its stride: they are encoded, not kept, and a key frame follows. */
  readonly preroll?: number
}

/** The codec strings to try, the best first: levels are computed, since support is claimed for levels that are too low. */
function codecStrings({ family, width, height, frameRate, bitsPerSecond }: EncodeOrder): string[] {
  const fps = frameRate.num / frameRate.den
  switch (family) {
    case 'h264': {
      const level = lowestAvcLevel(width, height, fps, bitsPerSecond * 1.5).toString(16).padStart(2, '0')
      return [`avc1.6400${level}`, `avc1.4d00${level}`, `avc1.4200${level}`]
    }
    case 'vp9':
      return [vp9CodecString({ profile: 0, level: lowestVp9Level(width, height, fps, bitsPerSecond * 1.5), bitDepth: 8 })]
    case 'vp8':
      return ['vp8']
    case 'av1':
      return ['av01.0.08M.08', 'av01.0.12M.08']
  }
}

/** Whether the browser takes a quantizer for each frame of this codec. */
export async function takesQuantizer(order: EncodeOrder): Promise<boolean> {
  if (order.family !== 'vp9' && order.family !== 'av1') return false
  return encoderConfig({ ...order, quantizerOf: () => 128 }).then(() => true, () => false)
}

function byQuantizer({ quantizerOf }: EncodeOrder): boolean {
  return Boolean(quantizerOf)
}

/** The configuration the browser takes. Errors: `work/cannot-encode`. */
export async function encoderConfig(order: EncodeOrder): Promise<VideoEncoderConfig> {
  for (const codec of codecStrings(order)) {
    const config: VideoEncoderConfig = {
      codec,
      width: order.width,
      height: order.height,
      ...(byQuantizer(order) ? { bitrateMode: 'quantizer' as const } : { bitrate: order.bitsPerSecond, bitrateMode: 'variable' as const }),
      framerate: order.frameRate.num / order.frameRate.den,
      ...(order.family === 'h264' ? { avc: { format: 'avc' as const } } : {}),
    }
    const answer = typeof VideoEncoder === 'undefined' ? null : await VideoEncoder.isConfigSupported(config).catch(() => null)
    if (answer?.supported) return config
  }
  throw new WorkError('work/cannot-encode')
}

/**
 * Encodes frames as they come, in order; each is closed when the encoder has it. The first is a key frame.
 * Errors: `work/cannot-encode`, `work/cancelled`.
 */
export async function encodeFrames(
  order: EncodeOrder, frames: AsyncIterable<VideoFrame>, onFrame: (done: number) => void, signal: AbortSignal,
): Promise<EncodedTrack> {
  const config = await encoderConfig(order)
  const encoded: EncodedFrame[] = []
  const room = arena()
  const preroll = order.preroll ?? 0
  let dropped = 0
  let described: VideoDecoderConfig | null = null
  let failure: unknown = null
  let wake = (): void => undefined
  const encoder = new VideoEncoder({
    output: (chunk, metadata) => {
      // The configuration of the last key frame before anything is kept is the one that holds.
      if (encoded.length === 0) described = metadata?.decoderConfig ?? described
      // Encoders here give a chunk for each frame, in order (docs/method.md).
      if (dropped < preroll) {
        dropped += 1
        return
      }
      const data = room(chunk.byteLength)
      chunk.copyTo(data)
      encoded.push({ data, key: chunk.type === 'key' })
      onFrame(encoded.length)
    },
    error: (error) => {
      failure = new WorkError('work/cannot-encode', undefined, error)
      wake()
    },
  })
  encoder.addEventListener('dequeue', () => wake())
  encoder.configure(config)
  try {
    let count = 0
    for await (const frame of frames) {
      try {
        if (signal.aborted) throw new WorkError('work/cancelled')
        if (failure) throw failure
        encoder.encode(frame, { keyFrame: count === preroll || count % (order.keyEvery ?? Infinity) === 0, ...(order.quantizerOf ? { [order.family]: { quantizer: order.quantizerOf(count) } } : {}) })
        count += 1
      } finally {
        frame.close()
      }
      while (encoder.encodeQueueSize >= MOST_WAITING && !failure) await new Promise<void>((resolve) => (wake = resolve))
    }
    await encoder.flush().catch((error: unknown) => {
      throw new WorkError('work/cannot-encode', undefined, error)
    })
    if (failure) throw failure
  } finally {
    if (encoder.state !== 'closed') encoder.close()
  }
  if (encoded.length === 0) throw new WorkError('work/cannot-encode')
  // Held in a property: the compiler does not see that the callback has set it.
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

/** Hands out places in large blocks: a buffer for each small frame would weigh several times the frame. */
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
  return ArrayBuffer.isView(data) ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength).slice() : new Uint8Array(data as ArrayBuffer).slice()
}

/** WebCodecs' names as code points of ISO/IEC 23091-2; what is not told is BT.709, limited. */
function colourFacts(space: VideoColorSpaceInit | null): ColourFacts {
  const primaries: Record<string, number> = { bt709: 1, bt470bg: 5, smpte170m: 6, bt2020: 9, smpte432: 12 }
  const transfer: Record<string, number> = { bt709: 1, smpte170m: 6, linear: 8, 'iec61966-2-1': 13, pq: 16, hlg: 18 }
  const matrix: Record<string, number> = { rgb: 0, bt709: 1, bt470bg: 5, smpte170m: 6, 'bt2020-ncl': 9 }
  return {
    primaries: primaries[space?.primaries ?? ''] ?? 1,
    transfer: transfer[space?.transfer ?? ''] ?? 1,
    matrix: matrix[space?.matrix ?? ''] ?? 1,
    fullRange: space?.fullRange ?? false,
  }
}
