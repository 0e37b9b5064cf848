import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { clipRecipes, posterRecipes, proofRecipe, recipeKey } from '../../backdrop/recipe'
import { createBackdrop } from '../../backdrop/createBackdrop'
import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import type { Sources } from '../Kind'
import { knownAs, reduced, SAMPLE_SOURCE_ID } from '../../testing/samples'
import { createImage, FIRST_DRIFT, imageSchema, insideView, viewAt, type ImageBase } from './Image'
import { viewTransform } from './viewTransform'
import { image } from '.'

const known = (width: number, height: number, alpha = false) =>
  knownAs({
    sha256: 'c'.repeat(64),
    width,
    height,
    image: { mime: 'image/png', bytes: 9_000, alpha },
  })
const document = (fields: Partial<ImageBase> = {}, picture = { width: 4000, height: 2250 }) =>
  createBackdrop({
    base: { ...createImage(SAMPLE_SOURCE_ID), ...fields },
    picture,
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: 'Vesperline',
  })
const keyOf = (base: ImageBase, alpha: boolean): string =>
  image.sequence(base, known(4000, 2250, alpha))!.keys.picture

describe('the files of an image', () => {
  it('are pictures only, in both densities where the image has the detail', () => {
    const made = document()
    const of = known(4000, 2250)
    expect([clipRecipes(made, of), proofRecipe(made, of)]).toEqual([[], null])
    const wide = posterRecipes(made, of).filter(({ screenClass }) => screenClass === 'wide')
    expect(wide.map(({ density, recipe }) => [density, recipe.format, recipe.width])).toEqual([
      [1, 'avif', 1920],
      [1, 'webp', 1920],
      [1, 'jpeg', 1920],
      [2, 'avif', 3840],
      [2, 'webp', 3840],
      [2, 'jpeg', 3840],
    ])
  })
  it('are never larger than the image', () => {
    const small = posterRecipes(document({}, { width: 1200, height: 675 }), known(1200, 675))
    expect(Math.max(...small.map(({ recipe }) => recipe.width))).toBeLessThanOrEqual(1200)
    expect(
      small.filter(({ screenClass }) => screenClass === 'wide').map(({ density }) => density),
    ).toEqual([1, 1, 1])
  })
  it('may take the whole budget of a picture, which a poster may not', () => {
    const made = reduced(document(), {
      type: 'weight/row',
      screenClass: 'wide',
      row: { budgetBytes: 105_000 },
    })
    const [first] = posterRecipes(made, known(4000, 2250))
    expect(first!.recipe.maxBytes).toBeGreaterThan(90_000)
  })
  it('are the drawing itself, once, where it is light and nothing is done to its pixels', () => {
    const drawing = (bytes: number, isDrawing = true) =>
      knownAs({
        sha256: 'c'.repeat(64),
        width: 3840,
        height: 2160,
        image: { mime: 'image/svg+xml', bytes, alpha: true, isDrawing },
      })
    const formats = (made: BackdropDocument, of: Sources) =>
      posterRecipes(made, of).map(({ recipe }) => recipe.format)
    const made = document({}, { width: 3840, height: 2160 })
    expect(formats(made, drawing(9_000))).toEqual(['svg'])
    expect(formats(document({ placing: 'tile', tileWidth: 90 }), drawing(9_000))).toEqual(['svg'])
    const rows = { type: 'weight/row', screenClass: 'phone' } as const
    for (const [other, of] of [
      [made, drawing(90_000)],
      [made, drawing(9_000, false)],
      [reduced(made, { ...rows, row: { copyBlur: 0.5 } }), drawing(9_000)],
      [reduced(made, { ...rows, row: { budgetBytes: 20_000 } }), drawing(18_000)],
    ] as const)
      expect(formats(other, of)).not.toContain('svg')
  })
  it('are one file of the tile’s width for all screens', () => {
    const tiles = posterRecipes(document({ placing: 'tile', tileWidth: 200 }), known(4000, 2250))
    expect(
      tiles.map(({ screenClass, density, recipe }) => [screenClass, density, recipe.width]),
    ).toEqual([1, 1, 1, 2, 2, 2].map((density) => ['wide', density, 200 * density]))
  })
  it('are not cropped for a screen where the image is shown whole', () => {
    const cropped = reduced(document(), {
      type: 'weight/row',
      screenClass: 'phone',
      row: { crop: 'screen' },
    })
    const phone = (of: typeof cropped): number => {
      const { recipe } = posterRecipes(of, known(4000, 2250)).find(
        ({ screenClass }) => screenClass === 'phone',
      )!
      return recipe.width / recipe.height
    }
    expect(phone(cropped)).toBeLessThan(1)
    const whole = reduced(cropped, { type: 'image/set', image: { placing: 'contain' } })
    expect(phone(whole)).toBeCloseTo(16 / 9, 1)
  })
  it('are made anew with another colour behind them only where it shows through', () => {
    const [plain, other] = [document().base, document({ background: '#ff8800' }).base]
    expect(keyOf(plain, false)).toBe(keyOf(other, false))
    expect(keyOf(plain, true)).not.toBe(keyOf(other, true))
  })
  it('keep their keys whatever the style does with them', () => {
    const keys = (fields: Partial<ImageBase>): string[] =>
      posterRecipes(document(fields), known(4000, 2250)).map(({ recipe }) => recipeKey(recipe))
    const plain = keys({})
    for (const fields of [
      { opacity: 0.4 },
      { scrolling: 'fixed' },
      { drift: FIRST_DRIFT },
    ] as const)
      expect(keys(fields)).toEqual(plain)
  })
  it('have no sequence where the source is a clip', () =>
    expect(
      image.sequence(document().base, knownAs({ sha256: 'c'.repeat(64), width: 9, height: 9 })),
    ).toBeNull())
})

describe('pan and zoom', () => {
  const view = fc.record({
    x: fc.double({ min: -1, max: 2, noNaN: true }),
    y: fc.double({ min: -1, max: 2, noNaN: true }),
    zoom: fc.double({ min: 0.2, max: 9, noNaN: true }),
  })
  it('never shows what is beside the image, on the whole way (seed 11)', () => {
    fc.assert(
      fc.property(view, view, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, share) => {
        const drift = { from: insideView(a), to: insideView(b), seconds: 20 }
        expect(imageSchema.safeParse({ ...createImage(SAMPLE_SOURCE_ID), drift }).success).toBe(
          true,
        )
        const { x, y, zoom } = viewAt(drift, share)
        expect(Math.min(x, y)).toBeGreaterThanOrEqual(-1e-9)
        expect(Math.max(x, y)).toBeLessThanOrEqual(1 - 1 / zoom + 1e-9)
      }),
      { seed: 11 },
    )
  })
  it('is a transform about the corner that brings the view to the whole region', () =>
    expect(
      [
        { x: 0, y: 0, zoom: 1 },
        { x: 0.25, y: 0.1, zoom: 2 },
      ].map(viewTransform),
    ).toEqual(['translate(0%, 0%) scale(1)', 'translate(-50%, -20%) scale(2)']))
  it('refuses a view that leaves the image', () =>
    expect(
      imageSchema.safeParse({
        ...createImage(SAMPLE_SOURCE_ID),
        drift: { ...FIRST_DRIFT, to: { x: 0.5, y: 0, zoom: 1.5 } },
      }).success,
    ).toBe(false))
  it('is switched off by tiles and by images shown whole', () => {
    const moves = (placing: ImageBase['placing']): boolean =>
      image.motion({ ...createImage(SAMPLE_SOURCE_ID), placing, drift: FIRST_DRIFT }) !== null
    expect([moves('cover'), moves('contain'), moves('tile')]).toEqual([true, false, false])
  })
})
