/** The formats that clips are delivered in, the finest for its bytes first. */
export const FAMILIES = ['av1', 'vp9', 'h264'] as const
export type Family = (typeof FAMILIES)[number]
