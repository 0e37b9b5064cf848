import type { I420 } from './I420'

/**
 * `over` with `weight` (0 to 1) over `under`, on coded sample values, as a crossfade in a browser
 * does. Rounded; a weight of 0 or 1 returns one of the pictures itself. Throws RangeError for
 * pictures of different sizes.
 */
export function mixI420(under: I420, over: I420, weight: number): I420 {
  if (under.width !== over.width || under.height !== over.height)
    throw new RangeError('only pictures of one size can be mixed')
  const share = Math.round(Math.min(1, Math.max(0, weight)) * 256)
  if (share === 0) return under
  if (share === 256) return over
  const data = new Uint8Array(under.data.length)
  const rest = 256 - share
  const [a, b] = [under.data, over.data]
  for (let at = 0; at < data.length; at++) data[at] = (a[at]! * rest + b[at]! * share + 128) >> 8
  return { width: under.width, height: under.height, data }
}
