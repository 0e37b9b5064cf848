import { decodedImage } from './OpenStill'

/** The pictures at some addresses; one that cannot be decoded is left out, as on a page. */
export const decodedSprites = (
  addresses: readonly string[],
): Promise<(ImageBitmap | undefined)[]> =>
  Promise.all(
    addresses.map(async (address) =>
      decodedImage(await (await fetch(address)).blob()).catch(() => undefined),
    ),
  )
