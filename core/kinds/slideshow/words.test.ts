import { describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { reduce, type BackdropAction } from '../../backdrop/reduce'
import { withoutWords, writeWords } from '../../backdrop/writeWords'
import { inventBackdrop, SAMPLE_SOURCE_ID } from '../../testing/samples'
import { wordsOf } from '..'
import { WORD_LIMITS, type Words } from '../../copy/Words'
import { createSlideshow, type Slideshow } from './Slideshow'

const WORDS: Words = { heading: 'By day', body: 'Text', button: { label: 'Go', href: '/day' } }
const plain: BackdropDocument = {
  ...inventBackdrop(),
  base: createSlideshow(Array.from({ length: 4 }, () => SAMPLE_SOURCE_ID)),
}
const after = (document: BackdropDocument, ...actions: (BackdropAction | null)[]) =>
  actions.reduce<BackdropDocument>((now, action) => reduce(now, action!), document)
const own = (id: number): BackdropAction => ({
  type: 'slides/set',
  id,
  slide: { words: WORDS },
})
const slidesOf = (document: BackdropDocument) => (document.base as Slideshow).slides

describe('words in front of slides', () => {
  it('are the backdrop’s where none has its own, or where it is a clip', () => {
    expect(wordsOf(plain.base)).toEqual([])
    const clip = after(plain, own(2), { type: 'slides/shared', slides: { delivery: 'clip' } })
    expect(wordsOf(clip.base)).toEqual([])
    expect(wordsOf(inventBackdrop().base)).toEqual([])
  })
  it('come once each, in the order of their slides', () => {
    expect(wordsOf(after(plain, own(2), own(4)).base)).toEqual([
      { id: null, words: null, slides: [0, 2] },
      { id: 2, words: WORDS, slides: [1] },
      { id: 4, words: WORDS, slides: [3] },
    ])
    expect(wordsOf(after(plain, own(1)).base).map(({ id }) => id)).toEqual([1, null])
  })
  it('are written place by place, and only where a slide has its own', () => {
    const document = after(plain, own(2))
    const written = after(
      document,
      writeWords(document, 2, { heading: 'By night' }),
      writeWords(document, 2, { button: { href: '/night' } }),
    )
    expect(slidesOf(written)[1]!.words).toEqual({
      heading: 'By night',
      body: 'Text',
      button: { label: 'Go', href: '/night' },
    })
    expect(after(document, writeWords(document, 3, { heading: 'No' }))).toBe(document)
    expect(writeWords(document, 99, { heading: 'No' })).toBeNull()
    expect(writeWords(inventBackdrop(), 1, { heading: 'No' })).toBeNull()
  })
  it('are those of the backdrop where no slide is named', () => {
    const { copy } = after(
      plain,
      writeWords(plain, null, { heading: 'All' }),
      writeWords(plain, null, { body: 'Body' }),
      writeWords(plain, null, { button: { label: 'Press' } }),
    )
    expect([copy.heading, copy.body, copy.button]).toEqual([
      'All',
      'Body',
      { label: 'Press', href: plain.copy.button.href },
    ])
  })
  it('are cut where they are too long, never within a character', () => {
    const document = after(plain, own(2))
    const long = 'a'.repeat(WORD_LIMITS.heading - 1) + '😀'
    const written = after(document, writeWords(document, 2, { heading: long }))
    expect(slidesOf(written)[1]!.words!.heading).toBe('a'.repeat(WORD_LIMITS.heading - 1))
  })
  it('can be taken out of a document, which keeps their places', () => {
    const document = after(plain, own(2))
    const blank = withoutWords(document)
    expect(wordsOf(blank.base).map(({ id, slides }) => [id, slides])).toEqual(
      wordsOf(document.base).map(({ id, slides }) => [id, slides]),
    )
    expect(JSON.stringify([blank.copy, blank.base])).not.toContain('By day')
    // Writing in them changes nothing else.
    const written = after(document, writeWords(document, 2, { heading: 'By night' }))
    expect(withoutWords(written)).toEqual(blank)
  })
})
