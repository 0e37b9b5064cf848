import { cutText } from '../bounded'
import { kindOf } from '../kinds'
import { WORD_LIMITS, type WordsChange } from '../copy/Words'
import type { BackdropDocument } from './BackdropDocument'
import { reduce, type BackdropAction } from './reduce'

/**
 * The change that writes the words of a base by their id, or those of the backdrop (null); null
 * where there are no such words. Longer texts are cut.
 */
export function writeWords(
  { base }: Pick<BackdropDocument, 'base'>,
  id: number | null,
  given: WordsChange,
): BackdropAction | null {
  const change = cut(given)
  if (id !== null) return kindOf(base).write?.(base, id, change) ?? null
  const { heading, body, button } = change
  if (button) return { type: 'copy/button', button }
  return heading === undefined
    ? { type: 'copy/write', field: 'body', value: body ?? '' }
    : { type: 'copy/write', field: 'heading', value: heading }
}

function cut({ heading, body, button }: WordsChange): WordsChange {
  return {
    ...(heading !== undefined && { heading: cutText(heading, WORD_LIMITS.heading) }),
    ...(body !== undefined && { body: cutText(body, WORD_LIMITS.body) }),
    ...(button && {
      button: {
        ...button,
        ...(button.label !== undefined && { label: cutText(button.label, WORD_LIMITS.label) }),
      },
    }),
  }
}

/** A document with the same places for words, and nothing in them. */
export function withoutWords(document: BackdropDocument): BackdropDocument {
  const { copy, base } = document
  const blank = { heading: '', body: '', button: { label: '', href: '' } }
  const kind = kindOf(base)
  return (kind.words?.(base) ?? []).reduce(
    (changed, { id }) => {
      const action = id === null ? null : writeWords(changed, id, blank)
      return action ? reduce(changed, action) : changed
    },
    {
      ...document,
      copy: {
        ...copy,
        ...blank,
        brand: '',
        links: copy.links.map(() => ''),
        more: copy.more.map(() => ''),
        second: copy.second && blank.button,
        onward: copy.onward && blank.button,
        footer: copy.footer === null ? null : '',
      },
    },
  )
}
