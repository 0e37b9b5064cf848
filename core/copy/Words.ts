import { z } from 'zod'
import { text } from '../bounded'

/** A link that cannot run code: nothing, a fragment, a path, or a web or mail address. */
const TARGET = /^(#|\/|\.\/|https?:\/\/|mailto:|tel:)|^$/i
export const hrefSchema = text(500).regex(TARGET, 'A target begins with #, / or https://.')
/** Whether a text can be a link's target. */
export const isTarget = (value: string): boolean => hrefSchema.safeParse(value).success

/** Longest words of each kind, in UTF-16 units. */
export const WORD_LIMITS = { heading: 200, body: 500, label: 60 } as const

/** What stands in front of a backdrop: a heading, a text and a button. */
export const wordsSchema = z.object({
  heading: text(WORD_LIMITS.heading),
  body: text(WORD_LIMITS.body),
  button: z.object({ label: text(WORD_LIMITS.label), href: hrefSchema }),
})
export type Words = z.infer<typeof wordsSchema>

/** A change of some of them. */
export type WordsChange = Partial<Omit<Words, 'button'>> & {
  readonly button?: Partial<Words['button']>
}

/** Words that are shown while some of several pictures are. */
export interface WordsInTurn {
  /** What their kind knows them by; null for those of the backdrop. */
  readonly id: number | null
  /** Null for those of the backdrop. */
  readonly words: Words | null
  /** The pictures they belong to, by their places. */
  readonly slides: readonly number[]
}
