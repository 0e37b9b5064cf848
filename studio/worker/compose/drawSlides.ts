import { coverRect, type Point, type Size } from '../../../core/fit/cover'
import { viewAt, type View } from '../../../core/kinds/image/Image'
import type { SceneSlide } from '../../../core/kinds/slideshow/scene'
import type { Look } from '../../../core/kinds/slideshow/transition'

/*
 * Slides drawn as the delivered style shows them (core/handoff/layers/slides.ts): for frames of a
 * clip, and for what is measured on the stage.
 */

type Context = OffscreenCanvasRenderingContext2D | CanvasRenderingContext2D

/** A picture with its size in its own pixels. */
export interface SlideImage extends Size {
  readonly image: CanvasImageSource
}

/** How a slide's image lies in the region. */
export interface SlidePlace {
  readonly placing: 'cover' | 'contain' | 'tile'
  /** Width of a tile in pixels of the canvas. */
  readonly tileWidth: number
  readonly background: string
  readonly focal: Point
  readonly pan: { readonly from: View; readonly to: View } | null
  /** It begins anew after so many pixels of the canvas; absent for never. */
  readonly everyHeight?: number | undefined
}

/** Draws what is seen at a moment, from back to front, filling a region from 0, 0. */
export function drawScene(
  context: Context,
  scene: readonly SceneSlide[],
  region: Size,
  slideOf: (slide: number) => { readonly place: SlidePlace; readonly picture: SlideImage | null },
): void {
  for (const { slide, look, transition, panShare } of scene) {
    const { place, picture } = slideOf(slide)
    const draw = (target: Context): void => {
      if (look.wash > 0) {
        target.fillStyle = transition.color
        target.fillRect(0, 0, region.width, region.height)
      }
      target.save()
      target.globalAlpha *= 1 - look.wash
      drawEvery(target, place, picture, panShare, region)
      target.restore()
    }
    context.save()
    context.translate(look.x * region.width, look.y * region.height)
    clipTo(context, look, region)
    if (needsLayer(look)) drawLayer(context, look, region, draw)
    else draw(context)
    context.restore()
  }
}

/** Whether a slide must be drawn by itself before it is laid over the others. */
const needsLayer = ({ opacity, sweep, wash }: Look): boolean =>
  sweep !== null || (opacity < 1 && opacity > 0) || wash > 0

function clipTo(context: Context, { outline, circle }: Look, { width, height }: Size): void {
  if (!outline && circle === null) return
  context.beginPath()
  if (outline) for (const { x, y } of outline) context.lineTo(x * width, y * height)
  else {
    const radius = (circle! * 0.71 * Math.hypot(width, height)) / Math.SQRT2
    context.arc(width / 2, height / 2, radius, 0, 2 * Math.PI)
  }
  context.clip()
}

function drawLayer(
  context: Context,
  { opacity, sweep }: Look,
  { width, height }: Size,
  draw: (target: Context) => void,
): void {
  const canvas = new OffscreenCanvas(width, height)
  const layer = canvas.getContext('2d')!
  draw(layer)
  if (sweep) {
    const rad = (sweep.angleDeg * Math.PI) / 180
    const [right, down] = [Math.sin(rad), -Math.cos(rad)]
    // Half of the gradient's line within the region, as CSS measures it.
    const half = (Math.abs(right) * width + Math.abs(down) * height) / 2
    const at = (along: number): readonly [number, number] => [
      width / 2 + right * along * half,
      height / 2 + down * along * half,
    ]
    const soft = Math.max(sweep.softness, 1e-4)
    const gradient = layer.createLinearGradient(...at(sweep.at - soft), ...at(sweep.at + soft))
    gradient.addColorStop(0, '#000')
    gradient.addColorStop(1, 'transparent')
    layer.globalCompositeOperation = 'destination-in'
    layer.fillStyle = gradient
    layer.fillRect(0, 0, width, height)
  }
  context.globalAlpha = opacity
  context.drawImage(canvas, 0, 0)
}

/** What fills the window, and not the region, begins anew in each window below. */
function drawEvery(
  context: Context,
  place: SlidePlace,
  picture: SlideImage | null,
  panShare: number,
  region: Size,
): void {
  const { everyHeight: height } = place
  if (height === undefined) {
    drawSlide(context, place, picture, panShare, region)
    return
  }
  for (let top = 0; top < region.height; top += height) {
    context.save()
    context.beginPath()
    context.rect(0, top, region.width, height)
    context.clip()
    context.translate(0, top)
    drawSlide(context, place, picture, panShare, { width: region.width, height })
    context.restore()
  }
}

function drawSlide(
  context: Context,
  { placing, tileWidth, background, focal, pan }: SlidePlace,
  picture: SlideImage | null,
  panShare: number,
  region: Size,
): void {
  const { width, height } = region
  if (placing !== 'cover' || !picture) {
    context.fillStyle = background
    context.fillRect(0, 0, width, height)
  }
  if (!picture) return
  context.imageSmoothingQuality = 'high'
  if (placing === 'tile') {
    const tileHeight = (tileWidth * picture.height) / picture.width
    for (let y = 0; y < height; y += tileHeight)
      for (let x = 0; x < width; x += tileWidth)
        context.drawImage(picture.image, x, y, tileWidth, tileHeight)
    return
  }
  if (placing === 'contain') {
    const scale = Math.min(width / picture.width, height / picture.height)
    const [wide, high] = [picture.width * scale, picture.height * scale]
    context.drawImage(
      picture.image,
      (width - wide) * focal.x,
      (height - high) * focal.y,
      wide,
      high,
    )
    return
  }
  if (pan) {
    const view = viewAt(pan, panShare)
    context.scale(view.zoom, view.zoom)
    context.translate(-view.x * width, -view.y * height)
  }
  const { shown } = coverRect(picture, region, focal)
  context.drawImage(picture.image, shown.x, shown.y, shown.width, shown.height, 0, 0, width, height)
}
