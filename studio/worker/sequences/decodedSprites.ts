import type { Definition } from '../../../core/particles/Definition'
import { spritesOf } from '../../../core/particles/prepare'
import { decodedImage } from './OpenStill'

/** The pictures of a definition's sprites. Errors: `work/decode-failed`. */
export const decodedSprites = (definition: Definition): Promise<ImageBitmap[]> =>
  Promise.all(
    spritesOf(definition).map(async (address) => decodedImage(await (await fetch(address)).blob())),
  )
