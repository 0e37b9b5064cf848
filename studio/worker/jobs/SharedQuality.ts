import type { PosterRecipe, SharedPicture } from '../../../core/backdrop/recipe'
import { sequenceKey } from '../../../core/kinds/Sequence'
import { searchQuality } from '../../../core/weight/searchQuality'
import { ownLimit, shareBytes } from '../../../core/weight/shareBytes'
import { GOAL, posterWriter, type PosterWriter, type WrittenPoster } from '../encode/posterWriter'
import { openImage } from '../sequences/OpenStill'
import { placeIn, type Places } from '../sources'
import { pictureKey, type PosterPictures } from './PosterPictures'

/** Steps of quality that are compared: neighbours differ by about a sixth of their bytes. */
const LADDER_STEPS = [1, 4, 7, 10, 13, 16, 19, 22, 25, 28, 31]

/** One of the pictures that share bytes, in a format. */
type FormattedPicture = SharedPicture & Pick<PosterRecipe, 'format' | 'encoder'>

/** What a picture became at the qualities that were tried: each is written once. */
class PictureTries {
  private readonly written = new Map<number, Promise<WrittenPoster>>()
  private readonly picture: FormattedPicture
  private readonly places: Places
  private readonly pictures: PosterPictures

  constructor(picture: FormattedPicture, places: Places, pictures: PosterPictures) {
    this.picture = picture
    this.places = places
    this.pictures = pictures
  }

  /** The coarsest that is as good as it can be seen, or the finest that fits. */
  enough(maxBytes: number, near: number | undefined, signal: AbortSignal): Promise<WrittenPoster> {
    const goal = { ...GOAL, maxBytes, ...(near !== undefined && { near }) }
    return this.open(signal, (write) => searchQuality(write, goal))
  }

  /** Several qualities, coarsest first, up to what is good enough or too heavy. */
  ladder(maxBytes: number, signal: AbortSignal): Promise<WrittenPoster[]> {
    return this.open(signal, async (write) => {
      const tries: WrittenPoster[] = []
      for (const step of LADDER_STEPS) {
        const each = await write(step)
        if (tries.length > 0 && each.bytes > maxBytes) break
        tries.push(each)
        if (each.ssim >= GOAL.enoughSsim) break
      }
      return tries
    })
  }

  private async open<T>(
    signal: AbortSignal,
    act: (write: PosterWriter['write']) => Promise<T>,
  ): Promise<T> {
    let writer: PosterWriter | null = null
    const started = async (): Promise<PosterWriter> => {
      const { sequence } = this.picture
      const shown = await this.pictures.find(pictureKey(this.picture), async () => {
        const open = await openImage(sequence, placeIn(this.places, sequence.sourceSha256))
        for await (const { picture, colour, kind } of open.composed([0], this.picture, signal))
          return { picture, colour, kind }
        throw new Error('a still has a frame')
      })
      return posterWriter(shown, this.picture, signal)
    }
    try {
      return await act(async (step) => {
        const known = this.written.get(step)
        if (known) return known
        writer ??= await started()
        const made = writer.write(step)
        this.written.set(step, made)
        made.catch(() => this.written.delete(step))
        return made
      })
    } finally {
      ;(writer as PosterWriter | null)?.close()
    }
  }
}

/**
 * Chooses the qualities of pictures that share bytes, so that the worst of them looks as good as
 * possible. What was tried for one of them is kept for the others.
 */
export class SharedQuality {
  private readonly tries = new Map<string, PictureTries>()
  private readonly pictures: PosterPictures

  constructor(pictures: PosterPictures) {
    this.pictures = pictures
  }

  /** The file of the picture that a recipe is for; the coarsest where even that is too heavy. */
  async choose(
    { shared, format, encoder }: PosterRecipe,
    places: Places,
    signal: AbortSignal,
    onDone: (done: number) => void,
  ): Promise<WrittenPoster> {
    const { pictures, budgets, index } = shared!
    const limits = pictures.map((_, place) => ownLimit(budgets, place))
    const all = pictures.map((picture) => this.triesOf({ ...picture, format, encoder }, places))
    const best: WrittenPoster[] = []
    for (const [place, tries] of all.entries()) {
      // Photographs of one set need about the same quality.
      best.push(await tries.enough(limits[place]!, best.at(-1)?.step, signal))
      onDone(best.length / (2 * all.length + 1))
    }
    // Where all are as good as they can be, and fit, there is nothing to share.
    if (
      shareBytes(
        best.map((each) => [each]),
        budgets,
      )
    )
      return best[index]!
    const ladders: WrittenPoster[][] = []
    for (const [place, tries] of all.entries()) {
      ladders.push([...(await tries.ladder(limits[place]!, signal)), best[place]!])
      onDone((all.length + ladders.length) / (2 * all.length + 1))
    }
    return shareBytes(ladders, budgets)?.[index] ?? ladders[index]![0]!
  }

  private triesOf(picture: FormattedPicture, places: Places): PictureTries {
    const { sequence, width, height, copyBlur, format, encoder } = picture
    const key = JSON.stringify([sequenceKey(sequence), width, height, copyBlur, format, encoder])
    const known = this.tries.get(key)
    if (known) return known
    const made = new PictureTries(picture, places, this.pictures)
    this.tries.set(key, made)
    // Files of several slideshows would fill memory.
    for (const oldest of this.tries.keys())
      if (this.tries.size > MAX_TRIES) this.tries.delete(oldest)
    return made
  }
}
/** Pictures of the longest slideshow in all classes and formats. */
const MAX_TRIES = 24 * 3 * 3
