import { z } from 'zod'
import { colorSchema, text } from '../bounded'
import { familySchema } from '../brand/Brand'
import { lettersSchema } from './letters'
import { hrefSchema, WORD_LIMITS } from './Words'

/** Longest texts of the parts that only some copy has, in UTF-16 units. */
export const PART_LIMITS = { footer: 300, more: 3 } as const

/** Mean width of a letter of a text, in ems: measured on the stage's typeface. */
export const LETTER_EM = 0.5

/** How the copy is set, against the usual. */
export const copyTypeSchema = z.object({
  /** Typefaces of heading and of texts; null for those of the page that it stands on. */
  headingFamily: familySchema.nullable(),
  bodyFamily: familySchema.nullable(),
  /** Size of the heading, in times of the usual. */
  headingSize: z.number().min(0.5).max(1.6),
  headingWeight: z.int().min(300).max(900),
  /** Size of the text, in times of the usual. */
  bodySize: z.number().min(0.75).max(1.6),
  bodyWeight: z.int().min(300).max(800),
  /** Longest line of the text, in letters of mean width (half an em). */
  lineLetters: z.int().min(20).max(90),
})
export type CopyType = z.infer<typeof copyTypeSchema>

/** What a link says and where it leads. */
const linkSchema = z.object({ label: text(WORD_LIMITS.label), href: hrefSchema })
export type CopyLink = z.infer<typeof linkSchema>

/** The parts of a copy that not every copy has. */
export const copyPartsSchema = z.object({
  type: copyTypeSchema,
  /** Null for letters with nothing around them. */
  letters: lettersSchema.nullable(),
  /** Whether a thin line stands between heading and text. */
  rule: z.boolean(),
  /** Texts after the first. */
  more: z.array(text(WORD_LIMITS.body)).max(PART_LIMITS.more),
  /** A second button, which is only outlined. */
  second: linkSchema.nullable(),
  /** A link at the region's end that leads to what follows it. */
  onward: linkSchema.nullable(),
  /** A line at the region's end. */
  footer: text(PART_LIMITS.footer).nullable(),
  /** The page's header in front of the region; null where it scrolls away with it. */
  solidHeader: z.object({ color: colorSchema }).nullable(),
})
export type CopyParts = z.infer<typeof copyPartsSchema>

/** As copy is set that nobody has decided about. */
export const FIRST_TYPE: CopyType = {
  headingFamily: null,
  bodyFamily: null,
  headingSize: 1,
  headingWeight: 700,
  bodySize: 1,
  bodyWeight: 400,
  lineLetters: 57,
}

/** A copy of a heading, one text and one button. */
export const FIRST_PARTS: CopyParts = {
  type: FIRST_TYPE,
  letters: null,
  rule: false,
  more: [],
  second: null,
  onward: null,
  footer: null,
  solidHeader: null,
}
