import type { ImageFile } from './ImageFile'

/** The MIME type of an image format. */
export function mimeOf(format: ImageFile['format']): string {
  return format === 'svg' ? 'image/svg+xml' : `image/${format}`
}
