import { dataBudget, isVisuallyLossless, type WeightGoal } from '../passes'
import type { ProbeCurve } from '../ProbeCurve'
import type { Control, Encoder } from './Encoder'

/** What the passes of an encoder program are planned from. */
export interface NativeJob {
  readonly goal: WeightGoal
  /** From quick encodes of the whole loop; null before they are made. */
  readonly curve: ProbeCurve | null
  readonly encoder: Pick<Encoder, 'scale' | 'budgetBy' | 'rateBeyond' | 'fullShare'>
  readonly frames: number
  readonly framesPerSecond: number
  /** Bytes that the container adds to frames of so many bytes. */
  readonly overhead: (frameBytes: number) => number
}

/** A pass at full effort. */
export interface NativePass {
  readonly control: Control
  /** Of the frames, and of the whole file. */
  readonly dataBytes: number
  readonly bytes: number
  readonly ssim: number
  /** How little loss shows, in decibels. */
  readonly seen: number
}

/** What to do next, given the passes so far: first make a probe, where its curve is needed. */
export type NativeDecision =
  | { readonly kind: 'probe' }
  | { readonly kind: 'encode'; readonly control: Control }
  | { readonly kind: 'keep'; readonly index: number }

/** A file below this share of its budget is worth another pass. */
const MIN_FILL = 0.98
/** Share of a budget to aim at by rates: they are met to within a hundredth or so. */
const RATE_TARGET = 0.991
/**
 * By settings, the first pass may miss by much and only shows what one costs; later ones do not.
 */
const SETTING_TARGET = 0.993
/** Beyond the probe; another one only where the last exceeds the budget. */
const PLANNED_PASSES = 2
const MAX_PASSES = 3
/** A quality counts as reached where it is missed by no more than this. */
const SSIM_TOLERANCE = 0.002

/**
 * The next pass of an encoder program, or which of those made is kept: pure, so that it can be
 * tried against any encoder. After the probe two passes at most, and a third only where the second
 * exceeds the budget. Source: docs/weight.md, encoder programs.
 */
export function planNativePass(job: NativeJob, made: readonly NativePass[]): NativeDecision {
  const { goal, curve, encoder } = job
  if (curve) return planOnCurve({ ...job, curve }, made)
  // By rates nothing is needed to begin with; only where a budget is more than a quality without
  // visible loss takes, it has to be known what that is.
  if (goal.kind === 'quality' || encoder.budgetBy === 'setting') return { kind: 'probe' }
  const [first] = made
  if (!first) return { kind: 'encode', control: rateFor(job, data(job, goal.bytes), made) }
  return isVisuallyLossless(first) ? { kind: 'probe' } : planByRate(job, goal.bytes, made)
}

type CurvedJob = NativeJob & { readonly curve: ProbeCurve }

function planOnCurve(job: CurvedJob, made: readonly NativePass[]): NativeDecision {
  return job.goal.kind === 'budget'
    ? planForBudget(job, job.goal.bytes, made)
    : planForQuality(job, job.goal.ssim, made)
}

/** What a budget leaves to frames. */
const data = (job: NativeJob, budget: number): number => dataBudget(job, budget).bytes

/** Passes by rate alone, of a clip that its budget is too small for to show no loss. */
function planByRate(job: NativeJob, budget: number, made: readonly NativePass[]): NativeDecision {
  const last = made[made.length - 1]!
  const isFilled = last.bytes <= budget && last.bytes >= budget * MIN_FILL
  return isFilled || made.length >= (isOver(made, budget) ? MAX_PASSES : PLANNED_PASSES)
    ? { kind: 'keep', index: bestWithin(made, budget) }
    : { kind: 'encode', control: rateFor(job, data(job, budget), made) }
}

function planForBudget(
  job: CurvedJob,
  budget: number,
  made: readonly NativePass[],
): NativeDecision {
  const bytes = data(job, budget)
  const last = made[made.length - 1]
  const ceiling = ceilingSetting(job, made)
  const needsAnother =
    !last ||
    (made.length < PLANNED_PASSES
      ? !isFinal(job, last, budget, ceiling)
      : made.length < MAX_PASSES && isOver(made, budget))
  if (!needsAnother) return { kind: 'keep', index: bestWithin(made, budget) }
  const control = controlFor(job, bytes, ceiling, made)
  return control === null
    ? { kind: 'keep', index: bestWithin(made, budget) }
    : { kind: 'encode', control }
}

/** Whether the last pass exceeds a budget that none before it fills. */
function isOver(made: readonly NativePass[], budget: number): boolean {
  const isFilled = made.some(({ bytes }) => bytes <= budget && bytes >= budget * MIN_FILL)
  return !isFilled && made[made.length - 1]!.bytes > budget
}

/** Whether a first pass is as good as another one could be. */
function isFinal(job: CurvedJob, pass: NativePass, budget: number, ceiling: number): boolean {
  const { control } = pass
  if (pass.bytes > budget) return false
  if (!isVisuallyLossless(pass)) return pass.bytes >= budget * MIN_FILL
  // Less may be enough for a quality that shows no loss.
  return control.kind === 'setting'
    ? Math.abs(control.setting - ceiling) < MAX_CEILING_MISS * job.encoder.scale.coarsest
    : expectedBytes(job, ceiling, []) > pass.dataBytes * MIN_SAVING
}

/** A pass that would take more than this share of another is not worth its time. */
const MIN_SAVING = 0.94
/** A setting this close to the one wanted, as a share of the scale, is not made again. */
const MAX_CEILING_MISS = 0.02

/**
 * The control of a pass for a budget: the coarsest setting without visible loss where that fits,
 * else what fills the budget. Null where nothing better than what was made is known.
 */
function controlFor(
  job: CurvedJob,
  bytes: number,
  ceiling: number,
  made: readonly NativePass[],
): Control | null {
  const { encoder } = job
  const target = bytes * SETTING_TARGET
  if (expectedBytes(job, ceiling, made) <= target) return { kind: 'setting', setting: ceiling }
  if (encoder.budgetBy === 'rate') return rateFor(job, bytes, made)
  const setting = finestWithin(job, target, ceiling, made)
  const { rateBeyond } = encoder
  // Once a rate was taken its miss is known.
  const isByRate = made.some(({ control }) => control.kind === 'rate')
  const isBeyond =
    rateBeyond !== null &&
    setting > rateBeyond &&
    // Below what the coarsest setting takes no rate is met either.
    expectedBytes(job, setting, made) <= target
  if (isBeyond || isByRate) return rateFor(job, bytes, made)
  const tried = made.find((pass) => sameSetting(pass.control, setting))
  if (!tried) return { kind: 'setting', setting }
  if (tried.dataBytes <= bytes) return null
  const coarser = setting + encoder.scale.step
  return coarser <= encoder.scale.coarsest &&
    !made.some((pass) => sameSetting(pass.control, coarser))
    ? { kind: 'setting', setting: coarser }
    : null
}

const sameSetting = (control: Control, setting: number): boolean =>
  control.kind === 'setting' && Math.abs(control.setting - setting) < 1e-6

/** The mean rate that fills a budget, corrected by what the encoder made of the last one. */
function rateFor(job: NativeJob, bytes: number, made: readonly NativePass[]): Control {
  const plain = (bytes * 8 * job.framesPerSecond) / job.frames
  const last = made.findLast(({ control }) => control.kind === 'rate')
  if (last?.control.kind !== 'rate') return { kind: 'rate', bitsPerSecond: plain * RATE_TARGET }
  const given = (last.control.bitsPerSecond * job.frames) / job.framesPerSecond / 8
  return { kind: 'rate', bitsPerSecond: (plain * RATE_TARGET * given) / last.dataBytes }
}

/** A setting on the encoder's scale, rounded to the coarser side. */
function onScale({ scale }: Pick<Encoder, 'scale'>, setting: number): number {
  const steps = Math.ceil(setting / scale.step - 1e-6)
  return Math.min(scale.coarsest, Math.max(scale.finest, steps * scale.step))
}

/**
 * Bytes of all frames at a setting: by the curve, corrected by the passes made. Of two passes at
 * settings the straight line through them counts, in logarithms.
 */
function expectedBytes(job: CurvedJob, setting: number, made: readonly NativePass[]): number {
  const { curve, frames, encoder } = job
  const told = (at: number): number => curve.loopBytes(at, frames)
  const known = made.flatMap(({ control, dataBytes }) =>
    control.kind === 'setting' ? [{ setting: control.setting, dataBytes }] : [],
  )
  const nearest = known.reduce<(typeof known)[number] | null>(
    (best, each) =>
      !best || Math.abs(each.setting - setting) < Math.abs(best.setting - setting) ? each : best,
    null,
  )
  if (!nearest) return told(setting) * encoder.fullShare
  const other = known.find((each) => Math.abs(each.setting - nearest.setting) > 1e-6)
  if (!other) return (told(setting) * nearest.dataBytes) / told(nearest.setting)
  const slope =
    (Math.log(other.dataBytes) - Math.log(nearest.dataBytes)) / (other.setting - nearest.setting)
  // Two that are close together, or out of order by noise, tell no slope.
  return slope < 0
    ? nearest.dataBytes * Math.exp(slope * (setting - nearest.setting))
    : (told(setting) * nearest.dataBytes) / told(nearest.setting)
}

/** The finest setting from `ceiling` on whose expected bytes are at most `bytes`. */
function finestWithin(
  job: CurvedJob,
  bytes: number,
  ceiling: number,
  made: readonly NativePass[],
): number {
  const { scale } = job.encoder
  for (let setting = ceiling; setting <= scale.coarsest; setting += scale.step)
    if (expectedBytes(job, setting, made) <= bytes) return setting
  return scale.coarsest
}

/**
 * The coarsest setting whose loss is not visible, by the curve and by how far the passes made are
 * from it.
 */
function ceilingSetting(job: CurvedJob, made: readonly NativePass[]): number {
  const { curve, encoder } = job
  const { ssim, seen } = errorsOf(curve, made)
  return onScale(
    encoder,
    curve.coarsestThat(
      (setting) =>
        isVisuallyLossless({ ssim: curve.ssim(setting) + ssim, seen: curve.seen(setting) + seen }),
      encoder.scale.finest,
      encoder.scale.coarsest,
    ) - encoder.scale.step,
  )
}

/** How much better the last pass at a setting is than the curve says. */
function errorsOf(
  curve: ProbeCurve,
  made: readonly NativePass[],
): { readonly ssim: number; readonly seen: number } {
  const last = made.findLast(({ control }) => control.kind === 'setting')
  if (last?.control.kind !== 'setting') return { ssim: 0, seen: 0 }
  const { setting } = last.control
  return { ssim: last.ssim - curve.ssim(setting), seen: last.seen - curve.seen(setting) }
}

/**
 * Of the files within a budget the best; the lightest where several show no loss. Where none is
 * within it, the smallest.
 */
function bestWithin(made: readonly NativePass[], budget: number): number {
  const numbered = made.map((pass, index) => ({ ...pass, index }))
  const within = numbered.filter(({ bytes }) => bytes <= budget)
  if (within.length === 0)
    return numbered.reduce((best, each) => (each.bytes < best.bytes ? each : best)).index
  const lossless = within.filter((pass) => isVisuallyLossless(pass))
  return lossless.length > 0
    ? lossless.reduce((best, each) => (each.bytes < best.bytes ? each : best)).index
    : within.reduce((best, each) => (each.ssim > best.ssim ? each : best)).index
}

function planForQuality(
  job: CurvedJob,
  wanted: number,
  made: readonly NativePass[],
): NativeDecision {
  const { curve, encoder } = job
  const last = made[made.length - 1]
  const isReached =
    last && last.ssim >= wanted && last.ssim <= Math.min(1, wanted + 2 * SSIM_TOLERANCE)
  const missed = made.length >= PLANNED_PASSES && made.every(({ ssim }) => ssim < wanted)
  if (last && (isReached || made.length >= (missed ? MAX_PASSES : PLANNED_PASSES)))
    return { kind: 'keep', index: lightestHolding(made, wanted) }
  const { ssim } = errorsOf(curve, made)
  const setting = onScale(
    encoder,
    curve.coarsestThat(
      (each) => curve.ssim(each) + ssim >= Math.min(0.9999, wanted + SSIM_TOLERANCE / 2),
      encoder.scale.finest,
      encoder.scale.coarsest,
    ) - encoder.scale.step,
  )
  return made.some((pass) => sameSetting(pass.control, setting))
    ? { kind: 'keep', index: lightestHolding(made, wanted) }
    : { kind: 'encode', control: { kind: 'setting', setting } }
}

function lightestHolding(made: readonly NativePass[], wanted: number): number {
  const numbered = made.map((pass, index) => ({ ...pass, index }))
  const holding = numbered
    .filter(({ ssim }) => ssim >= wanted - SSIM_TOLERANCE)
    .sort((a, b) => a.bytes - b.bytes)
  return (
    holding[0]?.index ??
    numbered.reduce((best, each) => (each.ssim > best.ssim ? each : best)).index
  )
}
