import { isKeyFrame, KEY_HEAD_BYTES } from '../../../core/media/codecs/isKeyFrame'
import { WorkError } from '../WorkError'
import { nextTask } from '../nextTask'
import { chunkReader } from './chunkReader'
import type { DecodedFrame } from './DecodedFrame'
import { DecodePlan, type Stretch } from './DecodePlan'
import { startAfter, startBefore, startData, type OpenClip } from './OpenClip'

/**
 * Decoded frames that wait for their consumer, and chunks that wait for the decoder. Queues of the
 * platform are unbounded.
 */
const MAX_WAITING = 8
const STALL_MS = 5000

/** What is still to come of the frames asked for, by the rank of their samples. */
interface Due {
  readonly numberOfRank: Map<number, number>
  readonly lastSample: number
}

/** A decoder gave up. */
class DecodeFailure extends Error {
  /** The sample that it failed at, as far as its queue tells. */
  readonly sample: number
  /** Whether it had given any frame before. */
  readonly hadOutput: boolean

  constructor(sample: number, hadOutput: boolean, cause: unknown) {
    super('decoding failed', { cause })
    this.sample = sample
    this.hadOutput = hadOutput
  }
}

/**
 * Those of the shown frames `first` to `last` that can be decoded, in order. Errors:
 * `work/stalled`, `work/cancelled`.
 */
export async function* decodeVideo(
  clip: OpenClip,
  config: VideoDecoderConfig,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  const { presentation, ranks } = clip
  const numberOfRank = new Map<number, number>()
  let lastSample = 0
  for (let number = first; number <= last; number++) {
    numberOfRank.set(ranks[number]!, number)
    lastSample = Math.max(lastSample, presentation.order[number]!)
  }
  const due: Due = { numberOfRank, lastSample }
  const starts = {
    first: clip.firstKey,
    before: (sample: number) => startBefore(clip, sample),
    after: (sample: number) => startAfter(clip, sample),
  }
  const plan = await DecodePlan.start(starts, presentation.order[first]!, lastSample)
  let latest = first - 1
  while (plan.current && numberOfRank.size > 0) {
    try {
      for await (const decoded of decodeStretch(clip, config, plan.current, due, signal)) {
        // After a jump over damage, frames that are shown before it may follow it.
        if (decoded.number < latest) decoded.frame.close()
        else {
          latest = decoded.number
          yield decoded
        }
      }
      await plan.succeeded()
    } catch (error) {
      if (!(error instanceof DecodeFailure)) throw error
      await plan.failed(error.sample, error.hadOutput)
    }
  }
}

async function* decodeStretch(
  clip: OpenClip,
  config: VideoDecoderConfig,
  { from, until }: Stretch,
  { numberOfRank, lastSample }: Due,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  const end = Math.min(clip.file.video.samples.count, until, lastSample + MAX_WAITING + 1)
  const decoder = new StretchDecoder(clip, from, numberOfRank)
  const stop = (): void => decoder.wake()
  signal.addEventListener('abort', stop)
  try {
    decoder.configure(config)
    while (numberOfRank.size > 0) {
      decoder.check(signal)
      // The decoder is kept busy while its frames are consumed.
      if (decoder.takesMore(end)) {
        await decoder.feed(signal)
        continue
      }
      const taken = decoder.waiting.shift()
      if (taken) {
        numberOfRank.delete(clip.ranks[taken.number]!)
        // Only then is the decoder told to go on, while this frame is being worked on.
        await nextTask()
        yield taken
        continue
      }
      if (decoder.isFull) {
        await decoder.change()
        continue
      }
      const flushed = decoder.flush()
      if (decoder.waiting.length > 0) continue
      const isOver = await Promise.race([
        flushed.then(() => true),
        decoder.change().then(() => false),
      ])
      if (isOver && decoder.waiting.length === 0) {
        decoder.check(signal)
        return
      }
    }
  } finally {
    signal.removeEventListener('abort', stop)
    decoder.close()
  }
}

/** A decoder from one sample on, with the frames that came out of it and were not taken yet. */
class StretchDecoder {
  readonly waiting: DecodedFrame[] = []
  private readonly clip: OpenClip
  private readonly from: number
  private readonly read: ReturnType<typeof chunkReader>
  private readonly decoder: VideoDecoder
  private next: number
  private outputs = 0
  /** A decoder that has failed no longer says how many samples it had left. */
  private queued = 0
  private failure: unknown = null
  private flushed: Promise<void> | null = null
  private onChange = (): void => undefined

  /** `numberOfRank` are the frames that are asked for; others are closed at once. */
  constructor(clip: OpenClip, from: number, numberOfRank: ReadonlyMap<number, number>) {
    this.clip = clip
    this.from = from
    this.next = from
    this.read = chunkReader(clip)
    this.decoder = new VideoDecoder({
      output: (frame) => {
        this.outputs += 1
        const number = numberOfRank.get(frame.timestamp)
        if (number === undefined) frame.close()
        else this.waiting.push({ number, frame })
        this.wake()
      },
      error: (cause) => this.fail(cause),
    })
    this.decoder.addEventListener('dequeue', () => {
      this.queued = this.decoder.decodeQueueSize
      this.wake()
    })
  }

  configure(config: VideoDecoderConfig): void {
    this.decoder.configure(config)
  }

  /** Ends a wait for a change. */
  wake(): void {
    this.onChange()
  }

  /** Waits until something happens. Error: `work/stalled`. */
  change(): Promise<void> {
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => reject(new WorkError('work/stalled')), STALL_MS)
      this.onChange = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  /** Throws what has gone wrong. Errors: `work/cancelled`, `DecodeFailure`. */
  check(signal: AbortSignal): void {
    if (signal.aborted) throw new WorkError('work/cancelled')
    // Frames that came out before the failure are good.
    if (this.failure && this.waiting.length === 0) throw this.failure
  }

  get isFull(): boolean {
    return this.decoder.decodeQueueSize >= MAX_WAITING
  }

  /** Whether the next sample, before `end`, can be given to it now. */
  takesMore(end: number): boolean {
    const { decoder, failure, next, waiting } = this
    return !failure && next < end && decoder.decodeQueueSize + waiting.length < MAX_WAITING
  }

  /** Gives it the next sample. Errors: those of `check`, and of reading. */
  async feed(signal: AbortSignal): Promise<void> {
    const { clip, from, next } = this
    const { samples, codec } = clip.file.video
    const data = await this.read(next)
    this.check(signal)
    if (this.failure) return
    const isKey =
      next === from ||
      (samples.keys[next] === 1 && isKeyFrame(codec, data.subarray(0, KEY_HEAD_BYTES)) !== false)
    this.decoder.decode(
      new EncodedVideoChunk({
        type: isKey ? 'key' : 'delta',
        timestamp: clip.rankOf[next]!,
        data: next === from ? startData(clip, next, data) : data,
      }),
    )
    this.next += 1
    this.queued = this.decoder.decodeQueueSize
  }

  /** Lets it give out what it holds back; done when nothing more will come. */
  flush(): Promise<void> {
    this.flushed ??= this.decoder.flush().then(
      () => this.wake(),
      (cause: unknown) => this.fail(cause),
    )
    return this.flushed
  }

  close(): void {
    this.waiting.forEach(({ frame }) => frame.close())
    if (this.decoder.state !== 'closed') this.decoder.close()
  }

  private fail(cause: unknown): void {
    const sample = Math.max(this.from, this.next - 1 - this.queued)
    this.failure ??= new DecodeFailure(sample, this.outputs > 0, cause)
    this.wake()
  }
}
