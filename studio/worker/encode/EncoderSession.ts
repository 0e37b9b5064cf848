import type { Fraction } from '../../../core/Fraction'
import { lowestAv1Level } from '../../../core/media/codecs/av1'
import { lowestAvcLevel } from '../../../core/media/codecs/h264'
import { lowestVp9Level, vp9CodecString } from '../../../core/media/codecs/vp9'
import type { Steering } from '../../../core/weight/ProbeCurve'
import { constantQuantizer, type RateControl } from '../../../core/weight/RateControl'
import { WorkError } from '../WorkError'

/**
 * The platform's queues are unbounded; this many frames may wait. The rate control must learn soon
 * how large its frames became.
 */
const MAX_WAITING = 8
const MAX_WAITING_STEERED = 4
/** An encoder that has not given a frame after so long is waiting for others. */
const PATIENCE_MS = 1000

/** What an encoder is asked for. */
export interface EncodeOrder {
  readonly family: 'vp9' | 'h264' | 'av1' | 'vp8'
  readonly width: number
  readonly height: number
  readonly frameRate: Fraction
  readonly bitsPerSecond: number
  /** Frames from one key frame to the next; without it only the first is asked to be one. */
  readonly keyEvery?: number
  /**
   * What each frame is asked for, in place of the bit rate: a quantizer for codecs that take one,
   * or a rate that changes on the way.
   */
  readonly steering?: { readonly by: Steering; readonly rateControl: RateControl } | null
  /**
   * Frames at the front that only bring the encoder into its stride: they are encoded, not kept,
   * and a key frame follows.
   */
  readonly preroll?: number
}

/**
 * The codec strings to try, the best first: levels are computed, since support is claimed for
 * levels that are too low.
 */
function codecStrings({ family, width, height, frameRate, bitsPerSecond }: EncodeOrder): string[] {
  const fps = frameRate.num / frameRate.den
  switch (family) {
    case 'h264': {
      const level = lowestAvcLevel(width, height, fps, bitsPerSecond * 1.5)
        .toString(16)
        .padStart(2, '0')
      return [`avc1.6400${level}`, `avc1.4d00${level}`, `avc1.4200${level}`]
    }
    case 'vp9':
      return [
        vp9CodecString({
          profile: 0,
          level: lowestVp9Level(width, height, fps, bitsPerSecond * 1.5),
          bitDepth: 8,
        }),
      ]
    case 'vp8':
      return ['vp8']
    case 'av1':
      return [`av01.0.${String(lowestAv1Level(width, height, fps)).padStart(2, '0')}M.08`]
  }
}

/** Whether the browser takes a quantizer for each frame of this codec. */
export async function takesQuantizer(order: Omit<EncodeOrder, 'steering'>): Promise<boolean> {
  if (order.family !== 'vp9' && order.family !== 'av1') return false
  return encoderConfig({
    ...order,
    steering: { by: 'quantizer', rateControl: constantQuantizer(128) },
  }).then(
    () => true,
    () => false,
  )
}

/** The configuration the browser takes. Errors: `work/cannot-encode`. */
async function encoderConfig(order: EncodeOrder): Promise<VideoEncoderConfig> {
  for (const codec of codecStrings(order)) {
    const config: VideoEncoderConfig = {
      codec,
      width: order.width,
      height: order.height,
      ...(order.steering?.by === 'quantizer'
        ? { bitrateMode: 'quantizer' as const }
        : { bitrate: order.bitsPerSecond, bitrateMode: 'variable' as const }),
      framerate: order.frameRate.num / order.frameRate.den,
      ...(order.family === 'h264' ? { avc: { format: 'avc' as const } } : {}),
    }
    const answer =
      typeof VideoEncoder === 'undefined'
        ? null
        : await VideoEncoder.isConfigSupported(config).catch(() => null)
    if (answer?.supported) return config
  }
  throw new WorkError('work/cannot-encode')
}

/** Sees each frame as it comes out, in order, and how it is decoded. */
export type ChunkWatcher = (chunk: EncodedVideoChunk, decoder: VideoDecoderConfig) => void

/**
 * One encoder at work: frames go in as there is room, chunks come out to a watcher. Errors:
 * `work/cannot-encode`.
 */
export class EncoderSession {
  private readonly encoder: VideoEncoder
  private readonly config: VideoEncoderConfig
  private readonly family: EncodeOrder['family']
  private readonly max: number
  private decoder: VideoDecoderConfig | null = null
  private failure: unknown = null
  private rate: number
  private given = 0
  private came = 0
  private holdsBack = false
  private wake = (): void => undefined

  private constructor(order: EncodeOrder, config: VideoEncoderConfig, watch: ChunkWatcher) {
    this.config = config
    this.family = order.family
    this.rate = order.bitsPerSecond
    this.max = order.steering ? MAX_WAITING_STEERED : MAX_WAITING
    const fail = (error: unknown): void => {
      this.failure = new WorkError('work/cannot-encode', undefined, error)
      this.wake()
    }
    this.encoder = new VideoEncoder({
      output: (chunk, metadata) => {
        this.decoder = metadata?.decoderConfig ?? this.decoder
        if (this.decoder) watch(chunk, this.decoder)
        this.came += 1
        this.wake()
      },
      error: fail,
    })
    this.encoder.addEventListener('dequeue', () => this.wake())
    this.encoder.configure(config)
  }

  /** An encoder with the first configuration that the browser takes. */
  static async start(order: EncodeOrder, watch: ChunkWatcher): Promise<EncoderSession> {
    return new EncoderSession(order, await encoderConfig(order), watch)
  }

  /** Changes the bit rate from the next frame on, without a key frame. */
  setRate(bitsPerSecond: number): void {
    if (bitsPerSecond === this.rate) return
    this.rate = bitsPerSecond
    this.encoder.configure({ ...this.config, bitrate: bitsPerSecond })
  }

  /** Takes a frame, which stays the caller's. Throws what has failed since. */
  encode(frame: VideoFrame, keyFrame: boolean, quantizer: number | null): void {
    if (this.failure) throw this.failure
    this.given += 1
    this.encoder.encode(frame, {
      keyFrame,
      ...(quantizer === null ? {} : { [this.family]: { quantizer } }),
    })
  }

  /** Resolves when there is room for another frame. */
  async room(): Promise<void> {
    while (this.encoder.encodeQueueSize >= this.max && !this.failure)
      await new Promise<void>((resolve) => (this.wake = resolve))
  }

  /**
   * Resolves when all frames that went in have come out. Encoders that hold some back until others
   * come are found out once, and not waited for again.
   */
  async settled(): Promise<void> {
    while (this.came < this.given && !this.holdsBack && !this.failure) {
      await new Promise<void>((resolve) => {
        const timer = setTimeout(() => {
          this.holdsBack = true
          resolve()
        }, PATIENCE_MS)
        this.wake = () => {
          clearTimeout(timer)
          resolve()
        }
      })
    }
  }

  /** Resolves when everything that went in has come out. */
  async finish(): Promise<void> {
    await this.encoder.flush().catch((error: unknown) => {
      throw new WorkError('work/cannot-encode', undefined, error)
    })
    if (this.failure) throw this.failure
  }

  close(): void {
    if (this.encoder.state !== 'closed') this.encoder.close()
  }
}
