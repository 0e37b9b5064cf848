import { z } from 'zod'
import { DEFAULT_BUDGETS, FIRST_DECISIONS } from '../backdrop/BackdropDocument'
import { text } from '../bounded'
import { BRAND_LIMITS, brandColorSchema, mergedBrand, typefaceSchema } from '../brand/Brand'
import { CLASS_SCREENS } from '../fit/screens'
import { paintSchema } from '../kinds/paint/Paint'
import { SUPPORT, supportSchema } from '../weight/support'

const bytes = z
  .int('A budget is a whole number of bytes.')
  .min(20_000, 'A budget is at least 20 kB.')
  .max(200_000_000)

const screen = z.object({
  width: z.int().min(240, 'A window is at least 240 pixels wide.').max(8000),
  height: z.int().min(240, 'A window is at least 240 pixels high.').max(8000),
  density: z.number().min(0.5, 'Half a device pixel for each CSS pixel is the least.').max(4),
})

/** Colours or typefaces that are sent at once at most. */
const MAX_SENT = 5000

/** Paints that a project keeps at most. */
export const MAX_PAINTS = 24

const budgetsSchema = z.object({ phone: bytes, laptop: bytes, wide: bytes })
const breakpointsSchema = z
  .object({ phone: z.int().min(320).max(3000), laptop: z.int().min(400).max(4000) })
  .refine(({ phone, laptop }) => phone < laptop, 'Laptop windows are wider than phone windows.')
const screensSchema = z.object({ phone: screen, laptop: screen, wide: screen })
const colorsSchema = z.array(brandColorSchema)
const typefacesSchema = z.array(typefaceSchema)
const savedPaintSchema = z.object({
  name: text(60).trim().min(1, 'A name is needed.'),
  paint: paintSchema,
})

/**
 * What a project sets for all its backdrops; what it leaves out has Telon's default. New backdrops
 * start with it.
 */
export const settingsSchema = z.object({
  /** Bytes of a first visit by screen class. */
  budgets: budgetsSchema.default(() => ({ ...DEFAULT_BUDGETS })),
  /** The widest windows, in CSS pixels, that count as phone and as laptop. */
  breakpoints: breakpointsSchema.default(() => ({ ...FIRST_DECISIONS.weight.breakpoints })),
  /**
   * The largest common window of each class, for which its files are made, and how many device
   * pixels each of its CSS pixels gets.
   */
  screens: screensSchema.default(() => structuredClone(CLASS_SCREENS)),
  /** Paints to take again, in the order in which they were saved. */
  paints: z.array(savedPaintSchema).default(() => []),
  /** Colours and typefaces of the brand, in the order in which they were saved. */
  colors: colorsSchema.default(() => []),
  typefaces: typefacesSchema.default(() => []),
  /** Which engines play which format. */
  support: supportSchema.default(() => SUPPORT),
})

export type ProjectSettings = z.infer<typeof settingsSchema>

/**
 * A change of them: only what it names, so that two tabs that change different things keep both. A
 * paint, a colour or a typeface is saved under its name, in place of one that has it.
 */
export const settingsChangeSchema = z.strictObject({
  budgets: budgetsSchema.optional(),
  breakpoints: breakpointsSchema.optional(),
  screens: screensSchema.optional(),
  support: supportSchema.optional(),
  savePaint: savedPaintSchema.optional(),
  /** The name of a paint. */
  deletePaint: text(60).optional(),
  /** Several at once: an import is taken whole or not at all. */
  saveBrand: z
    .object({
      // More than is kept: that it is too many is told by the one who keeps them.
      colors: colorsSchema.max(MAX_SENT),
      typefaces: typefacesSchema.max(MAX_SENT),
    })
    .optional(),
  /** The names of colours and typefaces. */
  deleteColor: text(BRAND_LIMITS.name).optional(),
  deleteTypeface: text(BRAND_LIMITS.name).optional(),
  /** Locks a colour by its name, or unlocks it. */
  lockColor: z.object({ name: text(BRAND_LIMITS.name), isLocked: z.boolean() }).optional(),
})

export type SettingsChange = z.infer<typeof settingsChangeSchema>

/** Settings after a change; `MAX_PAINTS` and `BRAND_LIMITS` are for the caller to hold. */
export function changedSettings(
  settings: ProjectSettings,
  {
    savePaint,
    deletePaint,
    saveBrand,
    deleteColor,
    deleteTypeface,
    lockColor,
    ...fields
  }: SettingsChange,
): ProjectSettings {
  const gone = [savePaint?.name, deletePaint]
  const paints = settings.paints.filter(({ name }) => !gone.includes(name))
  const { colors, typefaces } = mergedBrand(settings, saveBrand ?? { colors: [], typefaces: [] })
  return {
    ...settings,
    ...fields,
    paints: savePaint ? [...paints, savePaint] : paints,
    colors: colors
      .filter(({ name }) => name !== deleteColor)
      .map((each) =>
        each.name === lockColor?.name ? { ...each, isLocked: lockColor.isLocked } : each,
      ),
    typefaces: typefaces.filter(({ name }) => name !== deleteTypeface),
  }
}
