import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createI420 } from '../../../core/picture/I420'
import { WorkError } from '../WorkError'
import { QualityWatch, qualityOf, type ComparedFrame } from './QualityWatch'

const frame = (k: number, ssim: number, psnr: number): ComparedFrame => ({
  k,
  ssim,
  psnr,
  seen: psnr + 3,
  behind: [],
})

describe('the quality of a file', () => {
  const quality = qualityOf([frame(0, 0.99, 47), frame(12, 0.94, 38), frame(30, 0.97, 41)])
  it('is the mean of what was compared, and its worst frame by number', () =>
    expect(quality).toMatchObject({
      ssim: 0.9667,
      worstSsim: 0.94,
      worstFrame: 12,
      psnr: 42,
      seen: 45,
      compared: 3,
    }))
  it('tells the first frame by itself: a blurry start would pulse at every join', () =>
    expect(quality.firstPsnr).toBe(47))
  it('names the first of equally bad frames', () =>
    expect(qualityOf([frame(0, 0.9, 40), frame(7, 0.9, 40)]).worstFrame).toBe(0))
  it('is rounded to what can be told apart', () =>
    expect(
      qualityOf([frame(0, 0.123_456_7, 33.333_33), frame(1, 0.123_456_7, 33.333_33)]),
    ).toMatchObject({
      ssim: 0.1235,
      worstSsim: 0.1235,
      psnr: 33.33,
      firstPsnr: 33.33,
      seen: 36.33,
    }))
})

describe('frames that are decoded beside the encoder', () => {
  const SIDE = 16
  const COUNT = 3
  /** A decoder that takes its time for each frame, and gives so many of them. */
  const decoderThat = (msPerFrame: number, gives: number) =>
    class {
      state = 'unconfigured'
      private frames = 0
      constructor(private readonly sink: VideoDecoderInit) {}
      configure(): void {
        this.state = 'configured'
      }
      decode(): void {
        this.frames += 1
      }
      async flush(): Promise<void> {
        for (let k = 0; k < Math.min(gives, this.frames); k++) {
          await new Promise((resolve) => setTimeout(resolve, msPerFrame))
          this.sink.output({
            format: 'I420',
            visibleRect: { x: 0, y: 0, width: SIDE, height: SIDE },
            copyTo: async () => [],
            close: () => undefined,
          } as unknown as VideoFrame)
        }
        if (gives < this.frames) await new Promise(() => undefined)
      }
      close(): void {
        this.state = 'closed'
      }
    }
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  async function watched(msPerFrame: number, gives = COUNT): Promise<unknown> {
    vi.stubGlobal('VideoDecoder', decoderThat(msPerFrame, gives))
    const watch = new QualityWatch({ width: SIDE, height: SIDE, count: COUNT })
    for (let k = 0; k < COUNT; k++) {
      watch.hold(k, createI420(SIDE, SIDE))
      watch.see({} as EncodedVideoChunk, { codec: 'avc1.64001f' })
    }
    const ended = watch.finish().then(
      (frames) => frames.map(({ k }) => k),
      (error: unknown) => error,
    )
    await vi.advanceTimersByTimeAsync(100_000)
    return ended
  }

  it('are waited for as long as they come, however slow the machine is', async () => {
    expect(await watched(1)).toEqual([0, 1, 2])
    expect(await watched(7000)).toEqual([0, 1, 2])
  })
  it('are given up where none comes any more', async () => {
    expect(await watched(1000, 2)).toBeInstanceOf(WorkError)
    expect(await watched(1000, 0)).toBeInstanceOf(WorkError)
  })
})
