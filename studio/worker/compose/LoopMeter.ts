import type { SeamFigure } from '../../../core/api/wire'
import { cutFrames, type LoopSettings, type PlannedFrame } from '../../../core/loop/framePlan'
import { SeamMeter, type SeamMeasure } from '../../../core/loop/SeamMeter'
import type { Oklab } from '../../../core/picture/convertSrgbToOklab'
import { describeI420 } from '../../../core/picture/describeI420'
import type { ComposedFrame } from './composedFrames'

/**
 * Measures the seam of a loop on its composed frames, and the seam of a straight cut at the same
 * place.
 */
export class LoopMeter extends SeamMeter {
  private readonly lastBlend: number
  private readonly straight: boolean
  private start: readonly Oklab[] | null = null
  private end: readonly Oklab[] | null = null

  constructor(loop: LoopSettings, plan: readonly PlannedFrame[]) {
    super(plan.length)
    this.straight = loop.seam.kind === 'straight'
    // The cut's last frame: the last one under a blend, or where there and back turns.
    this.lastBlend =
      loop.seam.kind === 'ping-pong'
        ? cutFrames(loop) - 1
        : plan.reduce((last, { under }, k) => (under ? k : last), 0)
  }

  /** Notes the cut's own first and last frame, unblended, as they pass by. */
  seeParts(k: number, { show, under }: Pick<ComposedFrame, 'show' | 'under'>): void {
    if (k === 0) this.start = describeI420(show.picture)
    if (k === this.lastBlend && !this.straight) this.end = describeI420((under ?? show).picture)
  }

  override figure(): (SeamFigure & SeamMeasure) | null {
    const own = super.figure()
    if (!own) return null
    if (this.straight) return { ...own, straightRatio: own.ratio }
    return {
      ...own,
      straightRatio:
        this.start && this.end
          ? (super.figure({ last: this.end, first: this.start })?.ratio ?? null)
          : null,
    }
  }
}
