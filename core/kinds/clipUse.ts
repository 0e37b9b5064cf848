import type { PictureUse } from './Kind'

/** How the posters of clips are made; of a small budget they take a share, the clip the rest. */
export const CLIP_PICTURES: PictureUse = {
  densities: [1],
  budgetShare: 0.4,
  width: null,
  fills: 'region',
  placed: true,
  chosen: true,
}

/**
 * Maximum bytes of markup, style and script of a clip over its poster, compressed as a server sends
 * them. A test compares them with the real files.
 */
export const CLIP_BYTES = { markup: 1_000, style: 2_100, script: 1_900 } as const
