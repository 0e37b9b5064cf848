import type { Definition } from '../../core/particles/Definition'
import type { Images } from '../../core/particles/Painter'
import { spritesOf } from '../../core/particles/prepare'

/** Pictures that were decoded, by their addresses: one that cannot be decoded is null. */
const decoded = new Map<string, Promise<HTMLImageElement | null>>()

async function decode(address: string): Promise<HTMLImageElement | null> {
  const image = new Image()
  image.src = address
  return image.decode().then(
    () => image,
    () => null,
  )
}

/** The pictures of a definition's sprites, in their order; none where one cannot be decoded. */
export async function spriteImages(definition: Pick<Definition, 'shapes'>): Promise<Images> {
  const images: (HTMLImageElement | undefined)[] = []
  for (const address of spritesOf(definition)) {
    if (!decoded.has(address)) decoded.set(address, decode(address))
    images.push((await decoded.get(address)) ?? undefined)
  }
  return images
}
