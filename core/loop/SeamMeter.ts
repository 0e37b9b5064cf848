import type { Oklab } from '../picture/convertSrgbToOklab'
import { descriptionDistance, worstDistance } from '../picture/describeI420'
import { seamRatio } from '../picture/frameDifference'
import { comparedFrames } from './comparedFrames'

/**
 * Steps between neighbouring frames that are measured: more hardly change their median. They start
 * at frames that are compared anyway, so that few have to be copied.
 */
const MAX_STEPS = 24

/** A loop's seam: the difference of its last and first frame, and that over the median step. */
export interface SeamMeasure {
  /** Null for a loop without motion. */
  readonly ratio: number | null
  /** Mean ΔE (OKLab × 100) of 32 × 18 cells. */
  readonly deltaE: number
  /** The same of the cell that differs most. */
  readonly worstDeltaE: number
}

/**
 * Measures a loop's seam on its frames as they pass in order. Of long loops it uses evenly spread
 * pairs of neighbours, always the same ones.
 */
export class SeamMeter {
  private readonly count: number
  private readonly pairs = new Set<number>()
  private first: readonly Oklab[] | null = null
  private last: { readonly k: number; readonly cells: readonly Oklab[] } | null = null
  private readonly steps: number[] = []

  /** `count` frames make the loop. */
  constructor(count: number) {
    this.count = count
    for (const k of comparedFrames(count, MAX_STEPS)) if (k < count - 1) this.pairs.add(k)
  }

  /** Whether frame `k` is to be described. */
  wants(k: number): boolean {
    return k === 0 || k === this.count - 1 || this.pairs.has(k) || this.pairs.has(k - 1)
  }

  /** Takes the description of frame `k`. */
  see(k: number, cells: readonly Oklab[]): void {
    if (this.last && this.last.k === k - 1 && this.pairs.has(k - 1))
      this.steps.push(descriptionDistance(this.last.cells, cells))
    this.first ??= cells
    this.last = { k, cells }
  }

  /**
   * The seam figure; null before the last frame was seen. `join` measures another pair of end and
   * start against the loop's own steps.
   */
  figure(join?: {
    readonly last: readonly Oklab[]
    readonly first: readonly Oklab[]
  }): SeamMeasure | null {
    const ends =
      join ??
      (this.first && this.last?.k === this.count - 1
        ? { last: this.last.cells, first: this.first }
        : null)
    if (!ends) return null
    const deltaE = descriptionDistance(ends.last, ends.first)
    const ratio = seamRatio(deltaE, this.steps)
    return {
      ratio: ratio === null ? null : Math.round(ratio * 100) / 100,
      deltaE: Math.round(deltaE * 100) / 100,
      worstDeltaE: Math.round(worstDistance(ends.last, ends.first) * 100) / 100,
    }
  }
}
