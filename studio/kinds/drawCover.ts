import { coverRect, type Point, type Size } from '../../core/fit/cover'
import type { ShownPicture } from './KindView'

/**
 * Draws a picture so that it fills a region around its focal point, as `object-fit: cover` does.
 */
export function drawCover(
  context: OffscreenCanvasRenderingContext2D,
  picture: ShownPicture,
  region: Size,
  focal: Point,
): void {
  const { shown } = coverRect(picture, region, focal)
  context.drawImage(
    picture.image,
    shown.x,
    shown.y,
    shown.width,
    shown.height,
    0,
    0,
    region.width,
    region.height,
  )
}
