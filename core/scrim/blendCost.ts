import type { BlendMode } from '../picture/blend'

/**
 * What a playing clip with a layer of a scrim over it takes of a visitor's processor, as a multiple
 * of the clip alone, without a graphics processor. Measured in Chromium at 1280 × 720: `npm run
 * bench -- --played "scrim over"`.
 */
const PLAYED: Readonly<Record<BlendMode, number>> = {
  normal: 1.13,
  multiply: 2.53,
  darken: 2.6,
  screen: 2.63,
  lighten: 2.55,
  overlay: 2.61,
  'soft-light': 3,
  'hard-light': 2.71,
  difference: 2.62,
  exclusion: 2.62,
  color: 3.11,
  saturation: 3.14,
  luminosity: 3.1,
}

/** The same of the clip with a CSS filter: `npm run bench -- --played "filter over"`. */
export const FILTER_COST = 3.3

/** And with a texture that is not blended: `npm run bench -- --played "clip, texture"`. */
export const TEXTURE_COST = 1.33

export const playedCost = (blend: BlendMode): number => PLAYED[blend]
