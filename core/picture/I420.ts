/**
 * A picture as three planes: luma at full size, chroma at half width and height. Tightly packed, 8
 * bits.
 */
export interface I420 {
  /** Even, in pixels. */
  readonly width: number
  readonly height: number
  /** Luma, then Cb, then Cr, one after another in one buffer. */
  readonly data: Uint8Array<ArrayBuffer>
}

/** Bytes that an I420 picture of this size takes. */
export function i420Bytes(width: number, height: number): number {
  return (width * height * 3) / 2
}

/** The three planes as views. */
export function planesOf(picture: I420): readonly [Plane, Plane, Plane] {
  const { width, height, data } = picture
  const luma = width * height
  const chroma = luma / 4
  return [
    { width, height, data: data.subarray(0, luma) },
    { width: width / 2, height: height / 2, data: data.subarray(luma, luma + chroma) },
    { width: width / 2, height: height / 2, data: data.subarray(luma + chroma, luma + 2 * chroma) },
  ]
}

/** One plane of samples, row after row. */
export interface Plane {
  readonly width: number
  readonly height: number
  readonly data: Uint8Array
}

/** A new picture of undefined content. Throws RangeError for odd sizes, which 4:2:0 cannot hold. */
export function createI420(width: number, height: number): I420 {
  if (width % 2 !== 0 || height % 2 !== 0 || width <= 0 || height <= 0)
    throw new RangeError(`${width} × ${height} is not even`)
  return { width, height, data: new Uint8Array(i420Bytes(width, height)) }
}
