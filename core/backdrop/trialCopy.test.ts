import { describe, expect, it } from 'vitest'
import { createSlideshow } from '../kinds/slideshow/Slideshow'
import { inventBackdrop, reduced as reduce } from '../testing/samples'
import { backdropSchema } from './BackdropDocument'
import type { BackdropAction } from './reduce'
import { trialCopy } from './trialCopy'

const DOCUMENT = inventBackdrop()
const written = (heading: string, lang = 'en') =>
  [
    { type: 'copy/write', field: 'heading', value: heading },
    { type: 'handoff/set', handoff: { lang } },
  ].reduce((document, action) => reduce(document, action as BackdropAction), DOCUMENT)
const headingOf = (heading: string, length: 'short' | 'long', lang?: string): string =>
  trialCopy(written(heading, lang), length).copy.heading

describe('copy of other lengths', () => {
  it.each([
    ['en', 'Night trains, slow mornings', 'Night'],
    ['de', '«Über Nacht» ans Meer', '«Über'],
    ['ja', '夜行列車でゆく朝', '夜行'],
    ['ar', 'قطارات الليل', 'قطارات'],
    ['not-a-language', 'Night trains', 'Night'],
  ])('is short in its own language: %s', (lang, heading, expected) =>
    expect(headingOf(heading, 'short', lang)).toBe(expected),
  )
  it('is long by what is written, whole words of it', () => {
    const long = headingOf('Night trains', 'long')
    expect(long.length).toBeGreaterThan(90)
    expect(long).toMatch(/^(Night trains )+Night( trains)?$/)
    expect(headingOf('夜行列車', 'long', 'ja').length).toBeGreaterThan(90)
  })
  it('stays as it is where it is longer already, or empty', () => {
    const longer = 'word '.repeat(30).trim()
    expect(headingOf(longer, 'long')).toBe(longer)
    expect(headingOf('', 'long')).toBe('')
    expect(headingOf('', 'short')).toBe('')
    expect(headingOf('…', 'short')).toBe('…')
  })
  it('changes words only, in every part and in those of slides, and can be saved', () => {
    const base = createSlideshow([
      '7b1f8c1e-0000-4000-8000-000000000001',
      '7b1f8c1e-0000-4000-8000-000000000002',
    ])
    const words = {
      heading: 'By day',
      body: 'Seats by it',
      button: { label: 'Go there', href: '#' },
    }
    const slides = base.slides.map((slide) => ({ ...slide, words }))
    const link = { label: 'All the routes', href: '/routes' }
    const document = reduce(reduce(DOCUMENT, { type: 'base/set', base: { ...base, slides } }), {
      type: 'copy/parts',
      parts: { more: ['One more text'], second: link, onward: link, footer: 'Runs all the year' },
    })
    const short = trialCopy(document, 'short')
    expect(short.copy).toMatchObject({
      more: ['One more text'],
      second: { label: 'All', href: '/routes' },
      onward: { label: 'All' },
      footer: 'Runs all the',
      color: document.copy.color,
      brand: document.copy.brand,
    })
    expect(short.base).toMatchObject({
      slides: [{ words: { heading: 'By', button: { label: 'Go', href: '#' } } }, {}],
    })
    const long = trialCopy(document, 'long')
    expect(backdropSchema.safeParse(long).success).toBe(true)
    expect({ ...long, base: null, copy: null }).toEqual({ ...document, base: null, copy: null })
  })
})
