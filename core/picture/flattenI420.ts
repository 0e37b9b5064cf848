import { createI420, planesOf, type I420, type Plane } from './I420'

/** Luma, Cb and Cr of one colour, 0 to 255. */
export type Yuv = readonly [number, number, number]

/**
 * A partly transparent picture on an even colour. `opacity` is a picture of the same size whose
 * luma, 0 to 255, says how opaque the picture is (chroma is not read). Colours are not
 * premultiplied. Mixed on coded sample values, as browsers do; where four pixels share chroma,
 * their mean opacity counts. Gives a new picture. Throws RangeError for pictures of unequal size.
 */
export function flattenI420(picture: I420, opacity: I420, matte: Yuv): I420 {
  if (picture.width !== opacity.width || picture.height !== opacity.height)
    throw new RangeError('picture and opacity must have one size')
  const result = createI420(picture.width, picture.height)
  const [full] = planesOf(opacity)
  const opacities = [full.data, halved(full)] as const
  const planes = planesOf(picture)
  planesOf(result).forEach(({ data }, index) => {
    const from = planes[index]!.data
    const share = opacities[index === 0 ? 0 : 1]
    const under = matte[index]!
    for (let at = 0; at < data.length; at++)
      data[at] = Math.round(under + ((from[at]! - under) * share[at]!) / 255)
  })
  return result
}

/** Means of 2 × 2 samples. */
function halved({ width, height, data }: Plane): Uint8Array {
  const half = new Uint8Array((width * height) / 4)
  let at = 0
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      const corner = y * width + x
      const sum = data[corner]! + data[corner + 1]! + data[corner + width]!
      half[at++] = (sum + data[corner + width + 1]! + 2) >> 2
    }
  }
  return half
}
