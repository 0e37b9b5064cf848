import type { StillFile } from './StillFile'

/** The MIME type of a still's format. */
export function mimeOf(format: StillFile['format']): string {
  return format === 'svg' ? 'image/svg+xml' : `image/${format}`
}
