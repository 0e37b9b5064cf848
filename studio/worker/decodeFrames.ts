import { deinterlaceI420 } from '../../core/picture/deinterlaceI420'
import type { I420 } from '../../core/picture/I420'
import { isKeyFrame, KEY_HEAD_BYTES } from '../../core/media/codecs/isKeyFrame'
import { chunkReader } from './chunkReader'
import { planesOfFrame } from './composeFrame'
import type { DecodedFrame } from './DecodedFrame'
import { decodePictures } from './decodePictures'
import { startAfter, startBefore, startData, type OpenClip } from './OpenClip'
import { WorkError } from './WorkError'

/**
 * Decoded frames that wait for their consumer, and chunks that wait for the decoder. Queues of the
 * platform are unbounded.
 */
const MAX_WAITING = 8
const STALL_MS = 5000
/** Earlier key frames that are tried before the beginning of the clip. */
const MAX_EARLIER_STARTS = 2
/**
 * The decoder reports a failure some samples late: so many are left out at most to get around it.
 */
const MAX_BACKED_OFF = 4

/**
 * Decodes the shown frames `first` to `last` (numbers in order of presentation) with back-pressure:
 * only a few frames exist at a time, for clips of any length. Every number comes, in order: in
 * place of frames that cannot be decoded the last good one is repeated (before the first good one,
 * that one), and their numbers are added to `clip.missing`. Errors: `work/decode-failed` where no
 * frame can be decoded; `work/stalled`, `work/cancelled`.
 */
export async function* decodeFrames(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  if (!clip.config) yield* decodePictures(clip, first, last, signal)
  else if (isInterlaced(clip)) yield* deinterlacedFrames(clip, first, last, signal)
  else yield* everyFrame(clip, first, last, signal)
}

/** Whether a clip's frames are two fields each; Telon makes one moment of them. */
export function isInterlaced({ file }: Pick<OpenClip, 'file'>): boolean {
  return file.video.codec.stream?.interlaced === true
}

/** Deinterlaced frames; each needs the one before it, so one more is decoded. */
async function* deinterlacedFrames(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  let previous: I420 | null = null
  for await (const { number, frame } of everyFrame(clip, Math.max(0, first - 1), last, signal)) {
    try {
      const picture: I420 = await planesOfFrame(frame, clip.file.video)
      if (number >= first) {
        const whole = deinterlaceI420(picture, previous)
        yield { number, frame: frameOfPlanes(whole, frame) }
      }
      previous = picture
    } finally {
      frame.close()
    }
  }
}

/** Planes as a frame with the time and colour of another. */
function frameOfPlanes({ data, width, height }: I420, like: VideoFrame): VideoFrame {
  return new VideoFrame(data, {
    format: 'I420',
    codedWidth: width,
    codedHeight: height,
    timestamp: like.timestamp,
    colorSpace: like.colorSpace,
  })
}

/** `decodeFrames` of a video track, as it is coded. */
async function* everyFrame(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  let good: VideoFrame | null = null
  let next = first
  try {
    for await (const { number, frame } of decodeVideo(clip, clip.config!, first, last, signal)) {
      for (; next < number; next++) {
        clip.missing.add(next)
        yield { number: next, frame: (good ?? frame).clone() }
      }
      good?.close()
      good = frame.clone()
      next = number + 1
      yield { number, frame }
    }
    if (!good) throw new WorkError('work/decode-failed')
    for (; next <= last; next++) {
      clip.missing.add(next)
      yield { number: next, frame: good.clone() }
    }
  } finally {
    good?.close()
  }
}

/** A stretch of samples for one decoder: from a key frame up to `until`, which is left out. */
interface Stretch {
  readonly from: number
  readonly until: number
}

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
 * The frames that can be decoded. If decoding from a key frame fails at once, it starts at earlier
 * ones, at last at the clip's beginning: some encoders write what later frames need only there. If
 * it fails later, the frames before the failure are decoded, and it continues at the next key
 * frame.
 */
async function* decodeVideo(
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
  let earlier = 0
  let backedOff = 0
  let stretch: Stretch | null = {
    from: await startBefore(clip, presentation.order[first]!),
    until: Infinity,
  }
  while (stretch && numberOfRank.size > 0) {
    const { from, until }: Stretch = stretch
    let failure: DecodeFailure
    try {
      yield* decodeStretch(clip, config, stretch, due, signal)
      stretch = until < Infinity ? await nextStretch(clip, until, due) : null
      backedOff = 0
      continue
    } catch (error) {
      if (!(error instanceof DecodeFailure)) throw error
      failure = error
    }
    const canStartEarlier = !failure.hadOutput && until === Infinity && from > clip.firstKey
    if (canStartEarlier) {
      earlier += 1
      const start = earlier > MAX_EARLIER_STARTS ? clip.firstKey : await startBefore(clip, from - 1)
      stretch = { from: start, until }
    } else if (failure.sample > from && backedOff < MAX_BACKED_OFF) {
      backedOff += 1
      stretch = { from, until: Math.min(failure.sample, until - 1) }
    } else {
      backedOff = 0
      stretch = await nextStretch(clip, Math.max(failure.sample, from), due)
    }
  }
}

/** From the first key frame behind a damaged sample; null if no frame of it is asked for. */
async function nextStretch(clip: OpenClip, damaged: number, due: Due): Promise<Stretch | null> {
  const from = await startAfter(clip, damaged)
  return from !== null && from <= due.lastSample ? { from, until: Infinity } : null
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
