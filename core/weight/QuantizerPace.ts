import type { FramePace } from './FramePace'
import type { ProbeCurve } from './ProbeCurve'

/** What a pass by quantizer aims at. */
export interface QuantizerOrder {
  readonly frames: number
  readonly budgetBytes: number
  readonly curve: ProbeCurve
  /** Bounds of the quantizers: finer than the first nobody sees, coarser than the second the encoder cannot. */
  readonly finest: number
  readonly coarsest: number
  /** How the join of a loop is coded finer than the rest; null for clips without one. */
  readonly join: Join | null
  /** How much heavier each frame is than the curve says, where an earlier pass has shown it. */
  readonly weights?: readonly number[]
  /** The share of the budget aimed at: a little below all of it, since over is over. */
  readonly aim?: number
}

/** Frames around the join of a loop go towards a finer quantizer of their own: coding noise that begins anew at each join would pulse. */
export interface Join {
  /** How far frame `k` goes towards it: 0 not at all, 1 all the way. */
  readonly ramp: (k: number) => number
  /** What share of the others' quantizer it is: at most 1. */
  readonly share: number
}

/** What frame `k` is asked for where the plain frames are asked for `base`. */
export function joinedQuantizer(base: number, k: number, join: Join | null): number {
  return join ? base * (1 + (join.share - 1) * join.ramp(k)) : base
}

/** Lands between −0.3 and −1.4 % in one pass. Source: docs/method.md, "What the platform does", rate control. */
const AIM = 0.991
/** So many frames the curve's own word counts against what has come. */
const TRUST_FRAMES = 8
/** What a frame tells of the next ones fades by this share from frame to frame. */
const MEMORY = 0.96
/** The quantizer moves no further from one frame to the next: a jump would be seen. */
const LARGEST_MOVE = 5
/** What is kept back, in frames. */
const RESERVE = 0.5
/** At the end of the loop there is no time for small moves. */
const HURRY_FRAMES = 16

/**
 * One pass that ends at a byte budget: for each frame the quantizer at which the curve, corrected by what has come so far, spends exactly what is left over all frames that are
 * left. Frames of a loop are so equally fine, but for the join. Source: docs/method.md, "Weight", rate control.
 */
export class QuantizerPace implements FramePace {
  private readonly order: QuantizerOrder
  /** Weights of all frames from `k` on that have the full quantizer. */
  private readonly plainFrom: readonly number[]
  private readonly special: readonly number[]
  private readonly asked: number[] = []
  private done = 0
  private taken = 0
  private seen = 0
  private expected = 0
  private base: number | null = null

  constructor(order: QuantizerOrder) {
    this.order = order
    const plain = Array.from({ length: order.frames + 1 }, () => 0)
    const special: number[] = []
    for (let k = order.frames - 1; k >= 0; k--) {
      const own = k === 0 || (order.join?.ramp(k) ?? 0) > 0
      if (own) special.unshift(k)
      plain[k] = plain[k + 1]! + (own ? 0 : this.weight(k))
    }
    this.plainFrom = plain
    this.special = special
  }

  next(): number {
    const { frames, budgetBytes, aim = AIM, coarsest, join } = this.order
    const k = this.asked.length
    const gain = this.gain()
    let inFlight = 0
    for (let waiting = this.done; waiting < k; waiting++) inFlight += this.predicted(waiting, this.asked[waiting]!, gain)
    // A part of a frame is kept back: the last ones cannot be paid for by any after them.
    const reserve = this.base === null ? 0 : RESERVE * this.order.curve.frameBytes(this.base) * gain
    const left = budgetBytes * aim - this.taken - inFlight - reserve
    const wanted = this.spending(k, left, gain)
    const hurried = frames - k <= HURRY_FRAMES || this.base === null || k < TRUST_FRAMES
    this.base = hurried ? wanted : Math.min(this.base! + LARGEST_MOVE, Math.max(this.base! - LARGEST_MOVE, wanted))
    const quantizer = Math.round(Math.min(coarsest, joinedQuantizer(this.base, k, join)))
    this.asked.push(quantizer)
    return quantizer
  }

  took(bytes: number): void {
    const k = this.done
    this.done += 1
    this.taken += bytes
    // A key frame tells nothing of the frames after it.
    if (k === 0) return
    this.seen = this.seen * MEMORY + bytes
    this.expected = this.expected * MEMORY + this.predicted(k, this.asked[k]!, 1)
  }

  /** The quantizer each frame was asked for. */
  get quantizers(): readonly number[] {
    return this.asked
  }

  /** How much heavier frames come than the curve says. */
  private gain(): number {
    const { curve } = this.order
    const trust = TRUST_FRAMES * curve.frameBytes(this.base ?? curve.points[curve.points.length >> 1]!.setting)
    return (this.seen + trust) / (this.expected + trust)
  }

  private weight(k: number): number {
    return this.order.weights?.[k] ?? 1
  }

  private predicted(k: number, quantizer: number, gain: number): number {
    const { curve } = this.order
    return k === 0 ? curve.keyBytes(quantizer) * this.weight(0) : curve.frameBytes(quantizer) * this.weight(k) * gain
  }

  /** The quantizer at which all frames from `k` on take `bytes` together. */
  private spending(k: number, bytes: number, gain: number): number {
    const { curve, finest, coarsest, join } = this.order
    const special = this.special.filter((each) => each >= k)
    const total = (base: number): number => special.reduce((sum, each) => sum + this.predicted(each, joinedQuantizer(base, each, join), gain), curve.frameBytes(base) * this.plainFrom[k]! * gain)
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

/** How much heavier each frame came than the curve says at the quantizer it had: what the next pass knows of the loop. */
export function frameWeights(sizes: readonly number[], quantizers: readonly number[], curve: ProbeCurve): number[] {
  return sizes.map((bytes, k) => bytes / (k === 0 ? curve.keyBytes(quantizers[k]!) : curve.frameBytes(quantizers[k]!)))
}
