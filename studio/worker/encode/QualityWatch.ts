import type { ClipQuality } from '../../../core/api/wire'
import { comparedFrames } from '../../../core/loop/comparedFrames'
import type { SeamMeter } from '../../../core/loop/SeamMeter'
import { describeI420 } from '../../../core/picture/describeI420'
import { planesOf, type I420 } from '../../../core/picture/I420'
import { seenDecibels } from '../../../core/picture/seenLoss'
import { measureQuality, type PictureQuality } from '../../../core/picture/ssim'
import { planesOfFrame } from '../compose/composeFrame'
import { WorkError } from '../WorkError'

/**
 * Number of frames of a loop that are compared, the same as for the seam: each is copied once for
 * both.
 */
export const MAX_COMPARED = 24
/** A decoder that gives no frame for so long never will. A busy machine may take long for many. */
const STALL_MS = 8000

/** What a compared frame lost. */
export interface ComparedFrame extends PictureQuality {
  readonly k: number
  /** How little of the loss shows, in decibels. */
  readonly seen: number
}

/** What frame `k` lost; `contrasts` also asks for its similarity behind scrims. */
export function comparedFrame(
  k: number,
  reference: I420,
  made: I420,
  contrasts: readonly number[] = [],
): ComparedFrame {
  return {
    k,
    ...measureQuality(planesOf(reference)[0], planesOf(made)[0], contrasts),
    seen: seenDecibels(reference, made),
  }
}

/**
 * Decodes a clip while it is being encoded, and compares some of its frames with the input.
 * References are held only until their frame is decoded, so that memory does not grow with the clip
 * and no second reading is needed. With a meter it also measures the seam on the decoded frames.
 */
export class QualityWatch {
  private readonly places: ReadonlySet<number>
  private readonly meter: SeamMeter | null
  private readonly contrasts: readonly number[]
  private readonly size: { readonly visibleWidth: number; readonly visibleHeight: number }
  private readonly references = new Map<number, I420>()
  private readonly compared: ComparedFrame[] = []
  private picture: I420 | null = null
  private decoder: VideoDecoder | null = null
  private given = 0
  private seen = 0
  private failure: unknown = null
  private work: Promise<void> = Promise.resolve()

  constructor({
    width,
    height,
    count,
    meter = null,
    max = MAX_COMPARED,
    contrasts = [],
  }: {
    width: number
    height: number
    count: number
    meter?: SeamMeter | null
    max?: number
    contrasts?: readonly number[]
  }) {
    this.places = comparedFrames(count, max)
    this.meter = meter
    this.contrasts = contrasts
    this.size = { visibleWidth: width, visibleHeight: height }
  }

  /** Whether frame `k` is compared: then `hold` must be called before it is encoded. */
  wants(k: number): boolean {
    return this.places.has(k)
  }

  /** Frame `k` as it goes in, at the size that is delivered. */
  hold(k: number, picture: I420): void {
    this.references.set(k, picture)
  }

  /** A coded frame, in order. */
  see(chunk: EncodedVideoChunk, config: VideoDecoderConfig): void {
    if (!this.decoder) {
      this.decoder = new VideoDecoder({
        output: (frame) => this.take(frame),
        error: (error) => (this.failure = error),
      })
      this.decoder.configure({ ...config, optimizeForLatency: true })
    }
    if (this.failure || this.decoder.state === 'closed') return
    this.given += 1
    this.decoder.decode(chunk)
  }

  private take(frame: VideoFrame): void {
    const k = this.seen++
    const wanted = this.references.has(k) || this.meter?.wants(k)
    if (!wanted) {
      frame.close()
      return
    }
    this.work = this.work
      .then(() => this.compare(k, frame))
      .catch((error: unknown) => void (this.failure ??= error))
  }

  private async compare(k: number, frame: VideoFrame): Promise<void> {
    try {
      // One comes after another, and none is kept.
      const picture = (this.picture = await planesOfFrame(frame, this.size, this.picture))
      if (this.meter?.wants(k)) this.meter.see(k, describeI420(picture))
      const reference = this.references.get(k)
      if (!reference) return
      this.references.delete(k)
      this.compared.push(comparedFrame(k, reference, picture, this.contrasts))
    } finally {
      frame.close()
    }
  }

  /**
   * All compared frames, once every frame has come out. Errors: `work/decode-failed` where the clip
   * does not decode.
   */
  async finish(): Promise<readonly ComparedFrame[]> {
    await this.drained()
    await this.work
    this.close()
    if (this.failure || this.seen < this.given || this.compared.length === 0)
      throw new WorkError(
        'work/decode-failed',
        'The finished file does not decode in this browser. Try again, or switch the format off under Weight.',
        this.failure,
      )
    return [...this.compared].sort((a, b) => a.k - b.k)
  }

  /** Waits for the decoder's last frames while frames come out. */
  private async drained(): Promise<void> {
    if (this.decoder?.state !== 'configured') return
    let isDone = false
    const flushed = this.decoder
      .flush()
      .catch((error: unknown) => (this.failure ??= error))
      .then(() => (isDone = true))
    for (let before = -1; !isDone && before < this.seen;) {
      before = this.seen
      let timer: ReturnType<typeof setTimeout> | undefined
      const stalled = new Promise((resolve) => (timer = setTimeout(resolve, STALL_MS)))
      await Promise.race([flushed, stalled])
      clearTimeout(timer)
    }
  }

  /** Lets everything go. */
  close(): void {
    if (this.decoder && this.decoder.state !== 'closed') this.decoder.close()
    this.references.clear()
  }
}

const round = (value: number, digits: number): number =>
  Math.round(value * 10 ** digits) / 10 ** digits

/**
 * Mean and worst of compared frames; the first frame separately, because a blurry start would pulse
 * at every loop point.
 */
export function qualityOf(compared: readonly ComparedFrame[]): Required<ClipQuality> {
  const mean = (value: (frame: ComparedFrame) => number): number =>
    compared.reduce((sum, frame) => sum + value(frame), 0) / compared.length
  const worst = compared.reduce((min, frame) => (frame.ssim < min.ssim ? frame : min))
  return {
    ssim: round(
      mean((frame) => frame.ssim),
      4,
    ),
    worstSsim: round(worst.ssim, 4),
    worstFrame: worst.k,
    psnr: round(
      mean((frame) => frame.psnr),
      2,
    ),
    firstPsnr: round(compared[0]!.psnr, 2),
    seen: round(
      mean((frame) => frame.seen),
      2,
    ),
    compared: compared.length,
  }
}
