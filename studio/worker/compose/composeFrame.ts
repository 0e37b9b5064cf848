import type { Size } from '../../../core/fit/cover'
import type { VideoTrack } from '../../../core/media/MediaFile'
import { i420Blurrer, type PartBlur } from '../../../core/picture/blurI420'
import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import type { YuvKind } from '../../../core/picture/describeCells'
import { i420Meaner } from '../../../core/picture/meanI420'
import { createI420, type I420 } from '../../../core/picture/I420'
import { i420Shaper, isPlain, type PictureShape } from '../../../core/picture/pictureShape'

/**
 * What is known of the colours of I420 pictures that we make ourselves: limited BT.709, as players
 * expect.
 */
export const LIMITED_BT709: VideoColorSpaceInit = {
  primaries: 'bt709',
  transfer: 'bt709',
  matrix: 'bt709',
  fullRange: false,
}

/** How a track's frames are shown: cut to their visible part, then turned. */
export type Shape = Pick<VideoTrack, 'rotationDeg' | 'visibleWidth' | 'visibleHeight'>

/** A picture as it is delivered: the upright frame with the document's changes, at a size. */
export interface ComposeOrder {
  readonly shape: PictureShape
  /** Even, in pixels. */
  readonly width: number
  readonly height: number
  readonly copyBlur: PartBlur | null
  /** Whether plain means suffice, as for what is measured and not shown: much faster. */
  readonly means?: boolean
}

/** A composed picture and what its samples mean. */
export interface Composed {
  readonly picture: I420
  readonly colour: VideoColorSpaceInit
  readonly kind: YuvKind
}

/**
 * Whether a frame must be composed in planes. Where nothing but the size changes, it goes straight
 * to the encoder, which scales too and is faster (docs/method.md (composing)).
 */
export function needsComposing(
  frame: VideoFrame,
  { rotationDeg, visibleWidth, visibleHeight }: Shape,
  shape: PictureShape,
): boolean {
  const rect = frame.visibleRect!
  return (
    !isPlain(shape) ||
    rotationDeg !== 0 ||
    rect.width - visibleWidth > 1 ||
    rect.height - visibleHeight > 1
  )
}

/** What luma and chroma of the planes that `planesOfFrame` gives mean. */
export function kindOfFrame({ format, colorSpace }: VideoFrame): YuvKind {
  const planar = format === 'I420' || format === 'NV12'
  if (!planar) return { matrix: 'bt709', fullRange: false }
  const matrix =
    colorSpace.matrix === 'smpte170m' || colorSpace.matrix === 'bt470bg'
      ? 'bt601'
      : (colorSpace.matrix as string) === 'bt2020-ncl'
        ? 'bt2020'
        : 'bt709'
  return { matrix, fullRange: colorSpace.fullRange ?? false }
}

/**
 * A frame's planes in any format, limited to the part that the container shows, with even sizes. If
 * they fit, they are written over those of `into`.
 */
export async function planesOfFrame(
  frame: VideoFrame,
  shape: Pick<Shape, 'visibleWidth' | 'visibleHeight'>,
  into: I420 | null = null,
): Promise<I420> {
  const rect = frame.visibleRect!
  const [shownWidth, shownHeight] = [
    Math.min(rect.width, shape.visibleWidth),
    Math.min(rect.height, shape.visibleHeight),
  ]
  const width = Math.max(2, shownWidth - (shownWidth % 2))
  const height = Math.max(2, shownHeight - (shownHeight % 2))
  const picture = into?.width === width && into.height === height ? into : createI420(width, height)
  const crop = { x: rect.x, y: rect.y, width, height }
  if (frame.format === 'I420') {
    const chroma = width / 2
    const luma = width * height
    await frame.copyTo(picture.data, {
      rect: crop,
      layout: [
        { offset: 0, stride: width },
        { offset: luma, stride: chroma },
        { offset: luma + luma / 4, stride: chroma },
      ],
    })
    return picture
  }
  if (frame.format === 'NV12') {
    const raw = new Uint8Array((width * height * 3) / 2)
    const luma = width * height
    await frame.copyTo(raw, {
      rect: crop,
      layout: [
        { offset: 0, stride: width },
        { offset: luma, stride: width },
      ],
    })
    picture.data.set(raw.subarray(0, luma))
    for (let index = 0; index < luma / 4; index++) {
      picture.data[luma + index] = raw[luma + 2 * index]!
      picture.data[luma + luma / 4 + index] = raw[luma + 2 * index + 1]!
    }
    return picture
  }
  // Ten bits, alpha, 4:2:2 and the like: the browser converts to sRGB, we to limited BT.709.
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.drawImage(frame, 0, 0)
  return convertRgbaToI420(context.getImageData(0, 0, width, height).data, width, height)
}

type Shaper = (picture: I420) => I420

/** Means are taken where nothing else changes. */
function shaperOf(
  coded: Pick<I420, 'width' | 'height'>,
  rotationDeg: number,
  order: ComposeOrder,
): { readonly shape: Shaper; readonly isMean: boolean } {
  const { means, shape, copyBlur, width, height } = order
  const mean =
    means && isPlain(shape) && rotationDeg === 0 && !copyBlur
      ? i420Meaner(coded, width, height)
      : null
  return { shape: mean ?? blurredShaper(coded, rotationDeg, order), isMean: mean !== null }
}

function blurredShaper(
  coded: Pick<I420, 'width' | 'height'>,
  rotationDeg: number,
  { shape, width, height, copyBlur }: ComposeOrder,
): (picture: I420) => I420 {
  const shaped = i420Shaper(coded, rotationDeg, shape, width, height)
  if (!copyBlur) return shaped
  const blurred = i420Blurrer({ width, height }, copyBlur)
  return (picture) => blurred(shaped(picture))
}

/** Composes a frame in planes. The frame stays open. */
export type ComposeFrame = (frame: VideoFrame) => Promise<Composed>

/**
 * Crops, turns, mirrors, scales and blurs frames in planes: weights are worked out once as long as
 * frames have the same size.
 */
export function frameComposer(track: Shape, order: ComposeOrder): ComposeFrame {
  let shaper: (Size & ReturnType<typeof shaperOf>) | null = null
  let last: I420 | null = null
  return async (frame) => {
    // Means hold nothing of the frame: the next one may lie in the same memory.
    const coded = await planesOfFrame(frame, track, shaper?.isMean ? last : null)
    last = coded
    const { width, height } = coded
    if (shaper?.width !== width || shaper.height !== height)
      shaper = { width, height, ...shaperOf(coded, track.rotationDeg, order) }
    const known = frame.format === 'I420' || frame.format === 'NV12'
    return {
      picture: shaper.shape(coded),
      colour: known && frame.colorSpace.matrix ? frame.colorSpace.toJSON() : LIMITED_BT709,
      kind: kindOfFrame(frame),
    }
  }
}

/** A composed picture as a frame for an encoder or a canvas. */
export function frameOf(
  { picture, colour }: Pick<Composed, 'picture' | 'colour'>,
  timestampUs: number,
  durationUs = 0,
): VideoFrame {
  return new VideoFrame(picture.data, {
    format: 'I420',
    codedWidth: picture.width,
    codedHeight: picture.height,
    timestamp: timestampUs,
    duration: durationUs,
    colorSpace: colour,
  })
}
