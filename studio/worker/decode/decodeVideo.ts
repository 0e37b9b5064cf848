import { isKeyFrame, KEY_HEAD_BYTES } from '../../../core/media/codecs/isKeyFrame'
import { WorkError } from '../WorkError'
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
  const { rankOf, file } = clip
  const { samples, codec } = file.video
  const end = Math.min(samples.count, until, lastSample + MAX_WAITING + 1)
  const waiting: DecodedFrame[] = []
  let outputs = 0
  let next = from
  let failure: unknown = null
  let wake = (): void => undefined
  const decoder = new VideoDecoder({
    output: (frame) => {
      outputs += 1
      const number = numberOfRank.get(frame.timestamp)
      if (number === undefined) frame.close()
      else waiting.push({ number, frame })
      wake()
    },
    error: (cause) => {
      failure ??= new DecodeFailure(Math.max(from, next - 1 - queued), outputs > 0, cause)
      wake()
    },
  })
  // A decoder that has failed no longer says how many samples it had left.
  let queued = 0
  const change = (): Promise<void> =>
    new Promise((resolve, reject) => {
      const timer = setTimeout(() => reject(new WorkError('work/stalled')), STALL_MS)
      wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  const stop = (): void => wake()
  signal.addEventListener('abort', stop)
  decoder.addEventListener('dequeue', () => {
    queued = decoder.decodeQueueSize
    wake()
  })
  const check = (): void => {
    if (signal.aborted) throw new WorkError('work/cancelled')
    // Frames that came out before the failure are good.
    if (failure && waiting.length === 0) throw failure
  }

  try {
    decoder.configure(config)
    const read = chunkReader(clip)
    let flushed: Promise<void> | null = null
    while (numberOfRank.size > 0) {
      check()
      // The decoder is kept busy while its frames are consumed.
      if (!failure && next < end && decoder.decodeQueueSize + waiting.length < MAX_WAITING) {
        const data = await read(next)
        check()
        if (failure) continue
        const isKey =
          next === from ||
          (samples.keys[next] === 1 &&
            isKeyFrame(codec, data.subarray(0, KEY_HEAD_BYTES)) !== false)
        decoder.decode(
          new EncodedVideoChunk({
            type: isKey ? 'key' : 'delta',
            timestamp: rankOf[next]!,
            data: next === from ? startData(clip, next, data) : data,
          }),
        )
        next += 1
        queued = decoder.decodeQueueSize
        continue
      }
      const taken = waiting.shift()
      if (taken) {
        numberOfRank.delete(clip.ranks[taken.number]!)
        yield taken
        continue
      }
      if (decoder.decodeQueueSize >= MAX_WAITING) {
        await change()
        continue
      }
      if (!flushed) {
        flushed = decoder.flush().then(
          () => wake(),
          (cause: unknown) => {
            failure ??= new DecodeFailure(Math.max(from, next - 1 - queued), outputs > 0, cause)
            wake()
          },
        )
      }
      if (waiting.length > 0) continue
      const ended = await Promise.race([flushed.then(() => true), change().then(() => false)])
      if (ended && waiting.length === 0) {
        check()
        return
      }
    }
  } finally {
    signal.removeEventListener('abort', stop)
    waiting.forEach(({ frame }) => frame.close())
    if (decoder.state !== 'closed') decoder.close()
  }
}
