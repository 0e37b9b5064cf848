import { coverRect } from '../fit/cover'
import type { ShareRect } from '../picture/pictureShape'
import type { ScreenView } from './CopySamples'

/** The parts of a picture that lie behind what is in front of it on a screen, in shares of it. */
export function copyAreas({ picture, region, focal, texts }: ScreenView): ShareRect[] {
  const { scale, shown } = coverRect(picture, region, focal)
  return texts.flatMap(({ boxes }) =>
    boxes.flatMap((box) => {
      const [left, top] = [Math.max(0, box.x), Math.max(0, box.y)]
      const [right, bottom] = [
        Math.min(region.width, box.x + box.width),
        Math.min(region.height, box.y + box.height),
      ]
      if (right <= left || bottom <= top) return []
      return {
        x: (shown.x + left / scale) / picture.width,
        y: (shown.y + top / scale) / picture.height,
        width: (right - left) / scale / picture.width,
        height: (bottom - top) / scale / picture.height,
      }
    }),
  )
}
