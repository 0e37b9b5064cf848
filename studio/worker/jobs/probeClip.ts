import type { ProbeRecipe } from '../../../core/backdrop/recipe'
import { vp9Refreshes } from '../../../core/media/codecs/vp9'
import type { Steering } from '../../../core/weight/ProbeCurve'
import type { ProbeFacts } from '../../../core/weight/ProbeFacts'
import {
  isProbedWhole,
  probeWindows,
  withCuts,
  type ProbeWindows,
} from '../../../core/weight/probeWindows'
import { anchorInterval } from '../../../core/weight/ranks'
import { constantQuantizer } from '../../../core/weight/RateControl'
import { allFrames, outputFrames, toSize } from '../compose/outputFrames'
import { EncoderSession, takesQuantizer } from '../encode/EncoderSession'
import { QualityWatch, type ComparedFrame } from '../encode/QualityWatch'
import { coarsestQuantizer } from '../encode/quantizerRange'
import { storedBytes } from '../encode/storedBytes'
import type { FrameWitness, OpenSequence } from '../sequences/OpenSequence'
import { WorkError } from '../WorkError'
import { motionSteps } from './motionSteps'

/** Frames of a window that are compared. */
const COMPARED = [4, 11]
/** Frames after a key frame whose sizes are not yet typical. */
const SETTLING = 3
/** Settings tried: shares of the coarsest quantizer, or bits a pixel and frame. */
const QUANTIZERS = [0.24, 0.4, 0.58, 0.78, 1]
const BITS_PER_PIXEL = { low: 0.005, high: 0.25, count: 5 }

/** What an encoder of a family can be asked for here. Errors: `work/cannot-encode`. */
async function encoderRange(
  recipe: Omit<ProbeRecipe, 'kind'>,
): Promise<{ readonly steering: Steering; readonly bounds: ProbeFacts['bounds'] }> {
  const { family, width, height } = recipe
  const { frameRate } = recipe.sequence
  const pixels = (width * height * frameRate.num) / frameRate.den
  if (
    family !== 'h264' &&
    (await takesQuantizer({ ...recipe, frameRate, bitsPerSecond: pixels * 0.1 }))
  ) {
    const coarsest = await coarsestQuantizer(family)
    return {
      steering: 'quantizer',
      bounds: { finest: Math.max(1, Math.round(coarsest * 0.06)), coarsest },
    }
  }
  return { steering: 'rate', bounds: { finest: Math.round(pixels * 0.8), coarsest: 20_000 } }
}

/** How much of the time looking for motion takes, at a guess. */
const MOTION_SHARE = 0.2

/** The parts of a sequence that are encoded. Errors: those of decoding. */
async function windowsOf(
  open: OpenSequence,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<ProbeWindows> {
  const { frames } = open.sequence
  return isProbedWhole(frames)
    ? { windows: [allFrames(open)], cuts: 0 }
    : probeWindows(await motionSteps(open, (done) => onProgress(done * MOTION_SHARE), signal))
}

/** AV1's encoders here keep a frame in each of many slots in turn: any interval serves. */
const AV1_ANCHORS = 20

/** An encoder at one setting, and its results. */
interface Trial {
  readonly setting: number
  readonly session: EncoderSession
  readonly watch: QualityWatch
  readonly sizes: number[]
  /** Which kept frames each VP9 frame replaced. */
  readonly keeps: (number | null)[]
}

/**
 * The result of a probe, with each compared frame at each setting; `contrasts` also asks for the
 * quality behind scrims.
 */
export interface Probed {
  readonly facts: ProbeFacts
  readonly compared: readonly (readonly ComparedFrame[])[]
}

/**
 * Encodes some windows of a loop at several settings at once: each frame is decoded and composed
 * once, goes to all encoders, and what comes out is decoded and compared. `settings` asks for
 * others than the usual. Errors: those of decoding and encoding.
 */
export async function probeClip(
  open: OpenSequence,
  recipe: ProbeRecipe,
  onProgress: (done: number) => void,
  signal: AbortSignal,
  settings: readonly number[] | null = null,
  contrasts: readonly number[] = [],
): Promise<Probed> {
  const start = performance.now()
  const { width, height } = recipe
  const { frameRate, frames } = recipe.sequence
  const { windows, cuts } = await windowsOf(open, onProgress, signal)
  const before = isProbedWhole(frames) ? 0 : MOTION_SHARE
  const count = windows.reduce((sum, window) => sum + window.length, 0)
  const { steering, bounds } = await encoderRange(recipe)
  const wanted =
    settings ??
    usualSettings(steering, bounds.coarsest, (width * height * frameRate.num) / frameRate.den)
  const fit = toSize(width, height)
  // A loop that is one window may be shorter than the places that are looked at.
  const compares = (at: number): boolean =>
    COMPARED.includes(at) || (windows.length === 1 && (at % 6 === 5 || at === count - 1))
  const trials: Trial[] = []
  try {
    for (const setting of wanted)
      trials.push(await startTrial(recipe, steering, setting, { count, contrasts }))
    let done = 0
    for (const window of windows) {
      const first = done
      const witness: FrameWitness = {
        wants: compares,
        async see(k, picture) {
          const fitted = fit(await picture())
          trials.forEach(({ watch }) => watch.hold(first + k, fitted))
        },
      }
      for await (const frame of outputFrames(open, recipe, window, 0, witness, signal)) {
        encodeAll(trials, frame, Math.round((done * 1e6 * frameRate.den) / frameRate.num), {
          isFirst: done === first,
          steering,
          signal,
        })
        for (const { session } of trials) await session.room()
        done += 1
        onProgress(before + ((1 - before) * done) / count)
      }
    }
    const compared: (readonly ComparedFrame[])[] = []
    for (const { session, watch } of trials) {
      await session.finish()
      compared.push(await watch.finish())
    }
    const lengths = windows.map((window) => window.length)
    const points = trials.map(({ setting, sizes }, index) => ({
      setting,
      ...sizesOf(sizes, { lengths, steering, cuts, frames }),
      ...meanOf(compared[index]!),
    }))
    const middle = trials[trials.length >> 1]!
    const anchorEvery =
      steering === 'rate'
        ? null
        : recipe.family === 'av1'
          ? AV1_ANCHORS
          : anchorInterval(middle.keeps)
    return {
      compared,
      facts: {
        kind: 'probe',
        steering,
        bounds,
        points,
        anchorEvery,
        parts: windowShares(middle.sizes, lengths),
        frames,
        seconds: Math.round((performance.now() - start) / 100) / 10,
      },
    }
  } finally {
    trials.forEach(({ session, watch }) => (session.close(), watch.close()))
  }
}

/** An encoder at one setting, with what compares its output. */
async function startTrial(
  recipe: ProbeRecipe,
  steering: Steering,
  setting: number,
  { count, contrasts }: { count: number; contrasts: readonly number[] },
): Promise<Trial> {
  const { width, height } = recipe
  const watch = new QualityWatch({ width, height, count, contrasts })
  const sizes: number[] = []
  const keeps: (number | null)[] = []
  const order = {
    ...recipe,
    frameRate: recipe.sequence.frameRate,
    bitsPerSecond: steering === 'rate' ? setting : 1_000_000,
    steering: { by: steering, rateControl: constantQuantizer(setting) },
  }
  const session = await EncoderSession.start(order, (chunk, decoder) => {
    const stored = storedBytes(recipe.family, chunk)
    sizes.push(stored.byteLength)
    if (recipe.family === 'vp9' && steering === 'quantizer') keeps.push(vp9Refreshes(stored))
    watch.see(chunk, decoder)
  })
  return { setting, session, watch, sizes, keeps }
}

/** Gives a frame to every encoder and closes it. `timestamp` in microseconds. */
function encodeAll(
  trials: readonly Trial[],
  frame: VideoFrame,
  timestamp: number,
  { isFirst, steering, signal }: { isFirst: boolean; steering: Steering; signal: AbortSignal },
): void {
  try {
    if (signal.aborted) throw new WorkError('work/cancelled')
    for (const { session, setting } of trials) {
      const own = new VideoFrame(frame, { timestamp })
      session.encode(own, isFirst, steering === 'quantizer' ? setting : null)
      own.close()
    }
  } finally {
    frame.close()
  }
}

function usualSettings(steering: Steering, coarsest: number, pixelsPerSecond: number): number[] {
  if (steering === 'quantizer') return QUANTIZERS.map((share) => Math.round(share * coarsest))
  const { low, high, count } = BITS_PER_PIXEL
  return Array.from({ length: count }, (_, index) =>
    Math.round(pixelsPerSecond * low * (high / low) ** (index / (count - 1))),
  )
}

/**
 * Mean bytes of the key frames and of the frames that have settled. An encoder that keeps a rate
 * pays for its key frames with those after them: there all count.
 */
function sizesOf(
  sizes: readonly number[],
  {
    lengths,
    steering,
    cuts,
    frames: count,
  }: {
    readonly lengths: readonly number[]
    readonly steering: Steering
    readonly cuts: number
    readonly frames: number
  },
): { keyBytes: number; frameBytes: number } {
  const mean = (values: readonly number[]): number =>
    Math.round(values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length))
  const keys: number[] = []
  const frames: number[] = []
  let from = 0
  for (const length of lengths) {
    const window = sizes.slice(from, from + length)
    keys.push(window[0]!)
    frames.push(...window.slice(steering === 'quantizer' && length > 2 * SETTLING ? SETTLING : 1))
    from += length
  }
  const keyBytes = mean(keys)
  const frameBytes = frames.length > 0 ? mean(frames) : keyBytes
  // An encoder that keeps a rate takes what a cut costs from the frames after it.
  return steering === 'rate'
    ? { keyBytes, frameBytes }
    : { keyBytes, frameBytes: Math.round(withCuts({ keyBytes, frameBytes }, cuts, count)) }
}

function meanOf(compared: readonly ComparedFrame[]): Pick<ComparedFrame, 'ssim' | 'psnr' | 'seen'> {
  const mean = (value: (frame: ComparedFrame) => number): number =>
    compared.reduce((sum, frame) => sum + value(frame), 0) / compared.length
  return {
    ssim: Math.round(mean((frame) => frame.ssim) * 1e5) / 1e5,
    psnr: Math.round(mean((frame) => frame.psnr) * 100) / 100,
    seen: Math.round(mean((frame) => frame.seen) * 100) / 100,
  }
}

/** How heavy the frames of each window came against the mean of all windows. */
function windowShares(sizes: readonly number[], lengths: readonly number[]): number[] {
  const means = windowsIn(sizes, lengths).map(
    (window) =>
      window.slice(1).reduce((sum, bytes) => sum + bytes, 0) / Math.max(1, window.length - 1),
  )
  const all = means.reduce((sum, mean) => sum + mean, 0) / means.length
  return all > 0 ? means.map((mean) => Math.round((mean / all) * 1000) / 1000) : []
}

function windowsIn<T>(values: readonly T[], lengths: readonly number[]): T[][] {
  let from = 0
  return lengths.map((length) => values.slice(from, (from += length)))
}
