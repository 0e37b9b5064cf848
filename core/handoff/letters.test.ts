import { describe, expect, it } from 'vitest'
import { AROUND, LETTER_SIZES, lettersSchema, lettersWith, type Letters } from '../copy/letters'
import type { BackdropAction } from '../backdrop/reduce'
import { BARE, ID } from '../testing/handoffSamples'
import { inventBackdrop, reduced } from '../testing/samples'
import { emitCopyStyle } from './emitStyle'
import { letterRules } from './lettersCss'

const OWN = '[data-tln="k"]'
const letters = (fields: Partial<Letters>): Letters => ({
  ...lettersWith('shadow', '#102030'),
  ...fields,
})
const styleOf = (...actions: BackdropAction[]): string =>
  emitCopyStyle(ID, actions.reduce(reduced, inventBackdrop()), BARE)
const withLetters = (fields: Partial<Letters>): BackdropAction => ({
  type: 'copy/parts',
  parts: { letters: letters(fields) },
})

describe('what letters have around them', () => {
  it.each(AROUND)('begins within what a document may hold: %s', (around) => {
    const first = lettersWith(around, '#102030')
    expect(lettersSchema.parse(first)).toEqual(first)
    expect(first.size).toBeLessThanOrEqual(LETTER_SIZES[around].most)
  })
  it('is nothing where nothing is decided', () => {
    expect(letterRules(OWN, null)).toBe('')
    expect(styleOf()).not.toContain('text-shadow')
  })
  it('is a shadow that is densest at the letters, of all words but those on buttons', () => {
    const style = styleOf(withLetters({ strength: 0.5, size: 8 }))
    const color = 'rgb(16 32 48 / 0.5)'
    expect(style).toContain(
      `:is(.tln-copy, .tln-end) { text-shadow: 0 0 8px ${color}, 0 0 4px ${color}, 0 0 2px ${color}; }`,
    )
    expect(style).toContain('.tln-button:not(.tln-second) { text-shadow: none; }')
  })
  it('is an outline in all directions, and half-way where it is wide', () => {
    const copies = (size: number): string[] =>
      /text-shadow: ([^;]*);/
        .exec(letterRules(OWN, letters({ around: 'outline', size })))![1]!
        .split(/, (?=-?[\d.]+px)/)
    expect(copies(2)).toHaveLength(12)
    expect(copies(4)).toHaveLength(24)
    for (const copy of copies(2)) {
      const [x, y, blur] = copy.match(/-?[\d.]+(?=px|\s)/g)!.map(Number)
      expect(Math.hypot(x!, y!)).toBeCloseTo(2, 2)
      expect(blur).toBe(0)
    }
  })
  it('is a plate as wide as its words, wherever they stand', () => {
    const style = styleOf(withLetters({ around: 'plate', size: 10 }), {
      type: 'copy/place',
      screens: ['phone', 'laptop', 'wide'],
      place: { align: 'center' },
    })
    expect(style).toContain('width: fit-content; padding: 10px; background: rgb(16 32 48 / 0.8);')
    expect(style).toContain(':is(.tln-heading, .tln-body) { margin-inline: auto; }')
  })
  it('is not printed', () => {
    for (const around of AROUND)
      expect(letterRules(OWN, letters({ around }))).toMatch(
        /@media print \{ [^{]*\{ (text-shadow: none|padding: 0; background: none); \} \}/,
      )
  })
})
