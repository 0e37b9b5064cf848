import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inkOn } from '../copy/inkOn'
import { convertSrgbToOklab } from '../picture/convertSrgbToOklab'
import { formatHex, parseHex } from '../picture/srgb'
import { contrastRatio, relativeLuminance } from '../scrim/contrast'
import { aroundRatio, buttonColors, hueOf, surroundsOf } from './buttonColors'

const hueOfHex = (hex: string): number => {
  const { r, g, b } = parseHex(hex)
  const { a, b: other } = convertSrgbToOklab(r, g, b)
  return ((Math.atan2(other, a) * 180) / Math.PI + 360) % 360
}
const apart = (one: number, other: number): number => Math.abs(((one - other + 540) % 360) - 180)
const luminance = (hex: string): number => relativeLuminance(parseHex(hex))
const picture = (hex: string) => {
  const { r, g, b } = parseHex(hex)
  return { data: Uint8ClampedArray.from({ length: 400 }, (_, at) => [r, g, b, 255][at % 4]!) }
}

describe('what surrounds a button', () => {
  it('is known from the worst contrast of black and of white in its place', () => {
    const [dark, bright] = ['#20242c', '#5a6068']
    const { darkest, brightest } = surroundsOf(
      contrastRatio(parseHex('#000000'), parseHex(dark)),
      contrastRatio(parseHex('#ffffff'), parseHex(bright)),
    )
    expect(darkest).toBeCloseTo(luminance(dark), 6)
    expect(brightest).toBeCloseTo(luminance(bright), 6)
    expect(aroundRatio('#ffffff', { darkest, brightest })).toBeCloseTo(
      contrastRatio(parseHex('#ffffff'), parseHex(bright)),
      6,
    )
    expect(aroundRatio('#404448', { darkest, brightest })).toBeNull()
  })
  it('has the hue of what most of it is, and none where it is grey', () => {
    expect(apart(hueOf([picture('#1b2350')])!, hueOfHex('#1b2350'))).toBeLessThan(1)
    expect(hueOf([picture('#777777')])).toBeNull()
    expect(hueOf([])).toBeNull()
  })
})

describe('colours for a button', () => {
  const surrounds = { darkest: luminance('#101828'), brightest: luminance('#2c3c58') }
  const brand = [
    { name: 'ember', color: '#f2b872', isLocked: false },
    { name: 'night', color: '#1b2350', isLocked: false },
  ]
  it('are the brand’s own where they pass, else the same hue at another lightness', () => {
    const [ember, night] = buttonColors(surrounds, null, brand)
    expect(ember).toMatchObject({ color: '#f2b872', isExact: true, name: 'ember' })
    expect(night).toMatchObject({ isExact: false, name: 'night' })
    expect(apart(hueOfHex(night!.color), hueOfHex('#1b2350'))).toBeLessThan(4)
  })
  it('are opposite to the picture’s hue, and beside it', () => {
    const hue = hueOfHex('#2c5c98')
    const found = buttonColors(surrounds, hue, [])
    expect(found.map(({ origin }) => origin)).toEqual(['opposite', 'neighbouring', 'neighbouring'])
    expect(apart(hueOfHex(found[0]!.color), hue + 180)).toBeLessThan(4)
    for (const { color } of found.slice(1)) expect(apart(hueOfHex(color), hue)).toBeGreaterThan(28)
  })
  it('pass against label and surroundings in every state, whatever the picture (seed 61)', () => {
    const hex = fc
      .integer({ min: 0, max: 0xffffff })
      .map((n) => `#${n.toString(16).padStart(6, '0')}`)
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.option(fc.integer({ min: 0, max: 359 }), { nil: null }),
        fc.array(hex, { maxLength: 3 }),
        (one, other, hue, colors) => {
          const around = { darkest: Math.min(one, other), brightest: Math.max(one, other) }
          const named = colors.map((color, at) => ({ name: `c${at}`, color, isLocked: false }))
          for (const each of buttonColors(around, hue, named)) {
            for (const state of [each.color, each.hover]) {
              expect(
                contrastRatio(parseHex(inkOn(each.color)), parseHex(state)),
              ).toBeGreaterThanOrEqual(4.5)
              for (const ground of [around.darkest, around.brightest]) {
                const [low, high] = [ground, luminance(state)].sort((a, b) => a - b)
                expect((high! + 0.05) / (low! + 0.05)).toBeGreaterThanOrEqual(3)
              }
            }
            expect(each.hover).not.toBe(each.color)
            expect(each.aroundRatio).toBeGreaterThanOrEqual(3)
            expect(aroundRatio(each.focus, around)).toBeGreaterThanOrEqual(3)
          }
        },
      ),
      { seed: 61, numRuns: 60 },
    )
  })
  it('are there on dark and on bright pictures, and not where both are there', () => {
    const grey = (value: number): number => luminance(formatHex({ r: value, g: value, b: value }))
    expect(buttonColors({ darkest: grey(10), brightest: grey(60) }, 250, [])).toHaveLength(3)
    const bright = buttonColors({ darkest: grey(190), brightest: grey(250) }, 250, [])
    expect(bright).toHaveLength(3)
    for (const { color, focus } of bright) {
      expect(luminance(color)).toBeLessThan(grey(120))
      expect(focus).toBe('#000000')
    }
    expect(buttonColors({ darkest: grey(5), brightest: grey(250) }, 250, brand)).toEqual([])
  })
})
