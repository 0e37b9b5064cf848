import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { particlesJsonSchema } from './Definition'
import { placesOf } from './jsonPlaces'
import { MAX_DEFINITION_CHARS, readDefinition } from './readDefinition'

const TEXT = `{
  "format": "telon-particles",
  "version": 1,
  "name": "Drift",
  "seed": 3,
  "period": 12,
  "perMegapixel": 80,
  "shapes": [{ "shape": "disc" }],
  "size": { "from": 2, "to": 4 },
  "colours": { "palette": [{ "colour": "#ffffff" }] },
  "opacity": { "from": 0.2, "to": 0.8 },
  "motion": {
    "direction": 90,
    "speed": { "from": 5, "to": 20 }
  }
}
`
/** The head of a PNG, with as many bytes after it. */
function spriteOf(width: number, height: number, more = 16): string {
  const bytes = new Uint8Array(33 + more)
  bytes.set([137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82])
  new DataView(bytes.buffer).setUint32(16, width)
  new DataView(bytes.buffer).setUint32(20, height)
  return `data:image/png;base64,${Buffer.from(bytes).toString('base64')}`
}
const problems = (text: string) => {
  const read = readDefinition(text)
  return read.ok ? [] : read.error
}

describe('a definition that somebody wrote', () => {
  it('is read with defaults for all that is left out', () => {
    const read = readDefinition(TEXT)
    expect(read.ok && read.value).toMatchObject({ most: 400, blend: 'normal', links: null })
  })
  it.each([
    ['a value that is too large', '"period": 12', '"period": 900', 6, /^period: /],
    ['a word that is none', '"disc"', '"cube"', 8, /^shapes\.0\.shape: /],
    ['a name that is not known', '"direction"', '"heading"', 12, /“heading”/],
    ['a part that is missing', '"seed": 3,\n', '', 1, /^seed: /],
    ['a range the wrong way round', '"from": 5, "to": 20', '"from": 50, "to": 20', 14, /more than/],
    ['a sign that is missing', '"seed": 3,', '"seed": 3', 6, /“,” is missing/],
    ['a name that stands there twice', '"seed": 3,', '"seed": 3, "seed": 4,', 5, /twice/],
    ['a word without quotes', '"Drift"', 'Drift', 4, /“Drift” is no value/],
    ['a text without an end', '"Drift"', '"Drift', 4, /no end/],
    ['something after its end', '  }\n}\n', '  }\n}\n}\n', 17, /after the end/],
    ['another version', '"version": 1', '"version": 2', 3, /^version: /],
    ['a shape that is none', '{ "shape": "disc" }', '{ "weight": 2 }', 8, /shape or a sprite/],
    [
      'a shape that is two',
      '{ "shape": "disc" }',
      `{ "shape": "disc", "sprite": "${spriteOf(8, 8)}" }`,
      8,
      /shape or a sprite/,
    ],
    [
      'a sprite from elsewhere',
      '"shape": "disc"',
      '"sprite": "https://example.com/a.png"',
      8,
      /data address/,
    ],
    ['a sprite that is too wide', '"shape": "disc"', `"sprite": "${spriteOf(9000, 8)}"`, 8, /256/],
    ['a sprite without a picture', '"shape": "disc"', `"sprite": "${spriteOf(0, 8)}"`, 8, /256/],
    [
      'a sprite of too many bytes',
      '"shape": "disc"',
      `"sprite": "${spriteOf(8, 8, 9000)}"`,
      8,
      /8000 bytes/,
    ],
    [
      'too many sprites',
      '{ "shape": "disc" }',
      Array.from({ length: 5 }, () => `{ "sprite": "${spriteOf(8, 8)}" }`).join(),
      8,
      /At most 4/,
    ],
    [
      'a twinkle that could flash',
      '"direction": 90',
      '"direction": 90, "twinkle": { "amount": 1, "seconds": 0.2 }',
      13,
      /twinkle\.seconds/,
    ],
  ])('is refused with line and reason: %s', (_, from, to, line, told) => {
    expect(TEXT).toContain(from)
    const found = problems(TEXT.replace(from, to))
    expect(found.map((each) => each.line)).toContain(line)
    expect(found.map(({ message }) => message).join(' ')).toMatch(told)
  })
  it.each([
    ['nothing', ''],
    ['a list', '[]'],
    ['too much', `"${'x'.repeat(MAX_DEFINITION_CHARS)}"`],
    ['too deep', `${'['.repeat(5000)}${']'.repeat(5000)}`],
    ['a number out of the world', TEXT.replace('"seed": 3', '"seed": 1e999')],
    ['a prototype', TEXT.replace('"seed": 3', '"__proto__": { "seed": 3 }, "seed": 3')],
  ])('is refused where it is %s', (_, text) => {
    expect(problems(text).length).toBeGreaterThan(0)
  })
  it('is refused or read, never stumbled over, however it is damaged (seed 56)', () =>
    fc.assert(
      fc.property(fc.nat(TEXT.length), fc.nat(30), fc.string({ maxLength: 6 }), (at, cut, put) => {
        const damaged = TEXT.slice(0, at) + put + TEXT.slice(at + cut)
        for (const { line, message } of problems(damaged)) {
          expect(line).toBeGreaterThanOrEqual(1)
          expect(line).toBeLessThanOrEqual(damaged.split('\n').length)
          expect(message.length).toBeGreaterThan(5)
        }
      }),
      { seed: 56, numRuns: 2000 },
    ))
  it('has a JSON Schema in docs/ that is up to date', () =>
    expect(
      JSON.parse(
        readFileSync(new URL('../../docs/schema/particles.schema.json', import.meta.url), 'utf8'),
      ),
    ).toEqual(JSON.parse(JSON.stringify(particlesJsonSchema()))))
})

describe('JSON with lines', () => {
  it('is what the engine reads, whatever it is (seed 57)', () =>
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), fc.nat(4), (value, indent) => {
        const read = placesOf(JSON.stringify(value, null, indent))
        expect(read.ok && JSON.stringify(read.value.value)).toBe(JSON.stringify(value))
      }),
      { seed: 57, numRuns: 500 },
    ))
  it('refuses what the engine refuses (seed 58)', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 12 }), (text) => {
        let isJson = true
        try {
          JSON.parse(text)
        } catch {
          isJson = false
        }
        expect(placesOf(text).ok).toBe(isJson)
      }),
      { seed: 58, numRuns: 2000 },
    ))
})
