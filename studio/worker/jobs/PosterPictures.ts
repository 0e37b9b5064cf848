import type { PosterRecipe } from '../../../core/backdrop/recipe'
import { sequenceKey } from '../../../core/kinds/Sequence'
import type { Composed } from '../compose/composeFrame'

/** The planes of all slides of the longest slideshow on laptops. */
const MAX_HELD_BYTES = 96_000_000

/** What a composed picture depends on; `moment` where it is not its first frame. */
export function pictureKey(
  {
    sequence,
    width,
    height,
    copyBlur,
  }: Pick<PosterRecipe, 'sequence' | 'width' | 'height' | 'copyBlur'>,
  moment: unknown = null,
): string {
  return JSON.stringify([sequenceKey(sequence), width, height, copyBlur, moment])
}

const bytesOf = ({ picture }: Composed): number => picture.data.byteLength

/** The last composed pictures: the formats of a poster, and slides that share bytes, use them. */
export class PosterPictures {
  private readonly held = new Map<string, Composed>()

  /** The picture of a key: made now, or kept from before. */
  async find(key: string, make: () => Promise<Composed>): Promise<Composed> {
    const picture = this.held.get(key) ?? (await make())
    // The one that was used last goes last.
    this.held.delete(key)
    this.held.set(key, picture)
    let bytes = [...this.held.values()].reduce((sum, each) => sum + bytesOf(each), 0)
    for (const [oldest, each] of this.held) {
      if (bytes <= MAX_HELD_BYTES || oldest === key) break
      this.held.delete(oldest)
      bytes -= bytesOf(each)
    }
    return picture
  }
}
