import { linearFromSrgb } from '../picture/srgb'

/** Steps of a channel: eighths of a byte are finer than any screen shows. */
const STEPS = 8

const linear = Float32Array.from({ length: 255 * STEPS + 1 }, (_, step) =>
  linearFromSrgb(step / STEPS),
)

/** Relative luminance of channels from 0 to 255, by a table. Source: WCAG 2.2. */
export const tableLuminance = (r: number, g: number, b: number): number =>
  0.2126 * linear[(r * STEPS + 0.5) | 0]! +
  0.7152 * linear[(g * STEPS + 0.5) | 0]! +
  0.0722 * linear[(b * STEPS + 0.5) | 0]!
