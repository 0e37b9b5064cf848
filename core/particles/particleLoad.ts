import type { Size } from '../fit/cover'

/*
 * What particles cost a visitor's processor, relative to a playing clip of 1280 × 720 in H.264,
 * without a graphics processor (`npm run bench -- --played particles`, docs/particles.md).
 */

/** What the load is measured against: this style, in this area, with one pixel for each of CSS. */
export const MEASURED_STYLE = 'quiet-snowfall'
export const MEASURED_AREA: Size = { width: 1280, height: 720 }
const MEASURED_RATE = 30

/** A canvas in front of the page, whatever is drawn on it; and the drawing of that style. */
const COMPOSING = 1.5
const DRAWING = 0.31

/**
 * The load of particles in an area of CSS pixels, drawn so many times a second, whose frames take
 * `ratio` times as long as those of the measured style on the same machine.
 */
export function particleLoad(ratio: number, area: Size, frameRate: number): number {
  const pixels = (area.width * area.height) / (MEASURED_AREA.width * MEASURED_AREA.height)
  return ((COMPOSING * pixels + DRAWING * ratio) * frameRate) / MEASURED_RATE
}
