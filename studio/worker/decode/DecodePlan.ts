/** Samples for one decoder: from a key frame up to `until`, which is left out. */
export interface Stretch {
  readonly from: number
  readonly until: number
}

/** Where decoding can start, by the bitstream. */
export interface Starts {
  /** The first sample that decoding can start at. */
  readonly first: number
  /** The start at or before a sample. */
  readonly before: (sample: number) => Promise<number>
  /** The next start after a sample; null if there is none. */
  readonly after: (sample: number) => Promise<number | null>
}

/** Earlier starts that are tried, the last of them the clip's first. */
const MAX_EARLIER_STARTS = 3
/** A decoder reports a failure some samples late: this many are left out at most to avoid it. */
const MAX_BACKED_OFF = 4

/**
 * Decides where a decoder starts and stops. If it fails at once, it starts at earlier key frames,
 * at last at the clip's beginning: some encoders write only there what later frames need. If it
 * fails later, the frames before the failure are decoded, and decoding continues at the next key
 * frame.
 * Ends for any clip: every decision uses up an earlier start or a sample to leave out, or gives up
 * samples that are not tried again.
 */
export class DecodePlan {
  private readonly starts: Starts
  private readonly last: number
  private stretch: Stretch | null
  private earlier = 0
  private backedOff = 0
  /** Samples up to this one are given up. */
  private passed = -1

  private constructor(starts: Starts, last: number, from: number) {
    this.starts = starts
    this.last = last
    this.stretch = { from, until: Infinity }
  }

  /** A plan for the samples from `first` to `last`, in decoding order. */
  static async start(starts: Starts, first: number, last: number): Promise<DecodePlan> {
    return new DecodePlan(starts, last, await starts.before(first))
  }

  /** What to decode now; null at the end. */
  get current(): Stretch | null {
    return this.stretch
  }

  /** The current stretch was decoded to its end. */
  async succeeded(): Promise<void> {
    const { until } = this.stretch!
    if (until === Infinity) this.stretch = null
    else await this.skip(until)
  }

  /** The decoder failed at about `sample`; `hadOutput` says whether any frame had come out. */
  async failed(sample: number, hadOutput: boolean): Promise<void> {
    const { from, until } = this.stretch!
    const isWhole = until === Infinity
    if (isWhole && !hadOutput && from > this.starts.first && this.earlier < MAX_EARLIER_STARTS) {
      this.earlier += 1
      const isLast = this.earlier === MAX_EARLIER_STARTS
      const earlier = isLast ? this.starts.first : await this.starts.before(from - 1)
      this.stretch = { from: earlier, until }
      return
    }
    const end = Math.min(sample, until - 1)
    if (end > from && this.backedOff < MAX_BACKED_OFF) {
      this.backedOff += 1
      this.stretch = { from, until: end }
      return
    }
    await this.skip(Math.max(sample, from))
  }

  /** Continues at the first start after a damaged sample. */
  private async skip(damaged: number): Promise<void> {
    this.passed = Math.max(this.passed + 1, damaged)
    this.backedOff = 0
    const from = await this.starts.after(this.passed)
    this.stretch = from !== null && from <= this.last ? { from, until: Infinity } : null
  }
}
