import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { brandColorSchema, isLockedColor, mergedBrand, typefaceSchema, type Brand } from './Brand'
import { writeCustomProperties } from './customProperties'
import { writeDesignTokens } from './designTokens'
import { MAX_BRAND_TEXT, readBrand } from './readBrand'

const colorsOf = (text: string) =>
  readBrand(text).colors.map(({ name, color }) => `${name} ${color}`)

describe('custom properties', () => {
  it('are read from any style sheet, in any notation of a colour', () => {
    const css = `/* --old: red; */
      body { color: blue }
      :root {
        --night: #14101c; --ember:#f2b; --sea : rgb(0 128 255);
        --moss: hsl(120 50% 25%); --sky: oklch(0.7 0.1 240);
        --accent: var(--ember); --deep: var(--missing, #001122);
        --gap: 1.5rem; --shadow: 0 1px 2px #000; --name: none
      }
      @media (prefers-color-scheme: dark) { :root { --night: #fff } }`
    expect(colorsOf(css)).toEqual([
      'night #14101c',
      'ember #ff22bb',
      'sea #0080ff',
      'moss #206020',
      'sky #60a7d6',
      'accent #ff22bb',
      'deep #001122',
    ])
  })
  it('give typefaces with their weights', () => {
    const css =
      '--font-heading: "Alder Grotesk", \'Fen Sans\', sans-serif; --font-heading-weight: bold; --body-family: Fen Serif, serif; --body-weight: 350; --font-size: 1rem;'
    expect(readBrand(css).typefaces).toEqual([
      { name: 'font-heading', family: 'Alder Grotesk, Fen Sans, sans-serif', weight: 700 },
      { name: 'body-family', family: 'Fen Serif, serif', weight: 350 },
    ])
  })
  it('say what could not be taken, and why', () => {
    const { colors, skipped } = readBrand(
      '--veil: rgb(0 0 0 / 0.4); --one: var(--two); --two: var(--one); --odd: #12; --ok: #123456',
    )
    expect(colors).toHaveLength(1)
    expect(skipped).toEqual([
      { name: '--veil', why: 'is not opaque' },
      { name: '--one', why: 'leads to nothing' },
      { name: '--two', why: 'leads to nothing' },
      { name: '--odd', why: 'is no colour' },
    ])
  })
})

describe('design tokens', () => {
  it('are read in groups, by type, alias and colour space', () => {
    const tokens = {
      color: {
        $type: 'color',
        night: { $value: { colorSpace: 'srgb', components: [0.0784, 0.0627, 0.1098] } },
        ember: { 500: { $value: '#f2b872' } },
        moss: { $value: { colorSpace: 'hsl', components: [120, 50, 25] } },
        sky: { $value: { colorSpace: 'oklch', components: [0.7, 0.1, 240], alpha: 1 } },
        kept: { $value: { colorSpace: 'made-up', components: [1, 2, 3], hex: '#336699' } },
        veil: { $value: { colorSpace: 'srgb', components: [0, 0, 0], alpha: 0.5 } },
        action: { $value: '{color.ember.500}', $extensions: { telon: { locked: true } } },
        round: { $value: '{color.round}' },
      },
      space: { $type: 'dimension', small: { $value: { value: 4, unit: 'px' } } },
      weight: { strong: { $type: 'fontWeight', $value: 'semi-bold' } },
      text: {
        body: { $type: 'fontFamily', $value: ['Fen Sans', 'sans-serif'] },
        heading: {
          $type: 'typography',
          $value: { fontFamily: '{text.body}', fontWeight: '{weight.strong}' },
        },
      },
    }
    const { colors, typefaces, skipped } = readBrand(JSON.stringify(tokens))
    expect(colors.map(({ name, color, isLocked }) => [name, color, isLocked])).toEqual([
      ['color night', '#14101c', false],
      ['color ember 500', '#f2b872', false],
      ['color moss', '#206020', false],
      ['color sky', '#60a7d6', false],
      ['color kept', '#336699', false],
      ['color action', '#f2b872', true],
    ])
    expect(typefaces).toEqual([
      { name: 'text body', family: 'Fen Sans, sans-serif', weight: null },
      { name: 'text heading', family: 'Fen Sans, sans-serif', weight: 600 },
    ])
    expect(skipped).toEqual([
      { name: 'color veil', why: 'is not opaque' },
      { name: 'color round', why: 'leads to nothing' },
    ])
  })
  it('have names that can be kept, whatever they are called', () => {
    const named = { [`a\u0000b`]: { $type: 'color', $value: '#112233' } }
    const [inner] = readBrand(JSON.stringify(named)).colors
    const [root] = readBrand('{ "$type": "color", "$value": "#112233" }').colors
    const long = { [`${'x'.repeat(59)}🌒🌓`]: { $type: 'color', $value: '#112233' } }
    const [cut] = readBrand(JSON.stringify(long)).colors
    for (const each of [inner, root, cut])
      expect(brandColorSchema.safeParse(each).success).toBe(true)
    expect([inner!.name, root!.name]).toEqual(['ab', 'unnamed'])
  })
  it('that are broken or empty are told with what to do', () => {
    expect(() => readBrand('{ "color": ')).toThrow(/not valid JSON/)
    expect(() => readBrand('{}')).toThrow(/No colour or typeface was found/)
    expect(() => readBrand('--veil: rgb(0 0 0 / 0.4)')).toThrow(/--veil is not opaque/)
    expect(() => readBrand('x'.repeat(MAX_BRAND_TEXT + 1))).toThrow(/too long/)
  })
})

const letters = fc.stringMatching(/^[a-zA-ZäéЖ][a-zA-Z0-9 äéЖ-]{0,20}[a-z0-9]$/)
const brands: fc.Arbitrary<Brand> = fc.record({
  colors: fc.uniqueArray(
    fc.record({
      name: letters,
      color: fc
        .integer({ min: 0, max: 0xffffff })
        .map((n) => `#${n.toString(16).padStart(6, '0')}`),
      isLocked: fc.boolean(),
    }),
    { maxLength: 8, selector: ({ name }) => name },
  ),
  typefaces: fc.uniqueArray(
    fc.record({
      name: letters,
      family: fc.array(letters, { minLength: 1, maxLength: 3 }).map((all) => all.join(', ')),
      weight: fc.option(fc.integer({ min: 100, max: 900 }), { nil: null }),
    }),
    { maxLength: 4, selector: ({ name }) => name },
  ),
})

describe('a brand', () => {
  it('comes back from the Design Tokens that it is written as (seed 71)', () =>
    fc.assert(
      fc.property(brands, (brand) => {
        fc.pre(brand.colors.length + brand.typefaces.length > 0)
        const { colors, typefaces, skipped } = readBrand(writeDesignTokens(brand))
        expect(skipped).toEqual([])
        expect(colors).toEqual(
          brand.colors.map((each) => ({ ...each, name: `color ${each.name}` })),
        )
        const family = ({ family: list, weight }: Brand['typefaces'][number]) => [list, weight]
        expect(typefaces.map(family).sort()).toEqual(brand.typefaces.map(family).sort())
      }),
      { seed: 71 },
    ))
  it('comes back from the custom properties that it is written as (seed 72)', () =>
    fc.assert(
      fc.property(brands, (brand) => {
        fc.pre(brand.colors.length + brand.typefaces.length > 0)
        const css = writeCustomProperties(brand)
        const names = [...css.matchAll(/--([\w-]+):/g)].map(([, name]) => name)
        expect(new Set(names).size).toBe(names.length)
        const plain = {
          ...brand,
          colors: brand.colors.filter(({ name }) => !/font|family|weight|typeface/i.test(name)),
        }
        const found = readBrand(css).colors.map(({ color }) => color)
        for (const { color } of plain.colors) expect(found).toContain(color)
        expect(readBrand(css).typefaces.map(({ family }) => family)).toEqual(
          expect.arrayContaining(brand.typefaces.map(({ family }) => family)),
        )
      }),
      { seed: 72 },
    ))
  it('takes others in by their names, and what is locked stays so', () => {
    const own: Brand = {
      colors: [
        { name: 'night', color: '#14101c', isLocked: true },
        { name: 'ember', color: '#f2b872', isLocked: false },
      ],
      typefaces: [{ name: 'body', family: 'Fen Sans', weight: null }],
    }
    const merged = mergedBrand(own, {
      colors: [
        { name: 'night', color: '#000033', isLocked: false },
        { name: 'sea', color: '#0080ff', isLocked: false },
      ],
      typefaces: [{ name: 'body', family: 'Fen Serif', weight: 400 }],
    })
    expect(merged.colors.map(({ name, color, isLocked }) => [name, color, isLocked])).toEqual([
      ['night', '#000033', true],
      ['ember', '#f2b872', false],
      ['sea', '#0080ff', false],
    ])
    expect(merged.typefaces).toEqual([{ name: 'body', family: 'Fen Serif', weight: 400 }])
    expect(isLockedColor(merged.colors, '#000033')).toBe(true)
    expect(isLockedColor(merged.colors, '#f2b872')).toBe(false)
  })
})

describe('whatever is pasted', () => {
  const snippet = fc.constantFrom(
    '--a: ',
    '#123',
    'var(--a)',
    'var(--',
    ';',
    '{',
    '}',
    '"',
    "'",
    '/*',
    '*/',
    '{"$value":',
    '"$type":"color"',
    'rgb(',
    'oklch(1 2',
    '[',
    ']',
    ':',
    ',',
    'font-family',
    '\\',
    '{a.b}',
    '\u0000',
    'color(srgb',
    '!important',
  )
  it('is read, or refused with a sentence (seed 73)', () =>
    fc.assert(
      fc.property(
        fc.array(fc.oneof(snippet, fc.string({ maxLength: 8 })), { maxLength: 40 }),
        (parts) => {
          try {
            const { colors, typefaces } = readBrand(parts.join(''))
            for (const each of colors) expect(brandColorSchema.safeParse(each).success).toBe(true)
            for (const each of typefaces) expect(typefaceSchema.safeParse(each).success).toBe(true)
          } catch (error) {
            expect(error).toBeInstanceOf(RangeError)
            expect((error as Error).message).toMatch(/[.)]$/)
          }
        },
      ),
      { seed: 73, numRuns: 500 },
    ))
  it('is looked through in time that grows with its length, not faster', () => {
    for (const unit of ['-', '--a', '/*', 'var(--', ' ', ', a', '--a:!important', '{'])
      expect(() => readBrand(unit.repeat(Math.floor(MAX_BRAND_TEXT / unit.length)))).toThrow(
        RangeError,
      )
    expect(
      typefaceSchema.safeParse({ name: 'x', family: `${', a'.repeat(39)}!`, weight: null }).success,
    ).toBe(false)
  })
})
