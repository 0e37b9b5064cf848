import { constantQuantizer, type RateControl } from './RateControl'
import type { ProbeCurve } from './ProbeCurve'
import { frameWeights, QuantizerRateControl, windowWeights } from './QuantizerRateControl'
import { anchorsFor, quantizerOf, rankOf, type LoopPoint, type Ranks } from './ranks'
import { BitrateRateControl } from './BitrateRateControl'

/** The goal of a file: the best quality within a byte budget, or constant quality at any size. */
export type WeightGoal =
  | { readonly kind: 'budget'; readonly bytes: number }
  | { readonly kind: 'quality'; readonly ssim: number }

/**
 * SSIM at which a budget is not filled further: no difference is visible above it. Source:
 * docs/weight.md.
 */
export const VISUALLY_LOSSLESS_SSIM = 0.985
/**
 * SSIM is lenient on dark and smooth pictures, where smears and blotches show below this: both must
 * be reached. Decibels of `seenDecibels`. Source: docs/weight.md, where loss is seen.
 */
export const VISUALLY_LOSSLESS_DECIBELS = 42
/**
 * How much more than the ceiling seems to need an encoder may take that only takes a rate: its
 * frames differ more, and the worst of them counts.
 */
const RATE_HEADROOM = 1.25
/** The curve is a sample of the loop: a little more is asked of it than of the file. */
const PROBE_MARGIN = 0.0015
/** A file below this share of its budget is worth another pass. */
const MIN_FILL = 0.98
/** A second pass is surer of what it does, and must not miss. */
const SECOND_PASS_TARGET = 0.991
const TARGET_AFTER_OVERSHOOT = { quantizer: 0.991, rate: 0.989 } as const
/**
 * Maximum extra share of a budget for the loop point, and the share of the range below which a
 * finer quantizer has no effect there.
 */
const LOOP_POINT_SHARE = 0.01
const LOOP_POINT_FINEST = 0.16
/**
 * A pass whose plain frames spread over more of the range of quantizers is uneven: the next one
 * knows what is heavy.
 */
const MAX_SPREAD = 0.1
/**
 * Maximum share of a budget for the first frame with a bit-rate encoder, and the maximum ratio of
 * its rate to the plain rate.
 */
const MAX_FIRST_SHARE = 0.25
const MAX_FIRST_BOOST = 8
/** How many times what an equally fine key frame takes it may have at most. */
const FIRST_EXCESS = 1.5
/** A quality target counts as reached if it is missed by no more than this. */
const SSIM_TOLERANCE = 0.002
/** Beyond the probe. Source: docs/weight.md. */
const MAX_PASSES = 2

/** Whether no loss of a clip is visible, by its mean figures. */
export function isVisuallyLossless({
  ssim,
  seen,
}: {
  readonly ssim: number
  readonly seen: number
}): boolean {
  return ssim >= VISUALLY_LOSSLESS_SSIM && seen >= VISUALLY_LOSSLESS_DECIBELS
}

/** A file that is this near to the ceiling is not made again for it, in decibels. */
const SEEN_TOLERANCE = 0.5

/** Whether a file needs no more bytes than it has. */
export const showsNoLoss = ({ ssim, seen }: Pick<PassResult, 'ssim' | 'seen'>): boolean =>
  isVisuallyLossless({ ssim, seen: seen + SEEN_TOLERANCE })

/** What the passes of a file are planned from. */
export interface PassJob {
  readonly goal: WeightGoal
  readonly curve: ProbeCurve
  readonly frames: number
  readonly framesPerSecond: number
  /** The range of the encoder's setting: quantizers, or bits a second. */
  readonly bounds: { readonly finest: number; readonly coarsest: number }
  /** How strongly frame `k` is part of the loop point, 0 to 1; null for clips without one. */
  readonly ramp: ((k: number) => number) | null
  /**
   * The interval of the encoder's anchor frames, and the sizes of the loop's windows against their
   * mean, from the probe.
   */
  readonly anchorEvery: number | null
  readonly parts: readonly number[]
  /** Bytes that the container adds to frames of so many bytes. */
  readonly overhead: (frameBytes: number) => number
}

/** A pass that was made. */
export interface PassResult {
  /** Of the whole file, and of each frame. */
  readonly bytes: number
  readonly sizes: readonly number[]
  /** The setting of each frame. */
  readonly settings: readonly number[]
  /** Mean similarity of the frames that were compared, and that of the worst. */
  readonly ssim: number
  readonly worst: number
  /** How little of the loss shows, in decibels. */
  readonly seen: number
}

/** What to do next, given the passes so far. */
export type PassDecision =
  | { readonly kind: 'encode'; readonly rateControl: RateControl }
  | { readonly kind: 'keep'; readonly index: number }

/**
 * The finest setting that is useful: where the curve reaches the maximum useful quality. `extra`
 * corrects the target for curves that proved wrong.
 */
export function maxQualitySetting(
  { curve, bounds }: Pick<PassJob, 'curve' | 'bounds'>,
  extra: QualityError = NO_ERROR,
): number {
  return curve.coarsestThat(
    (setting) =>
      isVisuallyLossless({
        ssim: curve.ssim(setting) - PROBE_MARGIN - extra.ssim,
        seen: curve.seen(setting) - extra.seen,
      }),
    bounds.finest,
    bounds.coarsest,
  )
}

/** How much better a curve says that a pass is than it was. */
interface QualityError {
  readonly ssim: number
  readonly seen: number
}
const NO_ERROR: QualityError = { ssim: 0, seen: 0 }

/**
 * The next pass, or which of those made is kept: pure, so that it can be tried against any encoder.
 * Never more than two. For a budget the largest file within it is kept, or the smallest where none
 * is; for a quality the lightest that holds it, or the best.
 */
export function planPass(job: PassJob, made: readonly PassResult[]): PassDecision {
  return job.goal.kind === 'budget'
    ? planForBudget(job, job.goal.bytes, made)
    : planForQuality(job, job.goal.ssim, made)
}

function planForBudget(job: PassJob, budget: number, made: readonly PassResult[]): PassDecision {
  const [first] = made
  const asked = maxQualitySetting(job)
  const { bytes } = dataBudget(job, budget)
  if (!first)
    return { kind: 'encode', rateControl: rateControlFor(job, bytes, maxSettingFor(job), null) }
  if (made.length >= MAX_PASSES || atFloor(job, first, budget))
    return { kind: 'keep', index: bestWithin(made, budget) }
  if (atFinest(job, first)) return { kind: 'keep', index: 0 }
  if (
    first.bytes <= budget &&
    (first.bytes >= budget * MIN_FILL ? !isUneven(job, first) : showsNoLoss(first))
  )
    return { kind: 'keep', index: 0 }
  return {
    kind: 'encode',
    rateControl: rateControlFor(job, bytes, correctedMaxQuality(job, asked, first), first),
  }
}

/**
 * What a budget leaves to the frames themselves. A container grows with what it holds, by steps: it
 * is reckoned for `basis` bytes of frames, the most that fit with what it adds for them; what a
 * step leaves over is the frames'.
 */
export function dataBudget(
  { overhead }: Pick<PassJob, 'overhead'>,
  budget: number,
): { readonly bytes: number; readonly basis: number } {
  let [low, high] = [0, budget]
  while (high - low > 1) {
    const middle = (low + high) / 2
    if (middle + overhead(middle) <= budget) low = middle
    else high = middle
  }
  const basis = Math.floor(low)
  return { bytes: Math.max(0, budget - overhead(basis)), basis }
}

/** The finest setting of a first pass. */
export function maxSettingFor({ curve, bounds }: Pick<PassJob, 'curve' | 'bounds'>): number {
  const asked = maxQualitySetting({ curve, bounds })
  return curve.steering === 'quantizer' ? asked : Math.min(bounds.finest, asked * RATE_HEADROOM)
}

/**
 * The maximum useful quality, corrected where an earlier pass had a quality other than the curve
 * predicted.
 */
function correctedMaxQuality({ curve, bounds }: PassJob, asked: number, first: PassResult): number {
  const setting = mean(first.settings)
  const error: QualityError = {
    ssim: curve.ssim(setting) - first.ssim,
    seen: curve.seen(setting) - first.seen,
  }
  if (curve.steering === 'quantizer')
    return error.ssim <= 0 && error.seen <= 0
      ? asked
      : maxQualitySetting(
          { curve, bounds },
          { ssim: Math.max(0, error.ssim) + PROBE_MARGIN, seen: Math.max(0, error.seen) },
        )
  const corrected = curve.coarsestThat(
    (each) =>
      isVisuallyLossless({
        ssim: curve.ssim(each) - error.ssim - 2 * PROBE_MARGIN,
        seen: curve.seen(each) - error.seen,
      }),
    bounds.finest,
    bounds.coarsest,
  )
  return Math.max(corrected, maxSettingFor({ curve, bounds }))
}

function rateControlFor(
  job: PassJob,
  bytes: number,
  ceiling: number,
  before: PassResult | null,
): RateControl {
  const { curve, frames, framesPerSecond, bounds } = job
  const over = before ? sum(before.sizes) / bytes - 1 : 0
  // Who has just gone over is aimed lower, the more the further it went.
  const targetShare = before
    ? {
        targetShare:
          over > 0
            ? Math.min(
                TARGET_AFTER_OVERSHOOT[curve.steering],
                SECOND_PASS_TARGET * Math.max(0.985, 1 - 0.05 * over),
              )
            : SECOND_PASS_TARGET,
      }
    : {}
  if (curve.steering === 'quantizer') {
    const weights = before
      ? frameWeights(before.sizes, before.settings, curve)
      : windowWeights(job.parts, frames)
    const ranks = ranksFor(
      job,
      curve.finestWithin(bytes, frames, ceiling, bounds.coarsest),
      bytes,
      ceiling,
    )
    return new QuantizerRateControl({
      frames,
      budgetBytes: bytes,
      curve,
      finest: ceiling,
      coarsest: bounds.coarsest,
      ranks,
      weights,
      known: before !== null,
      ...targetShare,
    })
  }
  const plain = (bytes * 8 * framesPerSecond) / frames
  return new BitrateRateControl({
    frames,
    framesPerSecond,
    budgetBytes: bytes,
    max: ceiling,
    firstBoost: firstBoost(curve, plain, bytes, frames),
    ramp: job.ramp,
    before: before && { asked: before.settings, sizes: before.sizes },
    ...targetShare,
  })
}

/**
 * Ratio of the first frame's rate to the plain rate. Encoders with a target rate start blurry,
 * which would pulse at every loop point. The first frame must neither take too much of the budget
 * nor be much finer than frames that cannot reuse it because everything in them is new. At the
 * coarsest setting all frames have equal quality: there the probe gives the cost of a key frame
 * against the others.
 */
function firstBoost(curve: ProbeCurve, plain: number, bytes: number, frames: number): number {
  const { keyBytes, frameBytes } = curve.points[curve.points.length - 1]!
  const max = Math.min(
    bytes * MAX_FIRST_SHARE,
    ((FIRST_EXCESS * bytes) / frames) * (keyBytes / frameBytes),
  )
  return (
    curve.coarsestThat(
      (rate) => curve.keyBytes(rate) > max,
      plain * MAX_FIRST_BOOST,
      plain / MAX_FIRST_BOOST,
    ) / plain
  )
}

/**
 * Anchor frames and the loop point of a loop whose plain frames have quantizer `base`: as fine as a
 * small part of the budget allows.
 */
function ranksFor(
  { curve, frames, bounds, ramp, anchorEvery }: PassJob,
  base: number,
  bytes: number,
  finest: number,
): Ranks {
  const without: Ranks = {
    anchors: anchorsFor(curve, bounds.coarsest, anchorEvery),
    join: null,
    finest,
  }
  if (!ramp) return without
  const joined = Array.from({ length: frames }, (_, k) => k).filter((k) => ramp(k) > 0)
  const cost = (k: number, quantizer: number): number =>
    k === 0 ? curve.keyBytes(quantizer) : curve.frameBytes(quantizer)
  const extra = (join: LoopPoint): number =>
    joined.reduce(
      (total, k) =>
        total +
        cost(k, quantizerOf(base, k, { ...without, join })) -
        cost(k, quantizerOf(base, k, without)),
      0,
    )
  let [low, high] = [Math.min(1, (bounds.coarsest * LOOP_POINT_FINEST) / base), 1]
  if (extra({ ramp, share: low }) <= bytes * LOOP_POINT_SHARE)
    return { ...without, join: { ramp, share: low } }
  for (let step = 0; step < 24; step++) {
    const middle = (low + high) / 2
    if (extra({ ramp, share: middle }) > bytes * LOOP_POINT_SHARE) low = middle
    else high = middle
  }
  return { ...without, join: { ramp, share: high } }
}

/**
 * Whether the plain frames of a pass by quantizer were much finer in one part of the loop than in
 * another.
 */
function isUneven(job: PassJob, { settings }: PassResult): boolean {
  if (job.curve.steering === 'rate') return false
  const ranks: Ranks = {
    anchors: anchorsFor(job.curve, job.bounds.coarsest, job.anchorEvery),
    join: job.ramp && { ramp: job.ramp, share: 1 },
    finest: job.bounds.finest,
  }
  const plain = settings.filter((_, k) => rankOf(k, ranks) === 'plain').sort((a, b) => a - b)
  const at = (share: number): number => plain[Math.floor(share * (plain.length - 1))] ?? 0
  return at(0.95) - at(0.05) > job.bounds.coarsest * MAX_SPREAD
}

/**
 * The minimum bytes of a loop's frames according to its probe: at the coarsest quantizer, or at the
 * lowest tested rate if the encoder exceeded it. Null if less may be possible.
 */
export function floorBytes({
  curve,
  frames,
  framesPerSecond,
}: Pick<PassJob, 'curve' | 'frames' | 'framesPerSecond'>): number | null {
  const coarsest = curve.points[curve.points.length - 1]!
  const bytes = coarsest.keyBytes + (frames - 1) * coarsest.frameBytes
  return curve.steering === 'quantizer' ||
    coarsest.frameBytes * 8 * framesPerSecond > coarsest.setting * FLOOR_EXCESS
    ? bytes
    : null
}

/** An encoder that gives this multiple of the requested rate cannot give less. */
const FLOOR_EXCESS = 1.15

/** An encoder that was offered this multiple of what it gave cannot go finer. */
const FINEST_EXCESS = 2

/** Whether an encoder that takes a rate gave all it can: browsers bound their finest quantizer. */
function atFinest({ curve, framesPerSecond }: PassJob, { settings, sizes }: PassResult): boolean {
  return (
    curve.steering === 'rate' && sum(settings) / 8 / framesPerSecond > sum(sizes) * FINEST_EXCESS
  )
}

/** Whether the encoder exceeds a budget that is below its minimum: another pass would not help. */
function atFloor(job: PassJob, { bytes, sizes }: PassResult, budget: number): boolean {
  const floor = floorBytes(job)
  return bytes > budget && floor !== null && budget - (bytes - sum(sizes)) < floor
}

/**
 * Of the files within a budget the lightest that reaches the ceiling of quality, else the best of
 * those that fill it, else the largest; where none is within it, the smallest.
 */
function bestWithin(made: readonly PassResult[], budget: number): number {
  const within = made
    .map(({ bytes, ssim, seen, worst }, index) => ({ bytes, ssim, seen, worst, index }))
    .filter(({ bytes }) => bytes <= budget)
  const light = within.filter((pass) => showsNoLoss(pass) && pass.bytes < budget * MIN_FILL)
  if (light.length > 0)
    return light.reduce((best, each) => (each.bytes < best.bytes ? each : best)).index
  const filling = within.filter(({ bytes }) => bytes >= budget * MIN_FILL)
  if (filling.length > 0)
    return filling.reduce((best, each) =>
      each.ssim + each.worst > best.ssim + best.worst ? each : best,
    ).index
  const bySize = made
    .map(({ bytes }, index) => ({ bytes, index }))
    .sort((a, b) => b.bytes - a.bytes)
  return (bySize.find(({ bytes }) => bytes <= budget) ?? bySize[bySize.length - 1]!).index
}

function planForQuality(job: PassJob, wanted: number, made: readonly PassResult[]): PassDecision {
  const { curve, bounds } = job
  const settingFor = (ssim: number): number =>
    curve.coarsestThat((setting) => curve.ssim(setting) >= ssim, bounds.finest, bounds.coarsest)
  const [first] = made
  const setting = settingFor(Math.min(0.9999, wanted + SSIM_TOLERANCE / 2))
  if (!first) return { kind: 'encode', rateControl: qualityRateControl(job, setting) }
  const held = first.ssim >= wanted && first.ssim <= wanted + 2 * SSIM_TOLERANCE
  if (made.length >= MAX_PASSES || held) {
    const holding = made
      .map(({ bytes, ssim }, index) => ({ bytes, ssim, index }))
      .filter(({ ssim }) => ssim >= wanted - SSIM_TOLERANCE)
      .sort((a, b) => a.bytes - b.bytes)
    return {
      kind: 'keep',
      index:
        holding[0]?.index ??
        made.reduce((best, { ssim }, index) => (ssim > made[best]!.ssim ? index : best), 0),
    }
  }
  // The bytes that the loop had too few or too many against its curve.
  return {
    kind: 'encode',
    rateControl: qualityRateControl(
      job,
      settingFor(
        Math.min(0.9999, wanted + SSIM_TOLERANCE / 2 + (curve.ssim(setting) - first.ssim)),
      ),
    ),
  }
}

function qualityRateControl(job: PassJob, setting: number): RateControl {
  if (job.curve.steering === 'rate') return constantQuantizer(Math.round(setting))
  const ranks = ranksFor(job, setting, job.curve.loopBytes(setting, job.frames), job.bounds.finest)
  let k = 0
  return { ...constantQuantizer(setting), next: () => Math.round(quantizerOf(setting, k++, ranks)) }
}

const sum = (values: readonly number[]): number => values.reduce((total, value) => total + value, 0)
const mean = (values: readonly number[]): number => sum(values) / values.length
