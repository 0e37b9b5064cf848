import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fileTone, sequenceOf, styleTone, toneForm } from '../backdrop/delivered'
import { posterRecipes, recipeKey, clipRecipes } from '../backdrop/recipe'
import { contrastKey, baseOnScreen } from '../backdrop/contrastBase'
import { emitBackdropStyle } from '../handoff/emitStyle'
import { toneFilter, toneFromFilter } from '../handoff/toneCss'
import { sequenceSchema } from '../kinds'
import { createPaint } from '../kinds/paint/Paint'
import { rgbFromYuv, yuvFromRgb, type YuvKind } from '../picture/describeCells'
import { convertRgbaToI420 } from '../picture/convertRgbaToI420'
import { createI420, planesOf } from '../picture/I420'
import { BARE } from '../testing/handoffSamples'
import { inventBackdrop, knownAs, reduced } from '../testing/samples'
import { tonedColor, tonedI420 } from './applyTone'
import { isPlainTone, PLAIN_TONE, toneKey, type Tone } from './Tone'

const KNOWN = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
const tone = (fields: Partial<Tone>): Tone => ({ ...PLAIN_TONE, ...fields })
const anyTone: fc.Arbitrary<Tone> = fc.record({
  brightness: fc.integer({ min: 20, max: 200 }).map((value) => value / 100),
  contrast: fc.integer({ min: 20, max: 200 }).map((value) => value / 100),
  saturation: fc.integer({ min: 0, max: 200 }).map((value) => value / 100),
  tint: fc.record({
    color: fc.constantFrom('#204060', '#ff8800', '#808080'),
    strength: fc.integer({ min: 0, max: 100 }).map((value) => value / 100),
  }),
})
const byte = fc.integer({ min: 0, max: 255 })
const anyKind: fc.Arbitrary<YuvKind> = fc.record({
  matrix: fc.constantFrom('bt709', 'bt601', 'bt2020'),
  fullRange: fc.boolean(),
})
const BT709 = { matrix: 'bt709', fullRange: false } as const

describe('a tone', () => {
  it('that is plain leaves every colour (seed 41)', () => {
    expect(isPlainTone(PLAIN_TONE)).toBe(true)
    fc.assert(
      fc.property(byte, byte, byte, (r, g, b) => {
        const seen = tonedColor(PLAIN_TONE)({ r, g, b })
        expect(seen.r).toBeCloseTo(r, 9)
        expect(seen.g).toBeCloseTo(g, 9)
        expect(seen.b).toBeCloseTo(b, 9)
      }),
      { seed: 41 },
    )
  })
  it.each([
    [tone({ brightness: 0.5 }), { r: 100, g: 50, b: 25 }],
    [tone({ contrast: 2 }), { r: 255, g: 72.5, b: 0 }],
    [tone({ saturation: 0 }), { r: 117.7, g: 117.7, b: 117.7 }],
    // Each channel is held within its range before the next function.
    [tone({ brightness: 2, contrast: 0.5 }), { r: 191.25, g: 163.75, b: 113.75 }],
  ])('is what browsers compute: %j', (each, expected) => {
    const seen = tonedColor(each)({ r: 200, g: 100, b: 50 })
    expect(seen.r).toBeCloseTo(expected.r, 1)
    expect(seen.g).toBeCloseTo(expected.g, 1)
    expect(seen.b).toBeCloseTo(expected.b, 1)
  })
  it('that tints wholly gives greys the hue of the tint in their own lightness', () => {
    const seen = tonedColor(tone({ tint: { color: '#204060', strength: 1 } }))({
      r: 90,
      g: 90,
      b: 90,
    })
    expect(seen.b).toBeGreaterThan(seen.g)
    expect(seen.g).toBeGreaterThan(seen.r)
    expect(0.213 * seen.r + 0.715 * seen.g + 0.072 * seen.b).toBeCloseTo(90, 6)
  })
  it('of planes is that of their colours, within what chroma of four pixels allows (seed 42)', () => {
    fc.assert(
      fc.property(anyTone, anyKind, byte, byte, byte, (each, kind, r, g, b) => {
        // One colour: chroma is that of each pixel.
        const [luma, cb, cr] = yuvFromRgb(r, g, b, kind)
        const picture = createI420(2, 2)
        for (const [plane, value] of [luma, cb, cr].entries())
          planesOf(picture)[plane]!.data.fill(value)
        const toned = tonedI420(picture, each, kind)
        const [lumaOut, cbOut, crOut] = planesOf(toned).map(({ data }) => data[0]!)
        const [inR, inG, inB] = rgbFromYuv(luma, cb, cr, kind)
        const wanted = tonedColor(each)({ r: inR, g: inG, b: inB })
        const seen = rgbFromYuv(lumaOut!, cbOut!, crOut!, kind)
        for (const [index, value] of [wanted.r, wanted.g, wanted.b].entries())
          expect(Math.abs(seen[index]! - value)).toBeLessThan(2.6)
      }),
      { seed: 42 },
    )
  })
  it('leaves the planes of a plain one within a step, black and white exactly', () => {
    for (const value of [0, 255]) {
      const rgba = new Uint8Array(16).fill(value)
      const picture = convertRgbaToI420(rgba, 2, 2)
      expect([...tonedI420(picture, PLAIN_TONE, BT709).data]).toEqual([...picture.data])
    }
  })
})

describe('the tone of a backdrop', () => {
  const plain = inventBackdrop()
  const dim = (form: 'filter' | 'files') =>
    reduced(plain, {
      type: 'tone/set',
      tone: { ...tone({ brightness: 0.7, tint: { color: '#ff8800', strength: 0.4 } }), form },
    })
  const keys = (document: typeof plain): string[] => [
    ...clipRecipes(document, KNOWN).map(({ recipe }) => recipeKey(recipe)),
    ...posterRecipes(document, KNOWN).map(({ recipe }) => recipeKey(recipe)),
  ]
  it('in the files makes all of them anew, and leaves the style', () => {
    const before = new Set(keys(plain))
    expect(before.size).toBeGreaterThan(4)
    expect(keys(dim('files')).some((key) => before.has(key))).toBe(false)
    expect(emitBackdropStyle('k', dim('files'), BARE)).not.toContain('filter:')
  })
  it('by a filter leaves the files, and cannot tint', () => {
    expect(keys(dim('filter'))).toEqual(keys(plain))
    expect(styleTone(dim('filter'))!.tint.strength).toBe(0)
    expect(emitBackdropStyle('k', dim('filter'), BARE)).toContain(
      ':is(.tln-video, .tln-poster) { filter: brightness(0.7) contrast(1) saturate(1); }',
    )
  })
  it('that is plain is in no key and no rule', () => {
    const none = reduced(dim('filter'), { type: 'tone/set', tone: PLAIN_TONE })
    expect(keys(none)).toEqual(keys(plain))
    expect(emitBackdropStyle('k', none, BARE)).not.toContain('filter:')
  })
  it('is measured with whoever makes it', () => {
    const seen = (document: typeof plain) => baseOnScreen(document, KNOWN, 'laptop')!
    expect(seen(dim('files')).sequence.tone?.tint.strength).toBe(0.4)
    expect(seen(dim('filter')).sequence.tone).toEqual(tone({ brightness: 0.7 }))
    expect(new Set([plain, dim('files'), dim('filter')].map((each) => seen(each).key)).size).toBe(3)
    expect(contrastKey(dim('files'))).not.toBe(contrastKey(plain))
  })
  it('crosses the wire with its sequence, whose keys are made anew', () => {
    const sequence = sequenceOf(dim('files'), KNOWN)!
    expect(sequence.keys.picture).toContain(toneKey(sequence.tone!))
    const sent: unknown = JSON.parse(JSON.stringify(sequence))
    expect(sequenceSchema.parse(sent)).toEqual(sequence)
    const forged = { ...(sent as object), keys: { ...sequence.keys, picture: '' } }
    expect(sequenceSchema.parse(forged)).toEqual(sequence)
    const wrong = { ...(sent as object), tone: { ...sequence.tone, brightness: 9 } }
    expect(sequenceSchema.safeParse(wrong).success).toBe(false)
    expect(sequenceSchema.safeParse({ ...(sent as object), kind: 'velvet' }).success).toBe(false)
  })
  it('is a filter where the style draws the base, whatever was decided', () => {
    const painted = { ...dim('files'), base: createPaint() }
    expect(toneForm(painted)).toBe('filter')
    expect(fileTone(painted)).toBeNull()
    expect(emitBackdropStyle('k', painted, BARE)).toContain('.tln-paint { filter: brightness(0.7)')
  })
  it('is read again from its filter, and no other is (seed 43)', () => {
    fc.assert(
      fc.property(anyTone, (each) => {
        expect(toneFromFilter(toneFilter(each))).toEqual({ ...each, tint: PLAIN_TONE.tint })
      }),
      { seed: 43 },
    )
    expect(toneFromFilter('none')).toBeNull()
    for (const other of ['blur(4px)', 'brightness(0.5)', 'brightness(9) contrast(1) saturate(1)'])
      expect(toneFromFilter(other)).toBeUndefined()
  })
})
