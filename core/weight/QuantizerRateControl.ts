import { isWatched, type RateControl } from './RateControl'
import type { ProbeCurve } from './ProbeCurve'
import { quantizerOf, rankOf, type Ranks } from './ranks'

/** The targets of a pass by quantizer. */
export interface QuantizerTarget {
  readonly frames: number
  readonly budgetBytes: number
  readonly curve: ProbeCurve
  /**
   * Bounds of the quantizers: finer than the first is not visible, coarser than the second is
   * impossible.
   */
  readonly finest: number
  readonly coarsest: number
  readonly ranks: Ranks
  /**
   * Ratio of each frame's bytes to the curve: from an earlier pass, or from the windows of the
   * probe.
   */
  readonly weights: readonly number[]
  /** Whether the weights are from an earlier pass, which includes the cost of anchor frames. */
  readonly known: boolean
  /**
   * The share of the budget to aim at: slightly below all of it, because an overshoot is a failure.
   */
  readonly targetShare?: number
}

/**
 * Lands between −0.3 and −1.4 % in one pass. Source: docs/method.md (foreign files), rate
 * control.
 */
const TARGET_SHARE = 0.991
/**
 * So many frames the curve's own word counts against what has come lately, and against all that has
 * come.
 */
const TRUST_FRAMES = 8
const TRUST_ALL = 24
/**
 * The influence of a frame on the estimate decays by this share per frame, and counts for so many
 * frames ahead.
 */
const MEMORY = 0.96
const HORIZON = 24
/** The quantizer moves no further from one frame to the next: a jump would be seen. */
const LARGEST_MOVE = 5
/** What is kept back at least, in frames. */
const RESERVE = 0.5
/** At the end of the loop there is no time for small moves. */
const HURRY_FRAMES = 16
/** A frame this many times heavier than its predecessors is treated as an event of its own. */
const MAX_TELLING = 2.5
/**
 * What anchors cost against a frame of their quantizer among others like it, and what those between
 * them cost then: measured as in `ranks.ts`.
 */
const ANCHOR_COST = 1.6
const BETWEEN_COST = 0.87
/** Weight of the first anchor frames against the other evidence. */
const TRUST_ANCHORS = 1

/** What came against what was expected. */
class Tally {
  private seen = 0
  private expected = 0

  constructor(private readonly memory: number) {}

  add(bytes: number, expected: number): void {
    this.seen = this.seen * this.memory + bytes
    this.expected = this.expected * this.memory + expected
  }

  /**
   * How much heavier frames come than expected, where `trust` bytes speak for what was expected.
   */
  gain(trust: number): number {
    return (this.seen + trust) / (this.expected + trust)
  }
}

/**
 * One pass that ends at a byte budget: for each frame the quantizer at which the curve, corrected
 * by the frames so far, spends exactly the remaining bytes over the remaining frames. All frames of
 * a loop so get about equal quality, except for anchor frames and the loop point. Source:
 * docs/weight.md, rate control.
 */
export class QuantizerRateControl implements RateControl {
  private readonly order: QuantizerTarget
  /** Weights of all plain frames from `k` on, and the numbers of the others. */
  private readonly plainFrom: readonly number[]
  private readonly special: readonly number[]
  private readonly asked: number[] = []
  private readonly lately = new Tally(MEMORY)
  private readonly all = new Tally(1)
  private readonly anchors = new Tally(1)
  private done = 0
  private specialDone = 0
  private taken = 0
  private base: number | null = null

  constructor(order: QuantizerTarget) {
    this.order = order
    const plain = Array.from({ length: order.frames + 1 }, () => 0)
    const special: number[] = []
    for (let k = order.frames - 1; k >= 0; k--) {
      const own = rankOf(k, order.ranks) !== 'plain'
      if (own) special.unshift(k)
      plain[k] = plain[k + 1]! + (own ? 0 : this.weight(k))
    }
    this.plainFrom = plain
    this.special = special
  }

  next(): number {
    const { frames, budgetBytes, targetShare = TARGET_SHARE, coarsest, ranks } = this.order
    const k = this.asked.length
    const now = this.gain(0)
    let inFlight = 0
    for (let waiting = this.done; waiting < k; waiting++)
      inFlight += this.predicted(waiting, this.asked[waiting]!, now)
    // Of short loops a part of a frame is kept back: the last ones cannot be paid for by any after
    // them.
    const reserve = this.base === null ? 0 : RESERVE * this.order.curve.frameBytes(this.base) * now
    const left =
      budgetBytes - Math.max(budgetBytes * (1 - targetShare), reserve) - this.taken - inFlight
    const wanted = this.spending(k, left, this.gain(frames - k))
    const hurried = frames - k <= HURRY_FRAMES || this.base === null || k < TRUST_FRAMES
    // Coarser at once where it must be; finer never by a leap: what a leap costs is only known when
    // it is too late.
    if (hurried && this.base !== null && k >= TRUST_FRAMES)
      this.base = Math.max(this.base - LARGEST_MOVE, wanted)
    else
      this.base = hurried
        ? wanted
        : Math.min(this.base! + LARGEST_MOVE, Math.max(this.base! - LARGEST_MOVE, wanted))
    const quantizer = Math.round(Math.min(coarsest, quantizerOf(this.base, k, ranks)))
    this.asked.push(quantizer)
    return quantizer
  }

  waits(): boolean {
    return isWatched(this.asked.length, this.order.frames)
  }

  took(bytes: number): void {
    const k = this.done
    this.done += 1
    this.taken += bytes
    // A key frame says nothing about the frames after it.
    if (k === 0) return
    const expected = this.told(k, this.asked[k]!)
    if (rankOf(k, this.order.ranks) === 'anchor') {
      this.anchors.add(bytes, expected)
      return
    }
    // A hard cut or a flash costs bytes, but says nothing about the frames after it either.
    const telling = Math.min(
      bytes,
      MAX_TELLING * expected * this.lately.gain(TRUST_FRAMES * expected),
    )
    this.lately.add(telling, expected)
    this.all.add(telling, expected)
  }

  /**
   * Ratio of real to predicted bytes: the latest frames decide for the next ones, all frames for
   * the following `ahead` frames.
   */
  private gain(ahead: number): number {
    const { curve } = this.order
    const usual = curve.frameBytes(this.base ?? curve.points[curve.points.length >> 1]!.setting)
    const lately = this.lately.gain(TRUST_FRAMES * usual)
    if (ahead === 0) return lately
    const near = (HORIZON / ahead) * (1 - Math.exp(-ahead / HORIZON))
    return lately * near + this.all.gain(TRUST_ALL * usual) * (1 - near)
  }

  private weight(k: number): number {
    const { weights, known, ranks } = this.order
    const own = weights[k] ?? 1
    if (known || !ranks.anchors?.every) return own
    return own * (rankOf(k, ranks) === 'anchor' ? ANCHOR_COST : k === 0 ? 1 : BETWEEN_COST)
  }

  /** What the curve and the weights say of a frame. */
  private told(k: number, quantizer: number): number {
    const { curve } = this.order
    return (k === 0 ? curve.keyBytes(quantizer) : curve.frameBytes(quantizer)) * this.weight(k)
  }

  private predicted(k: number, quantizer: number, gain: number): number {
    const told = this.told(k, quantizer)
    if (k === 0) return told
    return (
      told *
      (rankOf(k, this.order.ranks) === 'anchor' ? this.anchors.gain(TRUST_ANCHORS * told) : gain)
    )
  }

  /** The quantizer at which all frames from `k` on take `bytes` together. */
  private spending(k: number, bytes: number, gain: number): number {
    const { curve, finest, coarsest, ranks } = this.order
    // Frames come in order: those behind are passed over once, not looked for again at each frame
    // of a long clip.
    while (this.specialDone < this.special.length && this.special[this.specialDone]! < k)
      this.specialDone += 1
    const total = (base: number): number => {
      let sum = curve.frameBytes(base) * this.plainFrom[k]! * gain
      for (let index = this.specialDone; index < this.special.length; index++)
        sum += this.predicted(
          this.special[index]!,
          quantizerOf(base, this.special[index]!, ranks),
          gain,
        )
      return sum
    }
    let [low, high] = [finest, coarsest]
    if (total(low) <= bytes) return low
    if (total(high) >= bytes) return high
    for (let step = 0; step < 14; step++) {
      const middle = (low + high) / 2
      if (total(middle) > bytes) low = middle
      else high = middle
    }
    return high
  }
}

/**
 * Ratio of real to predicted bytes of each frame at its quantizer: what the next pass knows of the
 * loop.
 */
export function frameWeights(
  sizes: readonly number[],
  quantizers: readonly number[],
  curve: ProbeCurve,
): number[] {
  return sizes.map(
    (bytes, k) =>
      bytes / (k === 0 ? curve.keyBytes(quantizers[k]!) : curve.frameBytes(quantizers[k]!)),
  )
}

/**
 * Weights of frames where windows of a loop, evenly spread, came `parts` times as heavy as the
 * mean: straight between their middles.
 */
export function windowWeights(parts: readonly number[], frames: number): number[] {
  return Array.from({ length: frames }, (_, k) => {
    if (parts.length === 0) return 1
    const place = Math.min(parts.length - 1, Math.max(0, ((k + 0.5) / frames) * parts.length - 0.5))
    const [left, right] = [parts[Math.floor(place)]!, parts[Math.ceil(place)]!]
    return k === 0 ? 1 : left + (right - left) * (place - Math.floor(place))
  })
}
