import type { FramePace } from './FramePace'

/** What a pass by bit rate aims at. */
export interface RateOrder {
  readonly frames: number
  readonly framesPerSecond: number
  readonly budgetBytes: number
  /** What to begin with, in bits a second. */
  readonly start: number
  /** More than this is not asked for: nobody would see it. */
  readonly most: number
  /** How many times the rate of the rest the first frame of a loop is asked for at: what it has, those after it lean on. */
  readonly firstBoost: number
  /** How far frame `k` belongs to the join of a loop, 0 to 1; null without a join. */
  readonly ramp: ((k: number) => number) | null
  readonly aim?: number
}

const AIM = 0.993
/** The rate is corrected after so many frames, sooner in short loops: encoders answer a change within a few. */
const STRIDE = { least: 2, most: 6, share: 1 / 24 }
/** Below this an encoder's answer is its floor, not ours. */
const LEAST_RATE = 20_000
/** Before the join the rate rises to so many times that of the rest. */
const JOIN_BOOST = 2
/** So many frames from the end an encoder has no time left to answer large changes. */
const HURRY_FRAMES = 24
/** How much of what came in the last stride counts for what an encoder makes of a rate. */
const NEWEST = 0.4

/**
 * One pass that ends at a byte budget with an encoder that only takes a bit rate, and keeps it loosely: every few frames the rate is set to what is left over the
 * time that is left, divided by what the encoder has lately made of what it was asked for.
 */
export class RatePace implements FramePace {
  private readonly order: RateOrder
  /** How many plain frames each frame counts for, and all from `k` on together. */
  private readonly shares: readonly number[]
  private readonly sharesFrom: readonly number[]
  private readonly stride: number
  private rate: number
  private readonly asked: number[] = []
  private done = 0
  private taken = 0
  private answer = 1
  private strideBytes = 0
  private strideAsked = 0

  constructor(order: RateOrder) {
    this.order = order
    this.stride = Math.max(STRIDE.least, Math.min(STRIDE.most, Math.round(order.frames * STRIDE.share)))
    this.shares = Array.from({ length: order.frames }, (_, k) => 1 + ((k === 0 ? order.firstBoost : JOIN_BOOST) - 1) * (order.ramp?.(k) ?? 0))
    const from = [...this.shares, 0]
    for (let k = order.frames - 1; k >= 0; k--) from[k]! += from[k + 1]!
    this.sharesFrom = from
    this.rate = Math.min(order.most, Math.max(LEAST_RATE, (order.start * order.frames) / from[0]!))
  }

  next(): number {
    const { frames, framesPerSecond, budgetBytes, aim = AIM, most } = this.order
    const k = this.asked.length
    if (k > 0 && this.done > 1 && k < frames && k % this.stride === 0) {
      let waiting = 0
      for (let at = this.done; at < k; at++) waiting += this.perFrame(this.asked[at]!) * this.answer
      const left = Math.max(0, budgetBytes * aim - this.taken - waiting)
      const wanted = (left * 8 * framesPerSecond) / this.sharesFrom[k]! / this.answer
      // What comes late would be asked for twice: towards the end the rate only creeps.
      const highest = frames - k < HURRY_FRAMES ? this.rate * 1.25 : Infinity
      this.rate = Math.min(most, highest, Math.max(LEAST_RATE, wanted))
    }
    const asked = Math.max(LEAST_RATE, this.rate * (this.shares[k] ?? 1))
    this.asked.push(asked)
    return Math.round(asked)
  }

  took(bytes: number): void {
    const k = this.done
    this.done += 1
    this.taken += bytes
    // A key frame is paid for by the frames after it: neither tells what the encoder makes of a rate.
    if (k < this.stride) return
    this.strideBytes += bytes
    this.strideAsked += this.perFrame(this.asked[k]!)
    if (this.done % this.stride !== 0) return
    const answer = Math.min(4, Math.max(0.25, this.strideBytes / this.strideAsked))
    this.answer = this.answer * (1 - NEWEST) + answer * NEWEST
    this.strideBytes = 0
    this.strideAsked = 0
  }

  private perFrame(rate: number): number {
    return rate / 8 / this.order.framesPerSecond
  }
}
