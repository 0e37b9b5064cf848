import { describe, expect, it } from 'vitest'
import { posterRecipes } from '../backdrop/recipe'
import { createBackdrop } from '../backdrop/createBackdrop'
import { memorySource } from '../bytes/ByteSource'
import { createImage } from '../kinds/image/Image'
import { knownAs, POSTER_FACTS, SAMPLE_SOURCE_ID } from '../testing/samples'
import { verifyRendition } from './verifyRendition'

const document = createBackdrop({
  base: createImage(SAMPLE_SOURCE_ID),
  picture: { width: 3840, height: 2160 },
  scope: 'region',
  height: { unit: 'svh', value: 100 },
  brand: 'Vesperline',
})
const known = knownAs({
  sha256: 'c'.repeat(64),
  width: 3840,
  height: 2160,
  image: { mime: 'image/svg+xml', bytes: 900, alpha: true, isDrawing: true },
})
const { recipe } = posterRecipes(document, known)[0]!
const facts = {
  ...POSTER_FACTS,
  type: 'image/svg+xml',
  width: recipe.width,
  height: recipe.height,
} as const
const check = (body: string) =>
  verifyRendition(
    memorySource(
      new TextEncoder().encode(
        `<svg xmlns="http://www.w3.org/2000/svg" width="3840" height="2160">${body}</svg>`,
      ),
    ),
    recipe,
    facts,
  )

describe('a drawing that is handed in', () => {
  it.each([
    '<rect fill="url(#sky)"/>',
    '<use href="#dot"/><style>.a { fill: url("#sky") }</style>',
    '<image href="data:image/png;base64,AAAA"/>',
    '<text>one = two, once = never; javascript: a word, src = "x"</text>',
    '<rect style="fill: url(&quot;#sky&quot;)"/>',
  ])('is taken where it refers to itself only: %s', async (body) =>
    expect(await check(body)).toEqual({ ok: true, value: null }),
  )
  it.each([
    '<script>alert(1)</script>',
    '<rect onclick="alert(1)"/>',
    '<rect fill="url(&quot;https://elsewhere.example/#x&quot;)"/>',
    '<rect\nonload = "alert(1)"/>',
    '<foreignObject/>',
    '<a href="#x"/>',
    '<use href="https://elsewhere.example/a.svg#b"/>',
    '<image xlink:href="//elsewhere.example/a.png"/>',
    '<image href="data:image/svg+xml,x"/>',
    '<style>@import "b.css"</style>',
    '<rect fill="url( https://elsewhere.example/#x )"/>',
    '<set attributeName="href" to="javascript:alert(1)"/>',
  ])('is refused with what runs or refers to other files: %s', async (body) => {
    const found = await check(body)
    expect(found.ok).toBe(false)
    expect(!found.ok && found.error.property).toBe('content')
  })
})

it('is refused where another encoder made it than its recipe names', async () => {
  const drawing = '<svg xmlns="http://www.w3.org/2000/svg" width="3840" height="2160"/>'
  const source = memorySource(new TextEncoder().encode(drawing))
  expect(
    await verifyRendition(source, recipe, { ...facts, encoder: 'sharp 0.35.5' }),
  ).toMatchObject({
    ok: false,
    error: { property: 'encoder', expected: 'null', found: 'sharp 0.35.5' },
  })
})
