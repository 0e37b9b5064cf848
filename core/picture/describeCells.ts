import { convertSrgbToOklab, type Oklab } from './convertSrgbToOklab'
import { planesOf, type I420 } from './I420'
import { shrinkPlane } from './shrinkPlane'

/**
 * Cells across and down in which motion is measured. Source: docs/method.md (material).
 */
export const MOTION_ACROSS = 64
export const MOTION_DOWN = 36

/**
 * How luma and chroma become red, green and blue. Sources: ITU-R BT.709-6, items 3.2 to 3.5;
 * BT.601-7, 2.5.1; BT.2020-2, table 4.
 */
export interface YuvKind {
  readonly matrix: 'bt709' | 'bt601' | 'bt2020'
  readonly fullRange: boolean
}

/** Kr and Kb of each matrix. */
const WEIGHTS = {
  bt709: [0.2126, 0.0722],
  bt601: [0.299, 0.114],
  bt2020: [0.2627, 0.0593],
} as const

/** What red and blue weigh in luma. */
export const yuvWeights = ({ matrix }: YuvKind): readonly [kr: number, kb: number] =>
  WEIGHTS[matrix]

/** One sample of luma and chroma (0 to 255) as sRGB bytes, clamped. */
export function rgbFromYuv(
  luma: number,
  cb: number,
  cr: number,
  kind: YuvKind,
): [number, number, number] {
  const [kr, kb] = WEIGHTS[kind.matrix]
  const y = kind.fullRange ? luma / 255 : (luma - 16) / 219
  const scale = kind.fullRange ? 255 : 224
  const r = y + (2 * (1 - kr) * (cr - 128)) / scale
  const b = y + (2 * (1 - kb) * (cb - 128)) / scale
  const g = (y - kr * r - kb * b) / (1 - kr - kb)
  const byte = (value: number): number => 255 * Math.min(1, Math.max(0, value))
  return [byte(r), byte(g), byte(b)]
}

/** An sRGB colour (bytes) as luma, Cb and Cr, 0 to 255, rounded: the inverse of `rgbFromYuv`. */
export function yuvFromRgb(
  r: number,
  g: number,
  b: number,
  kind: YuvKind,
): [number, number, number] {
  const [kr, kb] = WEIGHTS[kind.matrix]
  const y = (kr * r + (1 - kr - kb) * g + kb * b) / 255
  const scale = kind.fullRange ? 255 : 224
  const chroma = (value: number, weight: number): number =>
    Math.min(255, Math.round(128 + ((value / 255 - y) * scale) / (2 * (1 - weight))))
  return [Math.round(kind.fullRange ? y * 255 : 16 + y * 219), chroma(b, kb), chroma(r, kr)]
}

/**
 * A picture in `across` × `down` cells (64 × 36), row after row: mean colours, and mean luma as
 * stored.
 */
export function describeCells(
  picture: I420,
  kind: YuvKind,
  across = MOTION_ACROSS,
  down = MOTION_DOWN,
): { colours: Oklab[]; luma: Float32Array } {
  const grids = planesOf(picture).map((plane) => shrinkPlane(plane, across, down))
  return { luma: grids[0]!, colours: coloursOf(grids, kind) }
}

/**
 * A picture in `fineness` times as many cells, and in `across` × `down` of them, for little more
 * than the finer one alone.
 */
export function describeTwice(
  picture: I420,
  kind: YuvKind,
  across: number,
  down: number,
  fineness: number,
): { fine: Oklab[]; coarse: Oklab[] } {
  const [wide, high] = [across * fineness, down * fineness]
  const fine = planesOf(picture).map((plane) => shrinkPlane(plane, wide, high))
  return {
    fine: coloursOf(fine, kind),
    coarse: coloursOf(
      fine.map((data) => shrinkPlane({ width: wide, height: high, data }, across, down)),
      kind,
    ),
  }
}

function coloursOf([luma, blue, red]: readonly Float32Array[], kind: YuvKind): Oklab[] {
  return Array.from(luma!, (y, cell) =>
    convertSrgbToOklab(...rgbFromYuv(y, blue![cell]!, red![cell]!, kind)),
  )
}
