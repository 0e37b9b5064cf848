import type { Plane } from './I420'
import { scalePlane } from './scaleI420'

/** How much fine detail a picture holds. */
export interface Detail {
  /** Variance of the Laplacian of luma at native size. Source: Pech-Pacheco et al. (2000), doi:10.1109/ICPR.2000.903548. */
  readonly sharpness: number
  /** The share of it that is left when the picture is shrunk by two and enlarged again: near 1, the file is larger than its detail. */
  readonly halfShare: number
}

/** Measures luma. A picture too small or too flat to tell has a share of 0: nothing is claimed of it. */
export function measureDetail(luma: Plane): Detail {
  const sharpness = laplacianVariance(luma)
  const [width, height] = [luma.width >> 1, luma.height >> 1]
  if (width < 16 || height < 16 || sharpness < 1) return { sharpness, halfShare: 0 }
  const whole = { x: 0, y: 0, width: luma.width, height: luma.height }
  const half: Plane = { width, height, data: new Uint8Array(width * height) }
  scalePlane(luma, whole, half)
  const again: Plane = { width: luma.width, height: luma.height, data: new Uint8Array(luma.width * luma.height) }
  scalePlane(half, { x: 0, y: 0, width, height }, again)
  return { sharpness, halfShare: laplacianVariance(again) / sharpness }
}

function laplacianVariance({ width, height, data }: Plane): number {
  let sum = 0
  let squares = 0
  let count = 0
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x
      const value = 4 * data[at]! - data[at - 1]! - data[at + 1]! - data[at - width]! - data[at + width]!
      sum += value
      squares += value * value
      count += 1
    }
  }
  return count === 0 ? 0 : squares / count - (sum / count) ** 2
}
