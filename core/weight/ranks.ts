import type { ProbeCurve } from './ProbeCurve'

/** Frames that others refer to are coded finer: their gain lasts until the picture changes. */
export interface Anchors {
  /** How much finer the first frame is, and each later anchor, in quantizer steps. */
  readonly first: number
  readonly later: number
  /** The interval of the encoder's anchor frames; null if unknown. */
  readonly every: number | null
}

/**
 * Frames around the loop point over which the quantizer becomes finer: coding noise that changes
 * abruptly at each loop point would pulse.
 */
export interface LoopPoint {
  /** How strongly frame `k` is affected: 0 not at all, 1 fully. */
  readonly ramp: (k: number) => number
  /** What share of the others' quantizer it is: at most 1. */
  readonly share: number
}

/** Which frames are coded finer than the plain ones. */
export interface Ranks {
  readonly anchors: Anchors | null
  readonly join: LoopPoint | null
  /** Anchor frames are not made finer than this: no difference is visible. */
  readonly finest: number
}

/**
 * Shares of a quantizer's range by which the first frame and later anchors are finer. Source:
 * docs/weight.md, "Anchors", where they were tried on ten clips.
 */
const FIRST_LIFT = 0.235
const LATER_LIFT = 0.12
/**
 * Towards the coarse end of the range the bytes of ordinary frames fall faster than those of key
 * frames: by this factor where anchor frames still help, and the value beyond which they do not,
 * because frames with new content throughout (rain, flicker) cannot reuse them.
 */
const CALM = 1.1
const RESTLESS = 1.35

/**
 * The same at one step finer: a coarse quantizer drops flicker and noise altogether, so its curve
 * says nothing more.
 */
const NEW_THROUGHOUT = 1.45

/**
 * How many times as fast as those of key frames the bytes of the others fall between two settings,
 * by their logarithms.
 */
function fallsFaster(curve: ProbeCurve, finer: number, coarser: number): number {
  return (
    Math.log2(curve.frameBytes(finer) / curve.frameBytes(coarser)) /
    Math.max(0.01, Math.log2(curve.keyBytes(finer) / curve.keyBytes(coarser)))
  )
}

/**
 * Anchors for a clip, finer the less is new in each frame. `every` is what the encoder showed while
 * it was probed.
 */
export function anchorsFor(
  curve: ProbeCurve,
  coarsest: number,
  every: number | null,
): Anchors | null {
  const [middle, finer, coarser] = curve.points.slice(-3)
  if (!middle || !finer || !coarser) return null
  const faster = fallsFaster(curve, finer.setting, coarser.setting)
  if (fallsFaster(curve, middle.setting, finer.setting) > NEW_THROUGHOUT) return null
  const share = Math.min(1, Math.max(0, (RESTLESS - faster) / (RESTLESS - CALM)))
  return share > 0
    ? { first: coarsest * FIRST_LIFT * share, later: coarsest * LATER_LIFT * share, every }
    : null
}

/**
 * Every how many frames an encoder keeps one beside the last, from the slots (a bit each) that each
 * frame of a stream replaced: key frames replace all, and count too. Null where there is no such
 * habit.
 */
export function anchorInterval(slots: readonly (number | null)[]): number | null {
  const keeps = (at: number): boolean => slots[at] !== null && (slots[at]! & (slots[at]! - 1)) !== 0
  const every = slots.findIndex((each, at) => at > 1 && each !== ALL_SLOTS && keeps(at))
  if (every < 0) return null
  for (let at = every; at < slots.length; at += every) if (!keeps(at)) return null
  return every
}

const ALL_SLOTS = 0xff

/** What frame `k` is to the others. */
export function rankOf(k: number, { anchors, join }: Ranks): 'first' | 'anchor' | 'join' | 'plain' {
  if (k === 0) return 'first'
  if (anchors?.every && k % anchors.every === 0) return 'anchor'
  return join && join.ramp(k) > 0 ? 'join' : 'plain'
}

/** The quantizer of frame `k` where the plain frames have `base`. */
export function quantizerOf(base: number, k: number, ranks: Ranks): number {
  const { anchors, join, finest } = ranks
  const lift = !anchors
    ? 0
    : k === 0
      ? anchors.first
      : rankOf(k, ranks) === 'anchor'
        ? anchors.later
        : 0
  const lifted = Math.min(base, Math.max(finest, base - lift))
  return join ? Math.min(lifted, base * (1 + (join.share - 1) * join.ramp(k))) : lifted
}
