import { rgbFromYuv, type YuvKind } from './describeCells'

/** What each sample of luma and chroma adds to red, green and blue, 0 to 255 before clamping. */
export interface YuvTables {
  readonly luma: Float32Array
  readonly redOfCr: Float32Array
  readonly greenOfCb: Float32Array
  readonly greenOfCr: Float32Array
  readonly blueOfCb: Float32Array
}

/** `rgbFromYuv` as tables, for very many samples: red is `luma[y] + redOfCr[cr]`, clamped. */
export function yuvTables(kind: YuvKind): YuvTables {
  const table = (value: (byte: number) => number): Float32Array =>
    Float32Array.from({ length: 256 }, (_, byte) => value(byte))
  // Differences are taken where nothing is clamped: both parts are linear in between.
  const grey = kind.fullRange ? 128 : 126
  const step = 32
  const at = (cb: number, cr: number) => rgbFromYuv(grey, cb, cr, kind)
  const middle = at(128, 128)
  const slope = (channel: 0 | 1 | 2, cb: number, cr: number): number =>
    (at(128 + cb, 128 + cr)[channel] - middle[channel]) / step
  const [red, greenCb] = [slope(0, 0, step), slope(1, step, 0)]
  const [greenCr, blue] = [slope(1, 0, step), slope(2, step, 0)]
  return {
    luma: table((y) => (kind.fullRange ? y : ((y - 16) * 255) / 219)),
    redOfCr: table((cr) => red * (cr - 128)),
    greenOfCb: table((cb) => greenCb * (cb - 128)),
    greenOfCr: table((cr) => greenCr * (cr - 128)),
    blueOfCb: table((cb) => blue * (cb - 128)),
  }
}
