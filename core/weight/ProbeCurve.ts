/** Results of short encodes of some windows of a loop at one setting of an encoder. */
export interface ProbePoint {
  /** A quantizer (0 is the finest), or bits a second for encoders that take none. */
  readonly setting: number
  /** Bytes of a key frame, and of any other frame, on average. */
  readonly keyBytes: number
  readonly frameBytes: number
  /** Luma similarity and peak signal to noise (decibels) to the frames that went in, on average. */
  readonly ssim: number
  readonly psnr: number
  /** How little loss shows, in decibels; absent where it was not measured. */
  readonly seen?: number | undefined
}

/** What an encoder is controlled by. */
export type Steering = 'quantizer' | 'rate'

/** A point of a curve: coarser to the right. */
interface Knot {
  readonly x: number
  readonly y: number
}

/**
 * A probe's points as continuous curves over an encoder's setting. Bytes and the loss of similarity
 * are interpolated by their logarithms, both nearly linear over quantizers and over the logarithm
 * of a bit rate; beyond the points the outer segments are extended. Throws RangeError without
 * points.
 */
export class ProbeCurve {
  readonly steering: Steering
  readonly points: readonly ProbePoint[]
  private readonly keys: readonly Knot[]
  private readonly frames: readonly Knot[]
  private readonly quality: readonly Knot[]
  private readonly shown: readonly Knot[]

  constructor(points: readonly ProbePoint[], steering: Steering) {
    if (points.length === 0) throw new RangeError('a curve needs a point')
    this.steering = steering
    this.points = [...points].sort(
      (a, b) => this.coarseness(a.setting) - this.coarseness(b.setting),
    )
    const knots = (value: (point: ProbePoint) => number): Knot[] =>
      falling(this.points.map((point) => ({ x: this.coarseness(point.setting), y: value(point) })))
    this.keys = knots(({ keyBytes }) => Math.log2(Math.max(1, keyBytes)))
    this.frames = knots(({ frameBytes }) => Math.log2(Math.max(1, frameBytes)))
    this.quality = knots(({ ssim }) => -Math.log2(Math.max(1e-6, 1 - ssim)))
    this.shown = knots(({ psnr, seen }) => seen ?? psnr)
  }

  /** Bytes of a key frame at a setting. */
  keyBytes(setting: number): number {
    return 2 ** at(this.keys, this.coarseness(setting))
  }

  /** Bytes of any other frame at a setting. */
  frameBytes(setting: number): number {
    return 2 ** at(this.frames, this.coarseness(setting))
  }

  /** Bytes of a whole loop at one setting for all its frames. */
  loopBytes(setting: number, frames: number): number {
    return this.keyBytes(setting) + (frames - 1) * this.frameBytes(setting)
  }

  /** Mean similarity at a setting. */
  ssim(setting: number): number {
    return 1 - 2 ** -at(this.quality, this.coarseness(setting))
  }

  /** How little loss shows at a setting, in decibels; by the PSNR where that was not measured. */
  seen(setting: number): number {
    return at(this.shown, this.coarseness(setting))
  }

  /**
   * The coarsest setting between `finest` and `coarsest` that `reaches`; the finest where none
   * does. `reaches` is to hold for all finer settings too.
   */
  coarsestThat(reaches: (setting: number) => boolean, finest: number, coarsest: number): number {
    let [good, bad] = [this.coarseness(finest), this.coarseness(coarsest)]
    if (reaches(coarsest)) return coarsest
    for (let step = 0; step < 40; step++) {
      const middle = (good + bad) / 2
      if (reaches(this.settingAt(middle))) good = middle
      else bad = middle
    }
    return this.settingAt(good)
  }

  /**
   * The finest setting between `finest` and `coarsest` at which a loop takes at most so many bytes;
   * the coarsest where none does.
   */
  finestWithin(bytes: number, frames: number, finest: number, coarsest: number): number {
    if (this.loopBytes(finest, frames) <= bytes) return finest
    return this.coarsestThat((setting) => this.loopBytes(setting, frames) > bytes, finest, coarsest)
  }

  private coarseness(setting: number): number {
    return this.steering === 'quantizer' ? setting : -Math.log2(Math.max(1, setting))
  }

  private settingAt(x: number): number {
    return this.steering === 'quantizer' ? x : 2 ** -x
  }
}

/**
 * Curves of bytes and of quality only fall towards the coarse side: rises due to noise are removed,
 * leaving a slight slope so that the curves can be inverted.
 */
function falling(knots: readonly Knot[]): Knot[] {
  const kept: Knot[] = []
  for (const { x, y } of knots) {
    const last = kept[kept.length - 1]
    if (last && x - last.x < 1e-9) continue
    kept.push({ x, y: last ? Math.min(y, last.y - 1e-4 * (x - last.x)) : y })
  }
  return kept
}

/**
 * Piecewise linear interpolation through the knots, extended at both ends. A single knot is
 * constant.
 */
function at(knots: readonly Knot[], x: number): number {
  if (knots.length === 1) return knots[0]!.y
  let right = knots.findIndex((knot) => knot.x >= x)
  if (right < 0) right = knots.length - 1
  const [a, b] = [knots[Math.max(1, right) - 1]!, knots[Math.max(1, right)]!]
  return a.y + ((b.y - a.y) * (x - a.x)) / (b.x - a.x)
}
