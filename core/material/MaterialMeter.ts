import { convertOklabToHex } from '../picture/convertOklabToHex'
import { deltaE, type Oklab } from '../picture/convertSrgbToOklab'
import { describeCells, MOTION_ACROSS, MOTION_DOWN, type YuvKind } from '../picture/describeCells'
import { measureDetail, type Detail } from '../picture/detail'
import { planesOf, type I420 } from '../picture/I420'
import { dominantColours } from '../picture/palette'
import type { Analysis } from './Analysis'
import { BarMeter } from './BarMeter'
import { FlashMeter } from './FlashMeter'
import { MarkMeter } from './MarkMeter'
import { findCuts, findEnds, median } from './shots'

/** Points that a curve has at most: more than a screen shows. */
const MAX_POINTS = 3000
const MARK_FRAMES = 36
const DETAIL_FRAMES = 5
const PALETTE_COLOURS = 5
/** A run at an end counts from this long. */
const MIN_RUN_S = 0.25
/** A card at the start may last so long, and so much of the clip. */
const LONGEST_TITLE_S = 10
const LARGEST_TITLE_SHARE = 0.4

/** Measures a clip's frames as they come, in order; what it keeps does not grow with their size. */
export class MaterialMeter {
  private readonly count: number
  private readonly seconds: number
  private readonly steps: number[] = []
  private readonly brightness: number[] = []
  private readonly peaks: number[] = []
  private readonly times: number[] = []
  private readonly colours: Oklab[] = []
  private readonly details: Detail[] = []
  private readonly marks = new MarkMeter()
  private readonly bars = new BarMeter()
  private readonly flashes = new FlashMeter(MOTION_ACROSS * MOTION_DOWN)
  private last: readonly Oklab[] | null = null

  /** `count` frames over `seconds` are expected: they decide which frames are examined closely. */
  constructor(count: number, seconds: number) {
    this.count = count
    this.seconds = seconds
  }

  /** Takes the next frame, upright, shown from `seconds` on. */
  see(picture: I420, seconds: number, kind: YuvKind): void {
    const index = this.times.length
    const [luma] = planesOf(picture)
    const { colours: cells, luma: grid } = describeCells(picture, kind)
    this.steps.push(
      this.last
        ? cells.reduce((sum, cell, at) => sum + deltaE(cell, this.last![at]!), 0) / cells.length
        : 0,
    )
    this.brightness.push(cells.reduce((sum, cell) => sum + cell.lightness, 0) / cells.length)
    this.peaks.push(cells.reduce((most, cell) => Math.max(most, cell.lightness), 0))
    this.times.push(seconds)
    this.flashes.see(grid, seconds)
    if (this.isOneOf(index, MARK_FRAMES)) {
      this.marks.see(luma)
      this.bars.see(luma)
      for (let cell = index % 3; cell < cells.length; cell += 3) this.colours.push(cells[cell]!)
    }
    if (this.isOneOf(index, DETAIL_FRAMES)) this.details.push(measureDetail(luma))
    this.last = cells
  }

  /** Whether a frame is among `some` that are spread evenly. */
  private isOneOf(index: number, some: number): boolean {
    return (
      this.count <= some ||
      Math.floor((index * some) / this.count) !== Math.floor(((index - 1) * some) / this.count)
    )
  }

  /**
   * What was seen, in milliseconds; the weight of each second comes from the file's index. Throws
   * RangeError where no frame came.
   */
  finish(
    bytesEachSecond: readonly number[] = [],
    asVideoBytes: number | null = null,
    missing: Analysis['missing'] = null,
  ): Analysis {
    if (this.times.length === 0) throw new RangeError('at least one frame is needed')
    const frames = this.times.length
    const fps = frames / Math.max(1e-6, this.seconds)
    const min = Math.max(2, Math.round(MIN_RUN_S * fps))
    const allCuts = findCuts(this.steps)
    const ends = findEnds(this.steps, this.brightness, this.peaks, min)
    const title = this.titleEnd(allCuts, ends.still.start, ends.black.start, fps)
    const start = Math.max(
      title,
      ends.black.start,
      ends.fade.start,
      title === 0 ? ends.still.start : 0,
    )
    const end = Math.min(ends.black.end, ends.still.end, ends.fade.end)
    // A jump into or out of what the ends hold is not a cut within the footage.
    const cuts = allCuts.filter((cut) => cut > start && cut < end)
    const usable = longestShot(start, Math.max(start + 1, end), cuts)
    const inside = this.steps.slice(usable.start + 1, usable.end)
    const ms = (frame: number): number =>
      frame >= frames
        ? Math.round(this.seconds * 1e6) / 1e3
        : Math.round(this.times[frame]! * 1e6) / 1e3
    const both = (span: { start: number; end: number }): { startMs: number; endMs: number } => ({
      startMs: ms(span.start),
      endMs: ms(span.end),
    })
    const each = Math.ceil(frames / MAX_POINTS)
    const flash = this.flashes.worst()
    const whole = usable.start === 0 && usable.end === frames
    return {
      version: 1,
      frames,
      durationMs: ms(frames),
      framesEachPoint: each,
      motion: bins(this.steps, each, (values) => Math.round(Math.max(...values) * fps * 10) / 10),
      brightness: bins(
        this.brightness,
        each,
        (values) =>
          Math.round((values.reduce((sum, value) => sum + value, 0) / values.length) * 1000) / 1000,
      ),
      bytesEachSecond: bytesEachSecond.slice(0, 3600),
      motionMedian: Math.round(median(inside) * fps * 10) / 10,
      motionPeak:
        Math.round(inside.reduce((most, step) => Math.max(most, step), 0) * fps * 10) / 10,
      cutsMs: cuts.slice(0, 500).map(ms),
      titleEndMs: title > 0 ? ms(title) : null,
      black: both(ends.black),
      still: both({ start: title > 0 ? 0 : ends.still.start, end: ends.still.end }),
      fade: both(ends.fade),
      flashes: { most: flash.flashes, ms: Math.round(flash.seconds * 1000) },
      marks: this.marks.find().slice(0, 20),
      bars: this.bars.find(),
      sharpness: Math.round(median(this.details.map((detail) => detail.sharpness)) * 10) / 10,
      halfShare: Math.round(median(this.details.map((detail) => detail.halfShare)) * 1000) / 1000,
      palette: dominantColours(this.colours, PALETTE_COLOURS).map(({ colour, share }) => ({
        hex: convertOklabToHex(colour),
        share: Math.round(share * 100) / 100,
      })),
      usable: whole ? null : both(usable),
      asVideoBytes,
      missing,
    }
  }

  /**
   * The first frame after a card held at the start, including the card's fade; 0 if there is none.
   */
  private titleEnd(
    cuts: readonly number[],
    stillStart: number,
    blackStart: number,
    fps: number,
  ): number {
    if (blackStart > 0 || stillStart === 0) return 0
    const latest = Math.min(LONGEST_TITLE_S * fps, LARGEST_TITLE_SHARE * this.times.length)
    if (stillStart > latest) return 0
    const cut = cuts.find((frame) => Math.abs(frame - stillStart) <= 2)
    if (cut !== undefined) return cut
    // No jump: the card dissolves. It has ended when the picture changes no more than usual.
    const usual = median(this.steps.slice(Math.ceil(latest)))
    let frame = stillStart
    while (frame < latest && this.steps[frame]! > 2 * usual + 0.1) frame += 1
    return frame > stillStart ? frame : 0
  }
}

function bins(
  values: readonly number[],
  each: number,
  join: (values: readonly number[]) => number,
): number[] {
  return Array.from({ length: Math.ceil(values.length / each) }, (_, point) =>
    join(values.slice(point * each, (point + 1) * each)),
  )
}

/** The longest run of frames between `start` and `end` without a cut. */
function longestShot(
  start: number,
  end: number,
  cuts: readonly number[],
): { start: number; end: number } {
  const bounds = [start, ...cuts, end]
  let best = { start, end: start }
  for (let index = 0; index + 1 < bounds.length; index++) {
    if (bounds[index + 1]! - bounds[index]! > best.end - best.start)
      best = { start: bounds[index]!, end: bounds[index + 1]! }
  }
  return best
}
