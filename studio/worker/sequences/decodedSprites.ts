import type { Definition } from '../../../core/particles/Definition'
import { spritesOf } from '../../../core/particles/prepare'
import { decodedImage } from './OpenStill'

/**
 * The pictures of a definition's sprites, in their order; one that cannot be decoded is left out,
 * as on a page.
 */
export const decodedSprites = (definition: Definition): Promise<(ImageBitmap | undefined)[]> =>
  Promise.all(
    spritesOf(definition).map(async (address) =>
      decodedImage(await (await fetch(address)).blob()).catch(() => undefined),
    ),
  )
