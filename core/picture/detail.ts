import type { Plane } from './I420'
import { scalePlane } from './scaleI420'

/** How much fine detail a picture holds. */
export interface Detail {
  /** Variance of the Laplacian of luma at native size. Source: Pech-Pacheco et al. (2000), doi:10.1109/ICPR.2000.903548. */
  readonly sharpness: number
  /**
   * Of the detail that is lost by shrinking to a quarter and enlarging again, the share that survives shrinking to a half: near 1, the
   * finest octave is empty and the file is larger than its detail. Natural pictures hold about as much in each octave.
   * Source: Field (1987), doi:10.1364/JOSAA.4.002379, on the 1/f² spectrum.
   */
  readonly halfShare: number
}

const LEAST_SIDE = 64
/** Less energy than this (luma levels squared) is coding noise on a flat picture: nothing is claimed of it. */
const LEAST_ENERGY = 0.4

/** Measures luma. A picture too small or too flat to tell has a share of 0. */
export function measureDetail(luma: Plane): Detail {
  const sharpness = laplacianVariance(luma)
  if (luma.width < LEAST_SIDE || luma.height < LEAST_SIDE) return { sharpness, halfShare: 0 }
  const quarter = lostBy(luma, 4)
  return { sharpness, halfShare: quarter < LEAST_ENERGY ? 0 : Math.max(0, 1 - lostBy(luma, 2) / quarter) }
}

/** Mean squared difference between a plane and itself shrunk by a factor and enlarged again. */
function lostBy(luma: Plane, factor: number): number {
  const small: Plane = { width: Math.floor(luma.width / factor), height: Math.floor(luma.height / factor), data: new Uint8Array(Math.floor(luma.width / factor) * Math.floor(luma.height / factor)) }
  scalePlane(luma, { x: 0, y: 0, width: luma.width, height: luma.height }, small)
  const again: Plane = { width: luma.width, height: luma.height, data: new Uint8Array(luma.width * luma.height) }
  scalePlane(small, { x: 0, y: 0, width: small.width, height: small.height }, again)
  let sum = 0
  for (let at = 0; at < luma.data.length; at++) sum += (luma.data[at]! - again.data[at]!) ** 2
  return sum / luma.data.length
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
