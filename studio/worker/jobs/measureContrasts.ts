import { coverRect, type Point, type Size } from '../../../core/fit/cover'
import type { Moment } from '../../../core/legibility/contrastMoments'
import type { TextPlace } from '../../../core/legibility/TextPlace'
import type { ContrastRow } from '../../../core/legibility/worstOf'
import type { Definition } from '../../../core/particles/Definition'
import { drawLinks } from '../../../core/particles/links'
import { painterOf } from '../../../core/particles/Painter'
import { prepare } from '../../../core/particles/prepare'
import type { PartBlur } from '../../../core/picture/blurI420'
import { parseHex } from '../../../core/picture/srgb'
import { worstPlace } from '../../../core/scrim/frameContrast'
import type { Scrim } from '../../../core/scrim/scrimAt'
import { even } from '../../../core/weight/renditionSize'
import { frameOf, type Composed } from '../compose/composeFrame'
import type { OpenSequence } from '../sequences/OpenSequence'
import { decodedSprites } from '../sequences/decodedSprites'

/** The region is looked at in half its size, in cells of 4 CSS pixels: as on the stage. */
const SCALE = 0.5
const CELL = 2
/** Rows that are told at a time. */
const ROWS = 8

/** What is measured: copy on a screen, in front of a backdrop at some moments. */
export interface ContrastOrder {
  readonly moments: readonly Moment[]
  /** Drawn live in front of the sequence; null for none. */
  readonly particles: Definition | null
  readonly copyBlur: PartBlur | null
  /** In CSS pixels. */
  readonly region: Size
  readonly focal: Point
  readonly scrim: Scrim
  readonly texts: readonly TextPlace[]
}

/**
 * The contrast of every text at every moment, composited as a page shows it: the base covers the
 * region, particles lie over it, then the scrim. Places are told in CSS pixels. Errors: those of
 * decoding.
 */
export async function measureContrasts(
  open: OpenSequence,
  order: ContrastOrder,
  onRows: (rows: readonly ContrastRow[]) => void,
  signal: AbortSignal,
): Promise<void> {
  const { moments, region, texts, scrim } = order
  const { sequence } = open
  // Gradients have no shape of their own: they fill the region.
  const show = await painting(sequence.kind === 'paint' ? region : sequence.size, order)
  const looks = texts.map(({ color, boxes }) => ({
    color: parseHex(color),
    boxes: boxes.map(({ x, y, width, height }) => ({
      x: x * SCALE,
      y: y * SCALE,
      width: width * SCALE,
      height: height * SCALE,
    })),
  }))
  const size = {
    width: Math.round(region.width * SCALE),
    height: Math.round(region.height * SCALE),
  }
  let rows: ContrastRow[] = []
  let at = 0
  for await (const composed of framesAt(open, moments, show.order, signal)) {
    const { seconds } = moments[at]!
    const pixels = { data: show.paint(composed, seconds), ...size }
    const places = looks.map(({ boxes, color }) => {
      const worst = worstPlace(pixels, scrim, boxes, color, CELL)
      return worst && { ratio: worst.ratio, x: worst.x / SCALE, y: worst.y / SCALE }
    })
    rows.push({ seconds, places })
    at += 1
    if (rows.length < ROWS && at < moments.length) continue
    onRows(rows)
    rows = []
  }
}

/** The base at each moment; one that stands still is composed once. */
async function* framesAt(
  open: OpenSequence,
  moments: readonly Moment[],
  order: { readonly width: number; readonly height: number; readonly copyBlur: PartBlur | null },
  signal: AbortSignal,
): AsyncGenerator<Composed> {
  if (open.sequence.frames > 1) {
    const numbers = moments.map(({ frame }) => frame)
    yield* open.composed(numbers, order, signal)
    return
  }
  for await (const still of open.composed([0], order, signal))
    for (const _ of moments) {
      // Between pictures the worker takes other messages: it can be stopped.
      await new Promise((resolve) => setTimeout(resolve))
      if (signal.aborted) return
      yield still
    }
}

/** How a region is painted at the size that is measured, and the size of its frames. */
async function painting(
  picture: Size,
  { region, focal, particles, copyBlur }: ContrastOrder,
): Promise<{
  readonly order: Size & { readonly copyBlur: PartBlur | null }
  readonly paint: (frame: Composed, seconds: number) => Uint8ClampedArray
}> {
  const { scale, shown } = coverRect(picture, region, focal)
  const factor = scale * SCALE
  const order = {
    width: even(picture.width * factor),
    height: even(picture.height * factor),
    copyBlur,
  }
  const [width, height] = [Math.round(region.width * SCALE), Math.round(region.height * SCALE)]
  const contextOf = (): OffscreenCanvasRenderingContext2D =>
    new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  const whole = contextOf()
  const layer = contextOf()
  const draw =
    particles &&
    painterOf(prepare(particles), region, SCALE, [drawLinks], await decodedSprites(particles))
  return {
    order,
    paint(composed, seconds) {
      const frame = frameOf(composed, 0)
      const [left, top] = [-shown.x * factor, -shown.y * factor]
      whole.drawImage(frame, left, top, picture.width * factor, picture.height * factor)
      frame.close()
      if (draw) {
        draw(layer, seconds)
        whole.drawImage(layer.canvas, 0, 0)
      }
      return whole.getImageData(0, 0, width, height).data
    },
  }
}
