import {
  pickPosters,
  type PosterCandidate,
  type PosterReason,
} from '../../../core/loop/pickPosters'
import { describeI420 } from '../../../core/picture/describeI420'
import { measureDetail } from '../../../core/picture/detail'
import { planesOf, type Plane } from '../../../core/picture/I420'
import { regionOf, type ShareRect } from '../../../core/picture/pictureShape'
import { frameOf } from '../compose/composeFrame'
import type { OpenSequence, PictureOrder, PosterMoment } from '../sequences/OpenSequence'

/** Moments of the loop that are looked at. */
const LOOKED_AT = 24

/** A frame offered as the poster. */
export interface OfferedPoster extends PosterMoment {
  readonly reason: PosterReason
  readonly picture: ImageBitmap
}

/**
 * Moments of the loop that would make good posters, with pictures at the ordered size. `copy` is
 * where words lie on the picture. Errors: those of decoding.
 */
export async function posterCandidates(
  open: OpenSequence,
  order: PictureOrder,
  copy: ShareRect | null,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<OfferedPoster[]> {
  const moments = open.posterMoments(LOOKED_AT)
  const candidates: (PosterCandidate & { picture: ImageBitmap })[] = []
  for await (const composed of open.atMoments(moments, order, signal)) {
    const { ticks, timescale } = moments[candidates.length]!
    const { picture } = composed
    const shown = frameOf(composed, 0)
    const bitmap = await createImageBitmap(shown)
    shown.close()
    candidates.push({
      picture: bitmap,
      seconds: ticks / timescale,
      sharpness: measureDetail(planesOf(picture)[0]).sharpness,
      unrest: deviation(planesOf(picture)[0], copy ?? { x: 0, y: 0, width: 1, height: 1 }),
      cells: describeI420(picture),
    })
    onProgress(candidates.length / moments.length)
  }
  const picked = pickPosters(candidates)
  const used = new Set(picked.map(({ index }) => index))
  candidates.forEach(({ picture }, index) => used.has(index) || picture.close())
  return picked.map(({ reason, index }) => ({
    reason,
    ...moments[index]!,
    picture: candidates[index]!.picture,
  }))
}

/** Standard deviation of the luma in a part of a picture. */
function deviation(luma: Plane, part: ShareRect): number {
  const region = regionOf(part, luma)
  let [sum, squares] = [0, 0]
  for (let y = region.y; y < region.y + region.height; y++) {
    for (let x = region.x; x < region.x + region.width; x++) {
      const value = luma.data[y * luma.width + x]!
      sum += value
      squares += value * value
    }
  }
  const count = region.width * region.height
  return Math.sqrt(Math.max(0, squares / count - (sum / count) ** 2))
}
