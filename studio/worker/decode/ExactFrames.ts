import { isKeyFrame, KEY_HEAD_BYTES } from '../../../core/media/codecs/isKeyFrame'
import { WorkError } from '../WorkError'
import { chunkReader } from './chunkReader'
import { decodeFrames, isInterlaced } from './decodeFrames'
import { startBefore, startData, type OpenClip } from './OpenClip'

/** Frames kept around the one that was asked for last: steps to and fro then decode nothing. */
const KEPT = 12
/** A decoder is fed this many frames ahead of its output. */
const MAX_WAITING = 8
const STALL_MS = 5000

/**
 * Single frames of a clip by their number, from a decoder that stays open between them: a step
 * forward decodes one frame, and neighbours are kept.
 */
export class ExactFrames {
  private readonly clip: OpenClip
  private readonly read: (sample: number) => Promise<Uint8Array>
  private decoder: VideoDecoder | null = null
  private readonly held = new Map<number, VideoFrame>()
  private readonly numberOfRank = new Map<number, number>()
  /** The next sample to be decoded; frames before `given` have come out already. */
  private next = 0
  private given = -1
  private wanted = 0
  private failure: unknown = null
  private wake: () => void = () => undefined
  private queue: Promise<unknown> = Promise.resolve()

  constructor(clip: OpenClip) {
    this.clip = clip
    this.read = chunkReader(clip)
    clip.ranks.forEach((rank, number) => this.numberOfRank.set(rank, number))
  }

  /**
   * The frame with this number in order of presentation. The taker closes it. Errors: those of
   * decoding.
   */
  frame(number: number, signal: AbortSignal): Promise<VideoFrame> {
    // One at a time: two would fight for the decoder.
    const asked = this.queue.then(() => this.find(number, signal))
    this.queue = asked.catch(() => undefined)
    return asked
  }

  close(): void {
    this.held.forEach((frame) => frame.close())
    this.held.clear()
    if (this.decoder && this.decoder.state !== 'closed') this.decoder.close()
    this.decoder = null
  }

  private async find(number: number, signal: AbortSignal): Promise<VideoFrame> {
    if (signal.aborted) throw new WorkError('work/cancelled')
    if (!this.clip.config || this.clip.alpha || isInterlaced(this.clip))
      return this.picture(number, signal)
    this.wanted = number
    const kept = this.held.get(number)
    if (kept) return kept.clone()
    try {
      return await this.decode(number, signal)
    } catch (error) {
      this.close()
      // Around damage, or from an earlier key frame: `decodeFrames` knows how.
      if (error instanceof WorkError && error.code === 'work/decode-failed')
        return this.picture(number, signal)
      throw error
    }
  }

  private async picture(number: number, signal: AbortSignal): Promise<VideoFrame> {
    for await (const { frame } of decodeFrames(this.clip, number, number, signal)) return frame
    throw new WorkError('work/decode-failed')
  }

  private async decode(number: number, signal: AbortSignal): Promise<VideoFrame> {
    const { presentation, file, rankOf } = this.clip
    const { samples, codec } = file.video
    const sample = presentation.order[number]!
    const start = await startBefore(this.clip, sample)
    const goesOn =
      this.decoder?.state === 'configured' &&
      this.given < number &&
      start <= this.next &&
      this.next <= sample + MAX_WAITING
    if (!goesOn) this.restart(start)
    let flushing = false
    for (;;) {
      if (signal.aborted && !this.held.has(number)) throw new WorkError('work/cancelled')
      if (this.failure) throw this.failure
      const found = this.held.get(number)
      if (found) {
        // After a flush a decoder needs a key frame: the next step restarts it.
        if (flushing) this.given = Infinity
        return found.clone()
      }
      const decoder = this.decoder!
      if (
        this.next < samples.count &&
        this.next <= sample + MAX_WAITING &&
        decoder.decodeQueueSize < MAX_WAITING
      ) {
        const data = await this.read(this.next)
        const key =
          this.next === start ||
          (samples.keys[this.next] === 1 &&
            isKeyFrame(codec, data.subarray(0, KEY_HEAD_BYTES)) !== false)
        decoder.decode(
          new EncodedVideoChunk({
            type: key ? 'key' : 'delta',
            timestamp: rankOf[this.next]!,
            data: this.next === start ? startData(this.clip, start, data) : data,
          }),
        )
        this.next += 1
        continue
      }
      if (
        decoder.decodeQueueSize === 0 &&
        (this.next > sample + MAX_WAITING || this.next >= samples.count) &&
        !flushing
      ) {
        flushing = true
        decoder.flush().then(
          () => {
            this.failure ??= this.held.has(number) ? null : new WorkError('work/decode-failed')
            this.wake()
          },
          () => undefined,
        )
      }
      if (!this.held.has(number)) await this.change()
    }
  }

  private restart(start: number): void {
    if (this.decoder?.state === 'configured') this.decoder.reset()
    else {
      this.decoder = new VideoDecoder({
        output: (frame) => this.take(frame),
        error: (cause) => {
          this.failure = new WorkError('work/decode-failed', undefined, cause)
          this.wake()
        },
      })
      this.decoder.addEventListener('dequeue', () => this.wake())
    }
    this.decoder.configure(this.clip.config!)
    this.failure = null
    this.next = start
    this.given = -1
  }

  private take(frame: VideoFrame): void {
    const number = this.numberOfRank.get(frame.timestamp)
    if (number === undefined) {
      frame.close()
      return
    }
    this.given = Math.max(this.given, number)
    if (number > this.wanted - KEPT) {
      this.held.get(number)?.close()
      this.held.set(number, frame)
    } else frame.close()
    const byDistance = [...this.held.keys()].sort(
      (a, b) => Math.abs(a - this.wanted) - Math.abs(b - this.wanted),
    )
    for (const far of byDistance.slice(KEPT)) {
      this.held.get(far)!.close()
      this.held.delete(far)
    }
    this.wake()
  }

  private change(): Promise<void> {
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => reject(new WorkError('work/stalled')), STALL_MS)
      this.wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }
}
