import type { Plane } from './I420'

/** How much fine detail a picture holds. */
export interface Detail {
  /**
   * Variance of the Laplacian of luma at native size. Source: Pech-Pacheco et al. (2000),
   * doi:10.1109/ICPR.2000.903548.
   */
  readonly sharpness: number
  /**
   * How far the finest octave falls behind the next, 0 to 1: Laplacians over one pixel against
   * those over two. Natural pictures have about equal energy in each octave (Field 1987,
   * doi:10.1364/JOSAA.4.002379); one enlarged by two has almost none in the finest.
   */
  readonly halfShare: number
}

const MIN_SIDE = 64
/**
 * A variance below this (luma levels squared) is coding noise on a flat picture: no statement is
 * made about it.
 */
const MIN_VARIANCE = 1

/** Measures luma. A picture too small or too flat has a share of 0. */
export function measureDetail(luma: Plane): Detail {
  const sharpness = laplacianVariance(luma, 1)
  if (luma.width < MIN_SIDE || luma.height < MIN_SIDE) return { sharpness, halfShare: 0 }
  const coarser = laplacianVariance(luma, 2)
  return {
    sharpness,
    halfShare: coarser < MIN_VARIANCE ? 0 : Math.max(0, 1 - sharpness / coarser),
  }
}

/** Variance of the five-point Laplacian whose arms are `reach` pixels long. */
function laplacianVariance({ width, height, data }: Plane, reach: number): number {
  let sum = 0
  let squares = 0
  let count = 0
  for (let y = reach; y < height - reach; y++) {
    for (let x = reach; x < width - reach; x++) {
      const at = y * width + x
      const value =
        4 * data[at]! -
        data[at - reach]! -
        data[at + reach]! -
        data[at - reach * width]! -
        data[at + reach * width]!
      sum += value
      squares += value * value
      count += 1
    }
  }
  return count === 0 ? 0 : squares / count - (sum / count) ** 2
}
