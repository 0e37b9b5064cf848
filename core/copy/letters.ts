import { z } from 'zod'
import { colorSchema, share } from '../bounded'

/** What letters can have around them. */
export const AROUND = ['outline', 'shadow', 'plate'] as const

/** What the letters of heading, texts, link onward and footer have around them. */
export const lettersSchema = z.object({
  around: z.enum(AROUND),
  color: colorSchema,
  /** Its opacity. Outlines and shadows are drawn several times over each other. */
  strength: share(),
  /**
   * In CSS pixels: how wide an outline is, how far a shadow is blurred, how far a plate reaches.
   */
  size: z.int().min(1).max(24),
})
export type Letters = z.infer<typeof lettersSchema>
export type Around = Letters['around']

interface Sizes {
  readonly first: number
  readonly most: number
}

/** The sizes at which each begins, and the largest: wide outlines close letters. */
export const LETTER_SIZES: Readonly<Record<Around, Sizes>> = {
  outline: { first: 2, most: 4 },
  shadow: { first: 6, most: 24 },
  plate: { first: 8, most: 24 },
}

/** Letters with one of them in a colour, as it begins. */
export const lettersWith = (around: Around, color: string): Letters => ({
  around,
  color,
  strength: 0.8,
  size: LETTER_SIZES[around].first,
})
