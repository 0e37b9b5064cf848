import { PLAIN_SHAPE, type PictureShape, unturnRect } from '../../../core/picture/pictureShape'
import type { Shape } from '../compose/composeFrame'

/**
 * A frame drawn upright at a size, cropped and straightened as the shape says: for pictures to look
 * at; what is delivered is composed in planes.
 */
export function drawUpright(
  frame: VideoFrame,
  track: Shape,
  width: number,
  height: number,
  shape: PictureShape = PLAIN_SHAPE,
): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')!
  context.imageSmoothingQuality = 'medium'
  const degrees = track.rotationDeg + 90 * shape.quarterTurns
  context.translate(width / 2, height / 2)
  if (shape.mirrored) context.scale(-1, 1)
  context.rotate((degrees * Math.PI) / 180)
  const [across, down] = degrees % 180 === 0 ? [width, height] : [height, width]
  const rect = frame.visibleRect!
  // Frames are drawn at their own pixel aspect: sizes of the source are in shown pixels.
  const shownX = Math.min(1, track.visibleWidth / rect.width) * frame.displayWidth
  const shownY = Math.min(1, track.visibleHeight / rect.height) * frame.displayHeight
  const part = unturnRect(shape.crop ?? { x: 0, y: 0, width: 1, height: 1 }, track.rotationDeg)
  context.drawImage(
    frame,
    part.x * shownX,
    part.y * shownY,
    part.width * shownX,
    part.height * shownY,
    -across / 2,
    -down / 2,
    across,
    down,
  )
  return canvas
}
