import { z } from 'zod'
import { colorSchema, text } from '../bounded'

/*
 * Colours and typefaces of a brand: what a project keeps, so that they need not be typed again.
 */

/** What a project keeps at most. */
export const BRAND_LIMITS = { colors: 64, typefaces: 16, name: 60, family: 120 } as const

/** What a name may be made of in a list of families: nothing that would end it in a style sheet. */
const FAMILY = /^[\p{L}\p{N} ._-]+(,[\p{L}\p{N} ._-]+)*$/u

/** Typefaces without quotes, as a style sheet lists them: the first there is, is taken. */
export const familySchema = z
  .string()
  .max(BRAND_LIMITS.family, 'These are too many typefaces.')
  .regex(FAMILY, 'Typefaces are names, with commas between them.')

/** A list of families as a style sheet has it: names that are no single word in quotes. */
export const familyCss = (family: string): string =>
  family
    .split(',')
    .map((each) => each.trim())
    .map((each) => (/^[a-z-]+$/i.test(each) ? each : `"${each}"`))
    .join(', ')

const name = () => text(BRAND_LIMITS.name).trim().min(1, 'A name is needed.')

export const brandColorSchema = z.object({
  name: name(),
  color: colorSchema,
  /** Copy and buttons that have it keep it: no remedy or suggestion takes another one. */
  isLocked: z.boolean(),
})

export const typefaceSchema = z.object({
  name: name(),
  family: familySchema,
  /** 100 to 900; null where none is set. */
  weight: z.int().min(1).max(1000).nullable(),
})

export type BrandColor = z.infer<typeof brandColorSchema>
export type Typeface = z.infer<typeof typefaceSchema>

/** Colours and typefaces. */
export interface Brand {
  readonly colors: readonly BrandColor[]
  readonly typefaces: readonly Typeface[]
}

/** What was found in a text. */
export interface ReadBrand {
  readonly colors: readonly BrandColor[]
  readonly typefaces: readonly Typeface[]
  /** Names of what could not be taken, with why. */
  readonly skipped: readonly { readonly name: string; readonly why: string }[]
}

/** Whether a colour is one of those that must not be replaced. */
export const isLockedColor = (colors: readonly BrandColor[], color: string): boolean =>
  colors.some((each) => each.isLocked && each.color.toLowerCase() === color.toLowerCase())

/**
 * A brand with another's colours and typefaces: they take the place of those with their names. What
 * is locked stays locked.
 */
export function mergedBrand(
  into: Brand,
  from: Brand,
): { readonly colors: BrandColor[]; readonly typefaces: Typeface[] } {
  const locked = new Set(into.colors.filter(({ isLocked }) => isLocked).map(({ name }) => name))
  const colors = from.colors.map((each) => ({
    ...each,
    isLocked: each.isLocked || locked.has(each.name),
  }))
  return {
    colors: replaced(into.colors, colors),
    typefaces: replaced(into.typefaces, from.typefaces),
  }
}

function replaced<T extends { readonly name: string }>(
  kept: readonly T[],
  others: readonly T[],
): T[] {
  const byName = new Map(kept.map((each) => [each.name, each]))
  for (const each of others) byName.set(each.name, each)
  return [...byName.values()]
}
