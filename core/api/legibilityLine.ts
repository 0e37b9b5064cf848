import { z } from 'zod'
import { SCREEN_NAMES, type ScreenName } from '../fit/screens'
import { isEnough, worstOfAll, type WorstMoment } from '../legibility/worstOf'

const textSchema = z.object({
  text: z.string().describe('What it is: brand, links, heading, text, button and so on.'),
  screen: z.enum(SCREEN_NAMES as [ScreenName, ...ScreenName[]]),
  ratio: z.number().describe('The worst contrast (WCAG 2.2), 1 to 21.'),
  needed: z.number().describe('What it needs by its size.'),
  seconds: z.number().describe('When, in the loop.'),
  place: z.object({ x: z.number(), y: z.number() }).describe('Where, in CSS pixels of the region.'),
})

/** One line of `telon legibility`. */
export const legibilityLineSchema = z.object({
  file: z.string().describe('The path as it was given.'),
  texts: z.array(textSchema).describe('Each text on each screen.').optional(),
  worst: textSchema
    .nullable()
    .describe('The one farthest from what it needs; null without copy.')
    .optional(),
  passes: z.boolean().describe('Whether all have what they need.').optional(),
  error: z.object({ code: z.string(), message: z.string() }).optional(),
})
export type LegibilityLine = z.infer<typeof legibilityLineSchema>

const round = (value: number): number => Math.round(value * 1000) / 1000

const textOf = ({ text, screen, ratio, seconds, x, y }: WorstMoment) => ({
  text: text.label.toLowerCase(),
  screen,
  ratio: round(ratio),
  needed: text.needed,
  seconds: round(seconds),
  place: { x: Math.round(x), y: Math.round(y) },
})

/** Whether all copy has what it needs. */
export const passes = (worst: readonly WorstMoment[]): boolean =>
  worst.every(({ ratio, text }) => isEnough(ratio, text.needed))

/** What was measured of a file as its line. */
export function legibilityLineOf(file: string, worst: readonly WorstMoment[]): LegibilityLine {
  const least = worstOfAll(worst)
  return {
    file,
    texts: worst.map(textOf),
    worst: least && textOf(least),
    passes: passes(worst),
  }
}

/** The JSON Schema of a line. */
export function legibilityJsonSchema(): Record<string, unknown> {
  return { title: 'A line of telon legibility', ...z.toJSONSchema(legibilityLineSchema) }
}
