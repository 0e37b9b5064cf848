import type { Moment } from '../../../core/legibility/contrastMoments'
import { doubtfulTimes } from '../../../core/legibility/doubtfulTimes'
import type { ContrastRow } from '../../../core/legibility/worstOf'
import type { Composed } from '../compose/composeFrame'
import { FullSizeScreen, type FullSizeParts, type PaintedTexts } from './fullSize'

/** What may be the worst times of each text of a screen, looked at in full size. */
export class ScreenCheck {
  /** What was found so far. */
  readonly rows: ContrastRow[] = []
  /** Frames that are not remembered: to be added. */
  readonly missing: readonly number[]
  private readonly unknown: readonly Moment[]
  private readonly full: FullSizeScreen
  /** Of each text. */
  private readonly doubtful: readonly ReadonlySet<number>[]

  /** `rows` are those of a trace, for `moments`. */
  constructor(parts: FullSizeParts, rows: readonly ContrastRow[], moments: readonly Moment[]) {
    this.full = new FullSizeScreen(parts)
    this.doubtful = parts.view.texts.map((_, text) => new Set(doubtfulTimes(rows, text)))
    this.unknown = moments.filter(({ frame, seconds }) => {
      if (!this.doubtful.some((of) => of.has(seconds))) return false
      const known = this.full.known(frame, seconds)
      if (known) this.check(seconds, known)
      return !known
    })
    this.missing = [...new Set(this.unknown.map(({ frame }) => frame))]
  }

  /** Looks at a frame at the times that it is wanted for; others are left alone. */
  async add(number: number, composed: Composed): Promise<void> {
    for (const { frame, seconds } of this.unknown)
      if (frame === number) this.check(seconds, await this.full.paint(composed, number, seconds))
  }

  private check(seconds: number, painted: PaintedTexts): void {
    const places = this.doubtful.map((of, text) =>
      of.has(seconds) ? this.full.measure(painted, text) : null,
    )
    this.rows.push({ seconds, places })
  }
}
