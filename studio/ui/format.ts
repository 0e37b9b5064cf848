/** Bytes as kB, MB or GB (powers of ten, as hosts count), with unit. */
export function formatBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  if (bytes < 1_000_000) return `${Math.round(bytes / 1000)} kB`
  if (bytes >= 1_000_000_000) return `${Math.round(bytes / 100_000_000) / 10} GB`
  return `${(bytes / 1_000_000).toFixed(bytes < 10_000_000 ? 2 : 1)} MB`
}

/** Bytes as a plain number of MB with two decimals. */
export function megabytes(bytes: number): string {
  return (bytes / 1_000_000).toFixed(2)
}

/** Kilobytes as a figure whose unit stands beside it. */
export function kilobytes(bytes: number): string {
  const value = bytes / 1000
  return value.toFixed(value < 10 ? 1 : 0)
}

/** How long something is likely to take, in words a person reads. */
export function formatDuration(seconds: number): string {
  if (seconds < 1.5) return 'about a second'
  return seconds < 90 ? `about ${Math.round(seconds)} s` : `about ${Math.round(seconds / 60)} min`
}

/** Seconds left in words a person reads. */
export function formatLeft(seconds: number): string {
  if (!Number.isFinite(seconds)) return 'time left unknown'
  if (seconds < 1.5) return 'about a second left'
  if (seconds < 90) return `${Math.round(seconds)} s left`
  return `${Math.round(seconds / 60)} min left`
}

/** A rate of frames a second, short. */
export function formatFps(fps: number): string {
  return String(Math.round(fps * 100) / 100)
}

/** What a render worker does before and after the passes of a file. */
export const STEP_NAMES = {
  sources: 'fetching sources',
  frames: 'composing frames',
  probe: 'short encodes first',
  storing: 'storing',
} as const

/** Formats of pictures by their names. */
export const PICTURE_NAMES = { avif: 'AVIF', webp: 'WebP', jpeg: 'JPEG', svg: 'SVG' } as const
/** Formats of clips by their names. */
export const FORMAT_NAMES = { av1: 'AV1', vp9: 'VP9', h264: 'H.264' } as const

/** A day, as the designer's machine writes it. */
export function formatDate(iso: string): string {
  return new Date(iso).toLocaleDateString([], { day: 'numeric', month: 'short', year: 'numeric' })
}

/** A time of day with seconds. */
export function formatTime(iso: string): string {
  return new Date(iso).toLocaleTimeString([], {
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
}
