import { cutText } from '../bounded'
import { kindOf } from '../kinds'
import { PART_LIMITS } from '../copy/copyParts'
import { WORD_LIMITS, type Words } from '../copy/Words'
import type { BackdropDocument } from './BackdropDocument'
import { reduce } from './reduce'
import { writeWords } from './writeWords'

/** Lengths of copy that are tried: a page's words change, and translations are longer. */
export type TrialLength = 'short' | 'long'

/** Words of the short copy, and letters of the long one. */
const TRIAL = {
  heading: { words: 1, letters: 110 },
  body: { words: 3, letters: 420 },
  label: { words: 1, letters: 36 },
  footer: { words: 3, letters: 200 },
} as const

/**
 * A document with very short or very long words of its own language, everything else as it is: what
 * is written is cut after its first words, or repeated. What is empty stays so.
 */
export function trialCopy(document: BackdropDocument, length: TrialLength): BackdropDocument {
  const { base, copy, handoff } = document
  const tried = (text: string, part: keyof typeof TRIAL, limit: number): string =>
    length === 'short'
      ? firstWords(text, TRIAL[part].words, handoff.lang)
      : repeated(text, Math.min(limit, TRIAL[part].letters))
  const words = ({ heading, body, button }: Words): Words => ({
    heading: tried(heading, 'heading', WORD_LIMITS.heading),
    body: tried(body, 'body', WORD_LIMITS.body),
    button: { ...button, label: tried(button.label, 'label', WORD_LIMITS.label) },
  })
  const link = <T extends { readonly label: string }>(given: T | null): T | null =>
    given && { ...given, label: tried(given.label, 'label', WORD_LIMITS.label) }
  const own: BackdropDocument = {
    ...document,
    copy: {
      ...copy,
      ...words(copy),
      more: copy.more.map((text) => tried(text, 'body', WORD_LIMITS.body)),
      second: link(copy.second),
      onward: link(copy.onward),
      footer: copy.footer === null ? null : tried(copy.footer, 'footer', PART_LIMITS.footer),
    },
  }
  return (kindOf(base).words?.(base) ?? []).reduce((changed, { id, words: given }) => {
    const action = id !== null && given ? writeWords(changed, id, words(given)) : null
    return action ? reduce(changed, action) : changed
  }, own)
}

/** The first words of a text, in languages that write no spaces between them, too. */
function firstWords(text: string, count: number, lang: string): string {
  let seen = 0
  for (const { isWordLike, index, segment } of segmenterOf(lang).segment(text))
    if (isWordLike && ++seen === count) return text.slice(0, index + segment.length)
  return text
}

/** A text again and again, until it has so many letters: whole times of it, or cut at a space. */
function repeated(text: string, letters: number): string {
  const once = text.trim()
  if (once === '' || once.length >= letters) return text
  const long = cutText(`${once} `.repeat(Math.ceil(letters / once.length)), letters)
  const space = long.lastIndexOf(' ')
  return space > letters / 2 ? long.slice(0, space) : long
}

/** A language that nobody knows is divided as any is. */
function segmenterOf(lang: string): Intl.Segmenter {
  try {
    return new Intl.Segmenter(lang, { granularity: 'word' })
  } catch {
    return new Intl.Segmenter(undefined, { granularity: 'word' })
  }
}
