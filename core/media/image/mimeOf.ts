import type { ImageFile } from './ImageFile'

/** The MIME type of an image format. */
export function mimeOf<F extends ImageFile['format']>(format: F): MimeOf<F> {
  return (format === 'svg' ? 'image/svg+xml' : `image/${format}`) as MimeOf<F>
}

type MimeOf<F extends string> = F extends 'svg' ? 'image/svg+xml' : `image/${F}`
