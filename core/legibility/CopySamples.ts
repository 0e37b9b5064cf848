import { coverRect, type Point } from '../fit/cover'
import type { Size } from '../picture/Size'
import {
  blendEnvelope,
  blendSamples,
  type BlendMode,
  type BlendStep,
  type Envelope,
} from '../picture/blend'
import { parseHex } from '../picture/srgb'
import { yuvTables } from '../picture/yuvTables'
import { relativeLuminance } from '../scrim/contrast'
import type { Box, WorstPlace } from '../scrim/frameContrast'
import { PERCENTILE } from '../scrim/frameContrast'
import { plateAt } from '../scrim/Plate'
import { layersOver, scrimRuns, type Layer } from '../scrim/scrimAt'
import type { Scrim } from '../scrim/Scrim'
import {
  BOUND_BYTES,
  BOUNDS_ACROSS,
  BOUNDS_DOWN,
  boundCell,
  frameBytes,
  placeInTiles,
  type ContrastTrace,
  type TracePlan,
} from './ContrastTrace'
import { tableLuminance } from './luminanceTable'
import { nthSmallest } from './nthSmallest'
import type { ScreenLayout, TextPlace } from './TextPlace'

/** How a screen shows the base: it covers the region, with a focal point. */
export interface ScreenView extends ScreenLayout {
  /** The base, in pixels of any scale. */
  readonly picture: Size
  readonly focal: Point
}

/** The pixels of a trace behind a text on a screen, and what lies over each. */
export interface CopySamples {
  readonly text: TextPlace
  readonly count: number
  /** Where each is in the tiles of a frame; null where the trace lacks some of them. */
  readonly places: {
    readonly luma: Int32Array
    readonly cb: Int32Array
    readonly cr: Int32Array
  } | null
  /** The middle of each in the region, in CSS pixels. */
  readonly x: Float32Array
  readonly y: Float32Array
  /** What of the scrim lies under a blended layer, and that layer, from back to front. */
  readonly blended: readonly BlendedRun[]
  /** What plate and scrim above that add to red, green and blue, three by three, 0 to 255. */
  readonly added: Float32Array
  /** The share of what is below that they leave. */
  readonly left: Float32Array
  readonly cells: readonly CellOver[]
}

/** A part of a scrim over each sample: red, green and blue, 0 to 255, and opacity, 0 to 1. */
interface BlendedRun {
  readonly blend: BlendMode
  readonly over: Float32Array
}

/**
 * What becomes of the base within a cell of bounds: of each channel at least and at most so much is
 * added to so much of it.
 */
interface CellOver {
  readonly cell: number
  readonly samples: number
  readonly leastAdded: Channels
  readonly leastLeft: Channels
  readonly mostAdded: Channels
  readonly mostLeft: Channels
}

type Channels = readonly [r: number, g: number, b: number]

/** What lies over the samples within a cell, while they are gathered. */
interface Gathered {
  samples: number
  /** For each blended run: of red, green, blue and opacity. */
  readonly blended: readonly [least: number, most: number][][]
  readonly leastAdded: [number, number, number]
  readonly mostAdded: [number, number, number]
  leastLeft: number
  mostLeft: number
}

/** How a trace lies in a region: where its pixels are in CSS pixels, and which are in a box. */
export function traceGrid({ picture, region, focal }: ScreenView, { width, height }: TracePlan) {
  const { scale, shown } = coverRect(picture, region, focal)
  const [stepX, stepY] = [(scale * picture.width) / width, (scale * picture.height) / height]
  const [left, top] = [-shown.x * scale, -shown.y * scale]
  /** Pixels whose middle is within a span; where none is, the one that is there. */
  const within = (
    from: number,
    to: number,
    origin: number,
    step: number,
    count: number,
  ): readonly [number, number] => {
    const first = Math.max(0, Math.ceil((from - origin) / step - 0.5))
    const end = Math.min(count, Math.ceil((to - origin) / step - 0.5))
    if (end > first) return [first, end]
    const only = Math.floor(((from + to) / 2 - origin) / step)
    return only >= 0 && only < count && to > from ? [only, only + 1] : [0, 0]
  }
  return {
    xOf: (pixel: number): number => left + (pixel + 0.5) * stepX,
    yOf: (pixel: number): number => top + (pixel + 0.5) * stepY,
    columns: ({ x, width: wide }: Box) =>
      within(Math.max(0, x), Math.min(region.width, x + wide), left, stepX, width),
    rows: ({ y, height: high }: Box) =>
      within(Math.max(0, y), Math.min(region.height, y + high), top, stepY, height),
  }
}

/** No plate. */
const CLEAR: Layer = { r: 0, g: 0, b: 0, alpha: 0 }

/** A layer over another: what both add to each channel, and the share of the base they leave. */
type Added = [r: number, g: number, b: number, left: number]

function over(scrim: Layer, plate: Layer, into: Added): void {
  const through = 1 - plate.alpha
  const own = scrim.alpha * through
  into[0] = scrim.r * own + plate.r * plate.alpha
  into[1] = scrim.g * own + plate.g * plate.alpha
  into[2] = scrim.b * own + plate.b * plate.alpha
  into[3] = through - own
}

/** The samples of a text on a screen; null where it lies outside the region. */
export function copySamples(
  trace: TracePlan,
  view: ScreenView,
  scrim: Scrim,
  text: TextPlace,
): CopySamples | null {
  const { region } = view
  const grid = traceGrid(view, trace)
  const runs = scrimRuns(scrim).map(({ blend, layers }) => ({
    blend,
    layerAt: layersOver(layers, region.width, region.height),
  }))
  // Nothing is blended over the last normal run: with the plate it is one sum.
  const front = runs.at(-1)?.blend === 'normal' ? runs.pop()!.layerAt : () => CLEAR
  const spans = text.boxes.map((box) => ({ columns: grid.columns(box), rows: grid.rows(box) }))
  const count = spans.reduce(
    (sum, { columns, rows }) => sum + (columns[1] - columns[0]) * (rows[1] - rows[0]),
    0,
  )
  if (count === 0) return null
  const [luma, cb, cr] = [new Int32Array(count), new Int32Array(count), new Int32Array(count)]
  const [x, y] = [new Float32Array(count), new Float32Array(count)]
  const [added, left] = [new Float32Array(3 * count), new Float32Array(count)]
  const blended = runs.map(({ blend }) => ({ blend, over: new Float32Array(4 * count) }))
  const cells = new Map<number, Gathered>()
  const { plate } = text
  const all: Added = [0, 0, 0, 1]
  let isKept = true
  let sample = 0
  for (const { columns, rows } of spans)
    for (let row = rows[0]; row < rows[1]; row++)
      for (let column = columns[0]; column < columns[1]; column++) {
        x[sample] = grid.xOf(column)
        y[sample] = grid.yOf(row)
        over(front(x[sample]!, y[sample]!), plate ? plateAt(plate, sample) : CLEAR, all)
        for (let index = 0; index < runs.length; index++)
          keep(runs[index]!.layerAt(x[sample]!, y[sample]!), blended[index]!.over, sample)
        added[3 * sample] = all[0]
        added[3 * sample + 1] = all[1]
        added[3 * sample + 2] = all[2]
        left[sample] = all[3]
        note(cells, boundCell(column, row, trace.width, trace.height), all, blended, sample)
        const place = placeInTiles(trace, column, row)
        if (place) {
          luma[sample] = place.luma
          cb[sample] = place.cb
          cr[sample] = place.cr
        } else isKept = false
        sample++
      }
  const places = isKept ? { luma, cb, cr } : null
  const envelopes = knownEnvelopes()
  const bounded = [...cells].map(([cell, each]) => cellOver(cell, each, blended, envelopes))
  return { text, count, places, x, y, blended, added, left, cells: bounded }
}

function note(
  cells: Map<number, Gathered>,
  cell: number,
  [r, g, b, left]: Readonly<Added>,
  blended: readonly BlendedRun[],
  sample: number,
): void {
  const known = cells.get(cell)
  if (!known) {
    cells.set(cell, {
      samples: 1,
      blended: blended.map(({ over }) =>
        Array.from(over.subarray(4 * sample, 4 * sample + 4), (value) => [value, value]),
      ),
      leastAdded: [r, g, b],
      mostAdded: [r, g, b],
      leastLeft: left,
      mostLeft: left,
    })
    return
  }
  known.samples += 1
  for (let run = 0; run < blended.length; run++) widen(known.blended[run]!, blended[run]!, sample)
  const { leastAdded, mostAdded } = known
  // Once for each sample: a loop over the channels takes several times as long.
  if (r < leastAdded[0]) leastAdded[0] = r
  if (g < leastAdded[1]) leastAdded[1] = g
  if (b < leastAdded[2]) leastAdded[2] = b
  if (r > mostAdded[0]) mostAdded[0] = r
  if (g > mostAdded[1]) mostAdded[1] = g
  if (b > mostAdded[2]) mostAdded[2] = b
  if (left < known.leastLeft) known.leastLeft = left
  if (left > known.mostLeft) known.mostLeft = left
}

function keep({ r, g, b, alpha }: Layer, over: Float32Array, sample: number): void {
  const at = 4 * sample
  over[at] = r
  over[at + 1] = g
  over[at + 2] = b
  over[at + 3] = alpha
}

/** Ranges of red, green, blue and opacity, so that they hold those of a sample. */
function widen(ranges: Gathered['blended'][number], { over }: BlendedRun, sample: number): void {
  for (let channel = 0; channel < 4; channel++) {
    const range = ranges[channel]!
    const value = over[4 * sample + channel]!
    if (value < range[0]) range[0] = value
    if (value > range[1]) range[1] = value
  }
}

/** Envelopes that are made once: under an even layer they are the same in every cell. */
function knownEnvelopes(): (steps: readonly BlendStep[]) => Envelope {
  const known = new Map<string, Envelope>()
  return (steps) => {
    const key = steps.map(({ over, alpha }) => `${over.join()} ${alpha.join()}`).join()
    const envelope = known.get(key) ?? blendEnvelope(steps)
    known.set(key, envelope)
    return envelope
  }
}

function cellOver(
  cell: number,
  { samples, leastAdded, mostAdded, leastLeft, mostLeft, blended }: Gathered,
  runs: readonly BlendedRun[],
  envelopeOf: (steps: readonly BlendStep[]) => Envelope,
): CellOver {
  if (runs.length === 0) {
    const [least, most]: Channels[] = [
      [leastLeft, leastLeft, leastLeft],
      [mostLeft, mostLeft, mostLeft],
    ]
    return { cell, samples, leastAdded, mostAdded, leastLeft: least!, mostLeft: most! }
  }
  const envelopes = [0, 1, 2].map((channel) =>
    envelopeOf(
      blended.map((ranges, run) => ({
        mode: runs[run]!.blend,
        over: ranges[channel]!,
        alpha: ranges[3]!,
      })),
    ),
  )
  const each = (value: (envelope: Envelope, channel: 0 | 1 | 2) => number): Channels => [
    value(envelopes[0]!, 0),
    value(envelopes[1]!, 1),
    value(envelopes[2]!, 2),
  ]
  return {
    cell,
    samples,
    leastAdded: each(({ least }, channel) => leastAdded[channel] + least.added * leastLeft),
    leastLeft: each(({ least }) => least.left * leastLeft),
    mostAdded: each(({ most }, channel) => mostAdded[channel] + most.added * mostLeft),
    mostLeft: each(({ most }) => most.left * mostLeft),
  }
}

/** Which of so many samples counts, from the worst. */
const counting = (count: number): number => Math.floor((count - 1) * PERCENTILE)

const byte = (value: number): number => (value <= 0 ? 0 : value >= 255 ? 255 : value)
const clampLow = (value: number): number => (value > 0 ? value : 0)
const clampHigh = (value: number): number => (value < 255 ? value : 255)

/** Particles by their RGBA bytes, and where each sample is in them. */
interface LaidParticles {
  readonly data: Uint8ClampedArray
  readonly at: Int32Array
}

/** Lays particles over what is seen, red, green and blue of each sample. */
function lay({ data, at: places }: LaidParticles, seen: Float32Array, count: number): void {
  for (let sample = 0, at = 0; sample < count; sample++, at += 3) {
    const from = places[sample]!
    const alpha = data[from + 3]! / 255
    for (let channel = 0; channel < 3; channel++)
      seen[at + channel] = data[from + channel]! * alpha + seen[at + channel]! * (1 - alpha)
  }
}

/** Measures copy in frames of one trace. */
export class CopyMeter {
  private readonly trace: ContrastTrace
  private readonly tables: ReturnType<typeof yuvTables>
  private ratios = new Float32Array(1024)
  private ordered = new Float32Array(1024)
  private counts = new Int32Array(1024)
  private seen = new Float32Array(3 * 1024)

  constructor(trace: ContrastTrace) {
    this.trace = trace
    this.tables = yuvTables(trace.kind)
  }

  /**
   * The place that counts behind a text in a frame: the 5th percentile of its samples. Particles
   * are given by their RGBA bytes and where each sample is in them. Null where the trace lacks some
   * of the text. Source: docs/method.md (contrast).
   */
  measure(
    samples: CopySamples,
    frame: number,
    particles: LaidParticles | null = null,
  ): WorstPlace | null {
    const { places, count, blended, added, left } = samples
    if (!places) return null
    this.reserve(count)
    const { luma, redOfCr, greenOfCb, greenOfCr, blueOfCb } = this.tables
    const { tiles } = this.trace
    const { ratios } = this
    const base = frame * frameBytes(this.trace)
    const copy = relativeLuminance(parseHex(samples.text.color)) + 0.05
    const { seen } = this
    for (let sample = 0, at = 0; sample < count; sample++, at += 3) {
      const y = luma[tiles[base + places.luma[sample]!]!]!
      const cb = tiles[base + places.cb[sample]!]!
      const cr = tiles[base + places.cr[sample]!]!
      seen[at] = byte(y + redOfCr[cr]!)
      seen[at + 1] = byte(y + greenOfCb[cb]! + greenOfCr[cr]!)
      seen[at + 2] = byte(y + blueOfCb[cb]!)
    }
    if (particles) lay(particles, seen, count)
    for (const { blend, over } of blended) blendSamples(seen, blend, over, count)
    for (let sample = 0, at = 0; sample < count; sample++, at += 3) {
      const share = left[sample]!
      const ground =
        tableLuminance(
          added[at]! + seen[at]! * share,
          added[at + 1]! + seen[at + 1]! * share,
          added[at + 2]! + seen[at + 2]! * share,
        ) + 0.05
      ratios[sample] = ground > copy ? ground / copy : copy / ground
    }
    this.ordered.set(ratios.subarray(0, count))
    const ratio = nthSmallest(this.ordered, count, counting(count))
    const sample = ratios.indexOf(ratio)
    return { ratio, x: samples.x[sample]!, y: samples.y[sample]! }
  }

  /**
   * What the contrast of a text in a frame is at least, particles aside: from the least and most of
   * each channel in cells, so it never flatters. Source: docs/method.md (contrast).
   */
  bound(samples: CopySamples, frame: number): number {
    const { bounds } = this.trace
    const base = frame * BOUNDS_ACROSS * BOUNDS_DOWN * BOUND_BYTES
    const copy = relativeLuminance(parseHex(samples.text.color))
    const { cells } = samples
    this.reserve(cells.length)
    const { ratios, counts } = this
    for (const [index, over] of cells.entries()) {
      const at = base + over.cell * BOUND_BYTES
      const { leastAdded, mostAdded, leastLeft, mostLeft } = over
      const high = tableLuminance(
        clampHigh(mostAdded[0] + bounds[at + 3]! * mostLeft[0]),
        clampHigh(mostAdded[1] + bounds[at + 4]! * mostLeft[1]),
        clampHigh(mostAdded[2] + bounds[at + 5]! * mostLeft[2]),
      )
      // Copy is mostly brighter than all of a cell: its darkest need not be known then.
      let ratio = 1
      if (copy > high) ratio = (copy + 0.05) / (high + 0.05)
      else {
        const low = tableLuminance(
          clampLow(leastAdded[0] + bounds[at]! * leastLeft[0]),
          clampLow(leastAdded[1] + bounds[at + 1]! * leastLeft[1]),
          clampLow(leastAdded[2] + bounds[at + 2]! * leastLeft[2]),
        )
        if (copy < low) ratio = (low + 0.05) / (copy + 0.05)
      }
      // In order: there are few, and they are nearly sorted from frame to frame.
      let place = index
      for (; place > 0 && ratios[place - 1]! > ratio; place--) {
        ratios[place] = ratios[place - 1]!
        counts[place] = counts[place - 1]!
      }
      ratios[place] = ratio
      counts[place] = over.samples
    }
    let passed = counting(samples.count)
    for (let index = 0; index < cells.length; index++) {
      if (passed < counts[index]!) return ratios[index]!
      passed -= counts[index]!
    }
    return 1
  }

  private reserve(count: number): void {
    if (this.ratios.length >= count) return
    this.ratios = new Float32Array(count)
    this.seen = new Float32Array(3 * count)
    this.ordered = new Float32Array(count)
    this.counts = new Int32Array(count)
  }
}
