/**
 * What motion by style costs a visitor's processor, relative to a playing clip of 1280 × 720 in
 * H.264: measured without a graphics processor, where it costs most (`npm run bench -- --played`,
 * 2026-11-28, Debian's Chromium; docs/paint.md).
 */
export const PLAYED_COST = {
  angle: 0.9,
  centre: 0.71,
  stops: 0.75,
  pan: 1.43,
} as const

/** The same in words. */
export function playedCostWords(motion: keyof typeof PLAYED_COST): string {
  return `About ${PLAYED_COST[motion].toFixed(1)} times the processor time of a playing clip of 1280 × 720 where there is no graphics processor; next to nothing where there is one.`
}
