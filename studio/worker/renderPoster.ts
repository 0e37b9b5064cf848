import type { RenditionFacts } from '../../core/api/wire'
import type { PosterRecipe } from '../../core/backdrop/recipe'
import { frameAt } from '../../core/media/presentation'
import type { Shape } from './composeFrame'
import { decodeFrames } from './decodeFrames'
import type { OpenClip } from './OpenClip'
import { WorkError } from './WorkError'

const QUALITY = { webp: 0.86, jpeg: 0.88 } as const

/** Renders the still: the first output frame, upright, at the recipe's size. Errors: `work/cannot-encode` and those of decoding. */
export async function renderPoster(clip: OpenClip, recipe: PosterRecipe, signal: AbortSignal): Promise<{ bytes: Uint8Array<ArrayBuffer>; facts: RenditionFacts }> {
  const scale = clip.presentation.timescale / recipe.cut.timescale
  const number = frameAt(clip.presentation, recipe.cut.start * scale + 1e-6)
  for await (const { frame } of decodeFrames(clip, number, number, signal)) {
    const canvas = drawUpright(frame, clip.file.video, recipe.width, recipe.height)
    frame.close()
    const type = `image/${recipe.format}` as const
    const blob = await canvas.convertToBlob({ type, quality: QUALITY[recipe.format] })
    // A format the browser cannot write silently becomes PNG.
    if (blob.type !== type) throw new WorkError('work/cannot-encode')
    return { bytes: new Uint8Array(await blob.arrayBuffer()), facts: { kind: 'poster', type, width: recipe.width, height: recipe.height } }
  }
  throw new WorkError('work/decode-failed')
}

/** A frame drawn upright at a size. */
export function drawUpright(frame: VideoFrame, { rotationDeg, visibleWidth, visibleHeight }: Shape, width: number, height: number): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.translate(width / 2, height / 2)
  context.rotate((rotationDeg * Math.PI) / 180)
  const [across, down] = rotationDeg % 180 === 0 ? [width, height] : [height, width]
  const rect = frame.visibleRect!
  // Frames are drawn at their own pixel aspect: sizes of the source are in shown pixels.
  const cropX = Math.min(1, visibleWidth / rect.width) * frame.displayWidth
  const cropY = Math.min(1, visibleHeight / rect.height) * frame.displayHeight
  context.drawImage(frame, 0, 0, cropX, cropY, -across / 2, -down / 2, across, down)
  return canvas
}
