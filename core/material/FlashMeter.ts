import { linearFromSrgb } from '../picture/srgb'

/**
 * A flash is a change of at least a tenth of the maximum luminance whose darker state is below 0.8.
 * Source: WCAG 2.2, "general flash".
 */
const MIN_SWING = 0.1
const DARKEST_BRIGHT = 0.8
/**
 * The share of the picture that must swing together: a quarter of ten degrees of the visual field,
 * 341 × 256 of 1024 × 768. Source: WCAG 2.2, success criterion 2.3.1.
 */
const MIN_AREA = (341 * 256) / (1024 * 768)
/** Swings of the same way within so long are one. */
const TOGETHER_S = 0.07

/** Counts flashes: pairs of opposing swings of luminance over a large part of the picture. */
export class FlashMeter {
  private readonly extreme: Float32Array
  private readonly rising: Int8Array
  private readonly swings: { seconds: number; up: boolean }[] = []

  constructor(cells: number) {
    this.extreme = new Float32Array(cells).fill(-1)
    this.rising = new Int8Array(cells)
  }

  /** Takes a frame's mean luma of each cell, sRGB bytes, at a time in seconds. */
  see(luma: ArrayLike<number>, seconds: number): void {
    let up = 0
    let down = 0
    for (let cell = 0; cell < luma.length; cell++) {
      const now = linearFromSrgb(luma[cell]!)
      const before = this.extreme[cell]!
      if (before < 0) this.extreme[cell] = now
      else if (now - before >= MIN_SWING && before < DARKEST_BRIGHT && this.rising[cell] !== 1) {
        up += 1
        this.rising[cell] = 1
        this.extreme[cell] = now
      } else if (before - now >= MIN_SWING && now < DARKEST_BRIGHT && this.rising[cell] !== -1) {
        down += 1
        this.rising[cell] = -1
        this.extreme[cell] = now
      } else if (
        (this.rising[cell] === 1 && now > before) ||
        (this.rising[cell] === -1 && now < before)
      )
        this.extreme[cell] = now
    }
    if (up >= MIN_AREA * luma.length) this.note(seconds, true)
    if (down >= MIN_AREA * luma.length) this.note(seconds, false)
  }

  private note(seconds: number, up: boolean): void {
    const last = this.swings[this.swings.length - 1]
    if (last && last.up === up && seconds - last.seconds < TOGETHER_S) return
    this.swings.push({ seconds, up })
  }

  /** The most flashes within any second, and when that second begins. */
  worst(): { flashes: number; seconds: number } {
    let worst = { flashes: 0, seconds: 0 }
    this.swings.forEach((first, index) => {
      const within = this.swings.slice(index).filter((swing) => swing.seconds < first.seconds + 1)
      const turns = within.reduce(
        (count, swing, at) => count + (at > 0 && swing.up !== within[at - 1]!.up ? 1 : 0),
        0,
      )
      const flashes = Math.ceil(turns / 2)
      if (flashes > worst.flashes) worst = { flashes, seconds: first.seconds }
    })
    return worst
  }
}
