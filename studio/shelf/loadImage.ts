import type { Size } from '../../core/fit/cover'
import { mediaUrl } from '../api/client'
import { cleanVector } from '../worker/cleanVector'

/** An image that does not come within so many milliseconds does not come. */
const LATEST_MS = 20_000

/** An image of the shelf, as it is decoded. */
export interface LoadedImage {
  readonly image: CanvasImageSource
  readonly size: Size
}

/**
 * An image of the shelf, ready to be drawn; drawings are cleaned first, and are as large as their
 * facts say. Throws an Error with what to do where it does not come or cannot be decoded.
 */
export async function loadImage(
  sha256: string,
  facts: Size & { readonly format: string },
): Promise<LoadedImage> {
  const file = await imageFile(sha256)
  return decode(facts.format === 'svg' ? await cleanVector(file, facts, null) : file)
}

const imageFile = (sha256: string): Promise<Blob> =>
  fetch(mediaUrl(sha256), { signal: AbortSignal.timeout(LATEST_MS) })
    .then((answer) => (answer.ok ? answer.blob() : Promise.reject(new Error(answer.statusText))))
    .catch((cause: unknown) => {
      throw new Error('The image cannot be loaded from the shelf. Try again.', { cause })
    })

async function decode(file: Blob): Promise<LoadedImage> {
  const url = URL.createObjectURL(file)
  try {
    const image = new Image()
    image.src = url
    await image.decode()
    return { image, size: { width: image.naturalWidth, height: image.naturalHeight } }
  } catch (cause) {
    throw new Error(
      'The image cannot be decoded in this browser. Export it again as PNG or WebP.',
      { cause },
    )
  } finally {
    URL.revokeObjectURL(url)
  }
}
