import { isWatched, type RateControl } from './RateControl'

/** What an earlier pass requested, frame by frame, and what it got. */
export interface RateHistory {
  readonly asked: readonly number[]
  readonly sizes: readonly number[]
}

/** The targets of a pass by bit rate. */
export interface BitrateTarget {
  readonly frames: number
  readonly framesPerSecond: number
  readonly budgetBytes: number
  /** Maximum bit rate that is requested: above it no difference is visible. */
  readonly max: number
  /**
   * Ratio of the first frame's rate to the rest: its quality carries over to the frames that refer
   * to it.
   */
  readonly firstBoost: number
  /** How strongly frame `k` is part of the loop point, 0 to 1; null without one. */
  readonly ramp: ((k: number) => number) | null
  /**
   * The previous pass, which shows the encoder's response to a rate in each part of the loop; null
   * for the first.
   */
  readonly before: RateHistory | null
  readonly targetShare?: number
}

const TARGET_SHARE = 0.993
/**
 * The rate is corrected after this many frames, sooner in short loops: encoders respond within a
 * few frames.
 */
const STRIDE = { min: 2, max: 6, share: 1 / 24 }
/** Towards the end, where each frame is requested separately, after this many. */
const LAST_STRIDE = 2
/** Below this ratio the encoder has reached its minimum. */
const MIN_RATE = 20_000
/** Before the loop point the rate rises to this multiple of the rate elsewhere. */
const LOOP_POINT_BOOST = 2
/**
 * So many frames before the end the rate falls back: an encoder that has adapted to a higher rate
 * may spend many frames' bytes on one, and then save by repeating pictures.
 */
const SETTLE_FRAMES = 5
/** This many frames before the end an encoder can no longer respond to large changes. */
const HURRY_FRAMES = 24
const LARGEST_HURRY = 1.25
/** Weight of the last stride in the estimate of the encoder's response. */
const NEWEST = 0.4
/**
 * Range of plausible ratios between bytes and requested rate. Outside of it the encoder is at its
 * minimum, or the frame is an exception.
 */
const ANSWERS = { min: 0.25, max: 4 }
/** An encoder that gives this multiple of the requested rate cannot give less. */
const FLOOR_EXCESS = 1.4
/**
 * Neighbouring frames on each side over which the encoder's response is averaged: a single frame
 * varies too much.
 */
const NEIGHBOURS = 3
/** Bisection steps in the search for a rate. */
const HALVINGS = 16

/**
 * One pass that ends at a byte budget with an encoder that only takes a bit rate and follows it
 * loosely. Every few frames the rate is set so that the remaining bytes last for the remaining
 * frames, corrected by the encoder's response to earlier rates, in this pass and in the one before.
 */
export class BitrateRateControl implements RateControl {
  private readonly order: BitrateTarget
  /**
   * The weight of each frame in plain frames, the encoder's response there, and its minimum bytes:
   * all from the previous pass.
   */
  private readonly shares: readonly number[]
  private readonly answers: readonly number[]
  private readonly floors: readonly number[]
  private readonly stride: number
  private rate: number
  private readonly asked: number[] = []
  private done = 0
  private taken = 0
  private answer = 1
  private strideBytes = 0
  private strideExpected = 0

  constructor(order: BitrateTarget) {
    const {
      frames,
      firstBoost,
      ramp,
      before,
      budgetBytes,
      framesPerSecond,
      targetShare = TARGET_SHARE,
      max,
    } = order
    this.order = order
    this.stride = Math.max(STRIDE.min, Math.min(STRIDE.max, Math.round(frames * STRIDE.share)))
    const joined = (k: number): number =>
      k === 0 ? (ramp?.(0) ?? 0) : k < frames - SETTLE_FRAMES ? (ramp?.(k + SETTLE_FRAMES) ?? 0) : 0
    this.shares = Array.from(
      { length: frames },
      (_, k) => 1 + ((k === 0 ? firstBoost : LOOP_POINT_BOOST) - 1) * joined(k),
    )
    const seen = before ? shown(before, framesPerSecond) : null
    this.answers = seen?.answers ?? this.shares.map(() => 1)
    this.floors = seen?.floors ?? this.shares.map(() => 0)
    this.rate = Math.min(max, this.lasting(0, budgetBytes * targetShare))
  }

  next(): number {
    const { frames, budgetBytes, targetShare = TARGET_SHARE, max } = this.order
    const k = this.asked.length
    if (
      k > 0 &&
      this.done > 1 &&
      k < frames &&
      (this.waits() ? (frames - k) % LAST_STRIDE === 0 : k % this.stride === 0)
    ) {
      let waiting = 0
      for (let at = this.done; at < k; at++)
        waiting += this.expected(at, this.asked[at]!, this.answer)
      // Late frames would be requested twice: towards the end the rate changes only slightly.
      const highest = frames - k < HURRY_FRAMES ? this.rate * LARGEST_HURRY : Infinity
      this.rate = Math.min(
        max,
        highest,
        this.lasting(k, budgetBytes * targetShare - this.taken - waiting),
      )
    }
    const asked = Math.max(MIN_RATE, this.rate * (this.shares[k] ?? 1))
    this.asked.push(asked)
    return Math.round(asked)
  }

  waits(): boolean {
    return isWatched(this.asked.length, this.order.frames)
  }

  took(bytes: number): void {
    const k = this.done
    this.done += 1
    this.taken += bytes
    // The frames after a key frame pay for it: neither shows the encoder's usual response.
    if (k < this.stride) return
    this.strideBytes += bytes
    this.strideExpected += this.expected(k, this.asked[k]!, 1)
    if (this.done % this.stride !== 0) return
    const answer = Math.min(
      ANSWERS.max,
      Math.max(ANSWERS.min, this.strideBytes / this.strideExpected),
    )
    this.answer = this.answer * (1 - NEWEST) + answer * NEWEST
    this.strideBytes = 0
    this.strideExpected = 0
  }

  /** What frame `k` is expected to take at a rate. */
  private expected(k: number, rate: number, answer: number): number {
    return Math.max(
      (rate / 8 / this.order.framesPerSecond) * (this.answers[k] ?? 1) * answer,
      this.floors[k] ?? 0,
    )
  }

  /** The rate of plain frames at which `bytes` last for all frames from `k` on. */
  private lasting(k: number, bytes: number): number {
    const total = (rate: number): number => {
      let sum = 0
      for (let at = k; at < this.shares.length; at++)
        sum += this.expected(at, rate * this.shares[at]!, this.answer)
      return sum
    }
    let [low, high] = [MIN_RATE, Math.max(MIN_RATE, this.order.max)]
    if (total(low) >= bytes) return low
    if (total(high) <= bytes) return high
    for (let step = 0; step < HALVINGS; step++) {
      const middle = Math.sqrt(low * high)
      if (total(middle) > bytes) high = middle
      else low = middle
    }
    return low
  }
}

/**
 * The encoder's response to the rates of a pass around each frame, and its minimum bytes there. The
 * first frame is taken by itself.
 */
function shown(
  { asked, sizes }: RateHistory,
  framesPerSecond: number,
): { readonly answers: number[]; readonly floors: number[] } {
  const answers: number[] = []
  const floors: number[] = []
  for (let k = 0; k < sizes.length; k++) {
    const [from, to] =
      k === 0 ? [0, 1] : [Math.max(1, k - NEIGHBOURS), Math.min(sizes.length, k + NEIGHBOURS + 1)]
    let [came, wanted] = [0, 0]
    for (let at = from; at < to; at++) {
      came += sizes[at]!
      wanted += asked[at]! / 8 / framesPerSecond
    }
    const answer = came / wanted
    const atFloor = answer > FLOOR_EXCESS
    answers.push(Math.max(ANSWERS.min, Math.min(ANSWERS.max, atFloor ? 1 : answer)))
    floors.push(atFloor && k > 0 ? came / (to - from) : 0)
  }
  return { answers, floors }
}
