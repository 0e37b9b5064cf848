import type { ClipRecipe } from '../../core/backdrop/recipe'
import { momentAt, cutFrames } from '../../core/loop/framePlan'
import { pickPosters, type PosterCandidate, type PosterReason } from '../../core/loop/pickPosters'
import { measureDetail } from '../../core/picture/detail'
import { describeI420 } from '../../core/picture/describeI420'
import { planesOf, type Plane } from '../../core/picture/I420'
import { regionOf, type ShareRect } from '../../core/picture/pictureShape'
import { composedFrames } from './composedFrames'
import { frameOf } from './composeFrame'
import type { OpenClip } from './OpenClip'

/** Frames of the cut that are looked at. */
const LOOKED_AT = 24

/** A frame offered as the poster. */
export interface OfferedPoster {
  readonly reason: PosterReason
  readonly ticks: number
  readonly timescale: number
  readonly picture: ImageBitmap
}

/**
 * Frames of the cut that would make good posters, with pictures at the recipe's size. `copy` is
 * where words lie on the picture. Errors: those of decoding.
 */
export async function posterCandidates(
  clip: OpenClip,
  recipe: ClipRecipe,
  copy: ShareRect | null,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<OfferedPoster[]> {
  const { presentation } = clip
  const count = cutFrames(recipe)
  const some = Math.min(LOOKED_AT, count)
  const moments = Array.from({ length: some }, (_, index) => ({
    ...momentAt(
      { ...recipe, blendFrames: false },
      presentation,
      Math.floor((index * count) / some),
    ),
  }))
  const candidates: (PosterCandidate & { frame: number; picture: ImageBitmap })[] = []
  for await (const composed of composedFrames(
    clip,
    recipe,
    moments.map((show) => ({ show, under: null, weight: 1 })),
    signal,
  )) {
    const { picture } = composed
    const { frame } = moments[candidates.length]!
    const shown = frameOf(composed, 0)
    const bitmap = await createImageBitmap(shown)
    shown.close()
    candidates.push({
      frame,
      picture: bitmap,
      seconds: presentation.times[frame]! / presentation.timescale,
      sharpness: measureDetail(planesOf(picture)[0]).sharpness,
      unrest: deviation(planesOf(picture)[0], copy ?? { x: 0, y: 0, width: 1, height: 1 }),
      cells: describeI420(picture),
    })
    onProgress(candidates.length / some)
  }
  const picked = pickPosters(candidates)
  const used = new Set(picked.map(({ index }) => index))
  candidates.forEach(({ picture }, index) => used.has(index) || picture.close())
  return picked.map(({ reason, index }) => ({
    reason,
    ticks: presentation.times[candidates[index]!.frame]!,
    timescale: presentation.timescale,
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
