import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cutText, isStorableText, nameSchema, problemOfJson } from './bounded'

describe('text from outside', () => {
  it.each([
    ['plain', true],
    ['äöü 漢字 🚆', true],
    ['', true],
    ['a\0b', false],
    ['\ud800', false],
    ['\udc00x', false],
    ['a\ud83d', false],
  ])('%j can be stored: %s', (text, storable) => expect(isStorableText(text)).toBe(storable))
  it('has a name where a name is needed', () => {
    expect(nameSchema.safeParse('  Hero ').data).toBe('Hero')
    for (const wrong of ['', '   ', 'x'.repeat(121), 'a\0', 5])
      expect(nameSchema.safeParse(wrong).success).toBe(false)
  })
})

describe('JSON from outside', () => {
  const nested = (depth: number): unknown =>
    JSON.parse('['.repeat(depth) + ']'.repeat(depth)) as unknown
  it('may be nested as deep as any document, and no deeper', () => {
    expect(problemOfJson(nested(40))).toBeNull()
    expect(problemOfJson(nested(42))).toMatch(/deeper/)
    expect(problemOfJson(nested(100_000))).toMatch(/deeper/)
  })
  it('may hold many values, but not any number', () => {
    expect(problemOfJson(Array.from({ length: 300_000 }, () => 0))).toBeNull()
    expect(problemOfJson(Array.from({ length: 500_000 }, () => 0))).toMatch(/more values/)
  })
  it('is refused for text that cannot be stored, in values and in names', () => {
    expect(problemOfJson({ a: [{ b: 'x\0' }] })).toMatch(/cannot be stored/)
    expect(problemOfJson({ 'a\ud800': 1 })).toMatch(/cannot be stored/)
  })
  it('is let through exactly where all its text can be stored, whatever its form', () => {
    fc.assert(
      fc.property(
        fc.jsonValue({ maxDepth: 6 }),
        fc.constantFrom('fine', 'a\0b', '\ud801'),
        (value, text) => {
          const storable =
            isStorableText(text) && !/\\u0000|\\ud[89a-f]/.test(JSON.stringify(value))
          expect(problemOfJson({ value, text }) === null).toBe(storable)
        },
      ),
      { seed: 3, numRuns: 200 },
    )
  })
})

describe('the beginning of a text', () => {
  it('never ends in half a character, so that it can be stored', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.nat(30), (value, max) => {
        fc.pre(isStorableText(value))
        const cut = cutText(value, max)
        expect(value.startsWith(cut)).toBe(true)
        expect(isStorableText(cut)).toBe(true)
        expect(max - cut.length).toBeLessThanOrEqual(value.length <= max ? max : 1)
        expect(cut.length).toBeLessThanOrEqual(max)
      }),
    ))
  it('is cut before a pair that does not fit', () =>
    expect([cutText('ab🚂', 3), cutText('ab🚂', 4), cutText('abc', 2)]).toEqual([
      'ab',
      'ab🚂',
      'ab',
    ]))
})
