import { dataBudget, isVisuallyLossless, type WeightGoal } from '../passes'
import type { ProbeCurve } from '../ProbeCurve'
import { slopeShare } from './change'
import type { Control, Encoder } from './Encoder'

/** What the passes of an encoder program are planned from. */
export interface NativeJob {
  readonly goal: WeightGoal
  /** From quick encodes of the whole loop; null before they are made. */
  readonly curve: ProbeCurve | null
  /** How much changes from frame to frame, by that curve. */
  readonly change: number
  readonly encoder: Pick<
    Encoder,
    'scale' | 'budgetBy' | 'rateBeyond' | 'fullShare' | 'slope' | 'shortBelow'
  >
  /** What frames took in the run that made the statistics; null before it was made. */
  readonly statisticsBytes: number | null
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
  /** The first frame: decibels above the mean of all, and its share of the bytes. */
  readonly first: { readonly lead: number; readonly share: number }
}

/** What to do next, given the passes so far: first make what is needed to plan them. */
export type NativeDecision =
  | { readonly kind: 'statistics' }
  | { readonly kind: 'probe' }
  | { readonly kind: 'encode'; readonly control: Control }
  | { readonly kind: 'keep'; readonly index: number }

/** A file below this share of its budget is worth another pass. */
const MIN_FILL = 0.98
/** Share of a budget to aim at by rates: they are met to within a hundredth or so. */
const RATE_TARGET = 0.991
/** What is aimed at for a quality, of the bytes that it takes: a rate may be missed. */
const QUALITY_TARGET = 1.01
/**
 * By settings, the first pass may miss by much and only shows what one costs; the last one may not.
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
  const isByRate = goal.kind === 'budget' && encoder.budgetBy === 'rate'
  // They are needed in any case, and tell what the container will add.
  if (isByRate && encoder.shortBelow !== null && job.statisticsBytes === null && !made.length)
    return { kind: 'statistics' }
  if (!curve) return planWithoutCurve(job, made)
  const curved = { ...job, curve }
  if (goal.kind === 'quality') return planForQuality(curved, goal.ssim, made)
  return encoder.budgetBy === 'rate'
    ? planByRate(job, goal.bytes, bytesWithoutLoss(curved, made), made)
    : planForBudget(curved, goal.bytes, made)
}

type CurvedJob = NativeJob & { readonly curve: ProbeCurve }

/**
 * A budget that is certainly less than no visible loss would take is filled by a rate, for which
 * no curve is needed: a probe takes as long as a pass. All else is planned from a curve.
 */
function planWithoutCurve(job: NativeJob, made: readonly NativePass[]): NativeDecision {
  const { goal, encoder, statisticsBytes } = job
  const { shortBelow } = encoder
  if (goal.kind !== 'budget' || encoder.budgetBy !== 'rate') return { kind: 'probe' }
  if (shortBelow === null || statisticsBytes === null) return { kind: 'probe' }
  const isShort = data(job, goal.bytes) < statisticsBytes * shortBelow
  // Where it was enough all the same, less may be.
  return isShort && !made.some(isVisuallyLossless)
    ? planByRate(job, goal.bytes, Infinity, made)
    : { kind: 'probe' }
}

/** What a budget leaves to frames. */
const data = (job: NativeJob, budget: number): number => dataBudget(job, budget).bytes

/** Passes by rates: what fills a budget, or less where `lossless` bytes show no loss. */
function planByRate(
  job: NativeJob,
  budget: number,
  lossless: number,
  made: readonly NativePass[],
): NativeDecision {
  const last = made[made.length - 1]
  const isFinal =
    last &&
    (isVisuallyLossless(last)
      ? last.bytes <= budget && lossless > last.dataBytes * MIN_SAVING
      : last.bytes <= budget && last.bytes >= budget * MIN_FILL)
  const most = last && isOver(made, budget) ? MAX_PASSES : PLANNED_PASSES
  if (isFinal || made.length >= most) return { kind: 'keep', index: bestWithin(made, budget) }
  const bytes = Math.min(data(job, budget) * RATE_TARGET, lossless * QUALITY_TARGET)
  const control = rateFor(job, bytes, made)
  return made.some((pass) => isAlike(pass.control, control))
    ? { kind: 'keep', index: bestWithin(made, budget) }
    : { kind: 'encode', control }
}

/** Bytes of all frames that a quality without visible loss takes. */
const bytesWithoutLoss = (job: CurvedJob, made: readonly NativePass[]): number =>
  expectedBytes(job, ceilingSetting(job, made), made)

/** Decibels above the mean, and share of the bytes, from which a first frame takes too much. */
const LAVISH_LEAD = 5
const LAVISH_SHARE = 0.25
/**
 * Of what no visible loss would take by settings, a rate is given so much: less would do, but what
 * settings take is only known to a tenth.
 */
const SURE_SHARE = 1.05
/**
 * Least share of a rate that such a clip takes: 85 to 91 % was measured. One that takes more is
 * over, and corrected by a third pass; one that takes less is not.
 */
const LAVISH_ANSWER = 0.85

/**
 * Whether a pass by a setting spent much on its first frame that the others have nothing of: noise
 * does not last. A rate gives 1.8 decibels more there.
 */
function isLavish({ encoder }: CurvedJob, { control, first }: NativePass): boolean {
  return (
    encoder.rateBeyond !== null &&
    control.kind === 'setting' &&
    first.lead > LAVISH_LEAD &&
    first.share > LAVISH_SHARE
  )
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
  if (pass.bytes > budget || isLavish(job, pass)) return false
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
  const lossless = expectedBytes(job, ceiling, made)
  const { rateBeyond } = encoder
  // Once a rate was taken its miss is known.
  const isByRate = rateBeyond !== null && made.some((pass) => isRate(pass) || isLavish(job, pass))
  if (isByRate) {
    const wanted = Math.min(bytes * RATE_TARGET, lossless * SURE_SHARE)
    return rateFor(job, made.some(isRate) ? wanted : wanted / LAVISH_ANSWER, made)
  }
  if (lossless <= target) return { kind: 'setting', setting: ceiling }
  const setting = finestWithin(job, target, ceiling, made)
  const isBeyond =
    rateBeyond !== null &&
    setting > rateBeyond &&
    // Below what the coarsest setting takes no rate is met either.
    expectedBytes(job, setting, made) <= target
  if (isBeyond) return rateFor(job, bytes * (made.length === 1 ? UNSURE_RATE : RATE_TARGET), made)
  const tried = made.find((pass) => sameSetting(pass.control, setting))
  if (!tried) return { kind: 'setting', setting }
  if (tried.dataBytes <= bytes) return null
  const coarser = setting + encoder.scale.step
  if (coarser > encoder.scale.coarsest)
    return rateBeyond !== null && tried.dataBytes <= bytes * MOST_BY_RATE
      ? rateFor(job, bytes * RATE_TARGET, made)
      : null
  return made.some((pass) => sameSetting(pass.control, coarser))
    ? null
    : { kind: 'setting', setting: coarser }
}

/** So much more than a budget the coarsest setting may take, that a rate is tried all the same. */
const MOST_BY_RATE = 1.1
/**
 * Share of a budget to aim at by a first rate that is a second pass: near the end of a scale it is
 * missed by 4 % in either direction.
 */
const UNSURE_RATE = 1.03

const isRate = ({ control }: Pick<NativePass, 'control'>): boolean => control.kind === 'rate'

const sameSetting = (control: Control, setting: number): boolean =>
  control.kind === 'setting' && Math.abs(control.setting - setting) < 1e-6

/** The mean rate for so many bytes of frames, corrected by what came of the last one. */
function rateFor(job: NativeJob, bytes: number, made: readonly NativePass[]): Control {
  const plain = (bytes * 8 * job.framesPerSecond) / job.frames
  const last = made.findLast(({ control }) => control.kind === 'rate')
  if (last?.control.kind !== 'rate') return wholeRate(plain)
  const given = (last.control.bitsPerSecond * job.frames) / job.framesPerSecond / 8
  return wholeRate((plain * given) / last.dataBytes)
}

/** Programs are asked for rates in whole kilobits a second. */
const RATE_STEP = 1000
/** A rate may be rounded up by so much: what is aimed at leaves room for it. */
const MAX_ROUNDED_UP = 1.006

function wholeRate(bitsPerSecond: number): Control {
  const steps = Math.max(1, Math.floor((bitsPerSecond * MAX_ROUNDED_UP) / RATE_STEP))
  return {
    kind: 'rate',
    bitsPerSecond: Math.min(steps, Math.ceil(bitsPerSecond / RATE_STEP)) * RATE_STEP,
  }
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
  const byCurve = (): number =>
    nearest.dataBytes * (told(setting) / told(nearest.setting)) ** slopeShare(encoder, job.change)
  if (!other) return byCurve()
  const slope =
    (Math.log(other.dataBytes) - Math.log(nearest.dataBytes)) / (other.setting - nearest.setting)
  // Two that are close together, or out of order by noise, tell no slope.
  return slope < 0 ? nearest.dataBytes * Math.exp(slope * (setting - nearest.setting)) : byCurve()
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
  const { ssim, seen } = errorsOf(job, made)
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

/**
 * How much of what two passes are better than a probe they are taken to be better at fewer bytes,
 * too: their quality falls faster there (dusk: 9 decibels where bytes halve, and its probe 5).
 */
const TRUSTED_GAIN = 0.5

/** How much better the last pass is than the curve says. */
function errorsOf(
  job: CurvedJob,
  made: readonly NativePass[],
): { readonly ssim: number; readonly seen: number } {
  const { curve } = job
  const last = made.findLast((pass) => settingOf(job, pass) !== null)
  const setting = last ? settingOf(job, last) : null
  if (!last || setting === null) return { ssim: 0, seen: 0 }
  const trusted = (better: number): number =>
    better > 0 && last.control.kind === 'rate' ? better * TRUSTED_GAIN : better
  return {
    ssim: trusted(last.ssim - curve.ssim(setting)),
    seen: trusted(last.seen - curve.seen(setting)),
  }
}

/**
 * The setting of a pass; of one by a rate the setting that would take as many bytes, where budgets
 * are met by rates.
 */
function settingOf({ curve, encoder, frames }: CurvedJob, pass: NativePass): number | null {
  const { control, dataBytes } = pass
  if (control.kind === 'setting') return control.setting
  const { finest, coarsest } = encoder.scale
  return encoder.budgetBy === 'rate'
    ? curve.finestWithin(dataBytes / encoder.fullShare, frames, finest, coarsest)
    : null
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
  const { ssim } = errorsOf(job, made)
  const setting = onScale(
    encoder,
    curve.coarsestThat(
      (each) => curve.ssim(each) + ssim >= Math.min(0.9999, wanted + SSIM_TOLERANCE / 2),
      encoder.scale.finest,
      encoder.scale.coarsest,
    ) - encoder.scale.step,
  )
  const control: Control =
    encoder.budgetBy === 'rate'
      ? rateFor(job, expectedBytes(job, setting, made) * QUALITY_TARGET, made)
      : { kind: 'setting', setting }
  return made.some((pass) => isAlike(pass.control, control))
    ? { kind: 'keep', index: lightestHolding(made, wanted) }
    : { kind: 'encode', control }
}

/** Whether two passes would give the same file, or nearly. */
const isAlike = (one: Control, other: Control): boolean =>
  one.kind === 'rate'
    ? other.kind === 'rate' && Math.abs(one.bitsPerSecond / other.bitsPerSecond - 1) < ALIKE
    : other.kind === 'setting' && sameSetting(one, other.setting)
const ALIKE = 0.005

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
