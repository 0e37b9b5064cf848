import { isKeyFrame, KEY_HEAD_BYTES } from '../../core/media/codecs/isKeyFrame'
import type { DecodedFrame } from './DecodedFrame'
import type { OpenClip } from './OpenClip'
import { decodePictures } from './decodePictures'
import { startBefore } from './OpenClip'
import { WorkError } from './WorkError'

/**
 * Decoded frames that wait for their consumer, and chunks that wait for the decoder. Queues of the
 * platform are unbounded.
 */
const MAX_WAITING = 8
/** Bytes fetched at once, so that a clip is read in few requests. */
const READ_AHEAD_BYTES = 2 * 1024 * 1024
const STALL_MS = 5000

/**
 * Decodes the shown frames `first` to `last` (numbers in order of presentation) with back-pressure:
 * only a few frames exist at a time, for clips of any length. Errors: `work/decode-failed`,
 * `work/stalled`, `work/cancelled`.
 */
export async function* decodeFrames(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  if (clip.config) yield* decodeVideo(clip, clip.config, first, last, signal)
  else yield* decodePictures(clip, first, last, signal)
}

async function* decodeVideo(
  clip: OpenClip,
  config: VideoDecoderConfig,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  const { presentation, ranks, rankOf, file } = clip
  const samples = file.video.samples
  const numberOfRank = new Map<number, number>()
  let lastSample = 0
  for (let number = first; number <= last; number++) {
    numberOfRank.set(ranks[number]!, number)
    lastSample = Math.max(lastSample, presentation.order[number]!)
  }
  const waiting: DecodedFrame[] = []
  let failure: unknown = null
  let wake = (): void => undefined
  const decoder = new VideoDecoder({
    output: (frame) => {
      const number = numberOfRank.get(frame.timestamp)
      if (number === undefined) frame.close()
      else waiting.push({ number, frame })
      wake()
    },
    error: (error) => {
      failure = new WorkError('work/decode-failed', undefined, error)
      wake()
    },
  })
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
  decoder.addEventListener('dequeue', () => wake())
  const check = (): void => {
    if (signal.aborted) throw new WorkError('work/cancelled')
    if (failure) throw failure
  }

  try {
    decoder.configure(config)
    const read = chunkReader(clip)
    let due = numberOfRank.size
    let flushed: Promise<void> | null = null
    const start = await startBefore(clip, presentation.order[first]!)
    let next = start
    while (due > 0) {
      check()
      // The decoder is kept busy while its frames are consumed.
      if (
        next < samples.count &&
        next <= lastSample + MAX_WAITING &&
        decoder.decodeQueueSize + waiting.length < MAX_WAITING
      ) {
        const data = await read(next)
        check()
        decoder.decode(
          new EncodedVideoChunk({
            type:
              next === start ||
              (samples.keys[next] === 1 &&
                isKeyFrame(file.video.codec, data.subarray(0, KEY_HEAD_BYTES)) !== false)
                ? 'key'
                : 'delta',
            timestamp: rankOf[next]!,
            data,
          }),
        )
        next += 1
        continue
      }
      const taken = waiting.shift()
      if (taken) {
        due -= 1
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
          (error: unknown) => {
            failure ??= new WorkError('work/decode-failed', undefined, error)
            wake()
          },
        )
      }
      if (waiting.length > 0) continue
      const ended = await Promise.race([flushed.then(() => true), change().then(() => false)])
      // Frames that never come (a damaged tail) end the clip early rather than hang.
      if (ended && waiting.length === 0) {
        check()
        if (due === numberOfRank.size) throw new WorkError('work/decode-failed')
        return
      }
    }
  } finally {
    signal.removeEventListener('abort', stop)
    waiting.forEach(({ frame }) => frame.close())
    if (decoder.state !== 'closed') decoder.close()
  }
}

/** Bytes of the file that were asked for. */
interface Block {
  readonly start: number
  readonly bytes: Promise<Uint8Array>
  readonly length: number
}

/** How many frames before a block's end the next one is asked for. */
const FETCH_AHEAD_SAMPLES = 16

/** Reads samples' bytes, fetching neighbours that lie together in one go. */
export function chunkReader(clip: OpenClip): (sample: number) => Promise<Uint8Array> {
  const { samples } = clip.file.video
  let held: Block = { start: 0, bytes: Promise.resolve(new Uint8Array(0)), length: 0 }
  let next: Block | null = null
  const fetchBlock = (start: number, min: number): Block => {
    const length = Math.min(Math.max(min, READ_AHEAD_BYTES), Math.max(0, clip.source.size - start))
    const bytes = clip.source.read(start, length)
    // A block that is fetched ahead may never be wanted: its failure counts only when it is.
    bytes.catch(() => undefined)
    return { start, bytes, length }
  }
  const covers = (block: Block | null, offset: number, size: number): block is Block =>
    block !== null && offset >= block.start && offset + size <= block.start + block.length
  return async (sample) => {
    const offset = samples.offsets[sample]!
    const size = samples.sizes[sample]!
    if (!covers(held, offset, size)) {
      held = covers(next, offset, size) ? next : fetchBlock(offset, size)
      next = null
    }
    // The next block begins with a frame that ends the present one, so it is requested once that
    // frame is known.
    const following = sample + FETCH_AHEAD_SAMPLES
    if (
      next === null &&
      following < samples.count &&
      !covers(held, samples.offsets[following]!, samples.sizes[following]!)
    ) {
      const first = firstBeyond(sample, held)
      if (first !== null) next = fetchBlock(samples.offsets[first]!, samples.sizes[first]!)
    }
    return (await held.bytes).subarray(offset - held.start, offset - held.start + size)
  }

  /** The first sample after `sample` that does not lie in the block whole. */
  function firstBeyond(sample: number, block: Block): number | null {
    for (
      let index = sample + 1;
      index < Math.min(samples.count, sample + FETCH_AHEAD_SAMPLES + 1);
      index++
    ) {
      if (!covers(block, samples.offsets[index]!, samples.sizes[index]!)) return index
    }
    return null
  }
}
