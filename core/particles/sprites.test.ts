import fc from 'fast-check'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { definitionSchema } from './Definition'
import { particleData, prepare, spritesOf } from './prepare'
import { SPRITES } from './Prepared'
import { isSprite, MAX_SPRITE_CHARS, spriteSize } from './sprites'
import { styleOf } from './styles'

const address = (bytes: Buffer, type: 'png' | 'webp'): string =>
  `data:image/${type};base64,${bytes.toString('base64')}`
const picture = (width: number, height: number) =>
  sharp({
    create: { width, height, channels: 4, background: { r: 200, g: 90, b: 40, alpha: 0.5 } },
  })

describe('a picture as a shape', () => {
  it.each([
    ['PNG', async (w: number, h: number) => address(await picture(w, h).png().toBuffer(), 'png')],
    [
      'WebP with alpha',
      async (w: number, h: number) => address(await picture(w, h).webp().toBuffer(), 'webp'),
    ],
    [
      'WebP without loss',
      async (w: number, h: number) =>
        address(await picture(w, h).webp({ lossless: true }).toBuffer(), 'webp'),
    ],
    [
      'WebP without alpha',
      async (w: number, h: number) =>
        address(await picture(w, h).removeAlpha().webp().toBuffer(), 'webp'),
    ],
  ])('has the size that its file says: %s', async (_, made) => {
    for (const [width, height] of [
      [64, 32],
      [1, 1],
      [256, 200],
    ] as const) {
      const sprite = await made(width, height)
      expect(spriteSize(sprite)).toEqual({ width, height })
      expect(isSprite(sprite)).toBe(true)
    }
    const wide = await made(300, 20)
    expect(spriteSize(wide)).toEqual({ width: 300, height: 20 })
    expect(isSprite(wide)).toBe(false)
  })
  it('is none where its file is damaged, of another kind, or endless', async () => {
    const good = await picture(20, 20).png().toBuffer()
    expect(isSprite(address(good.subarray(0, 20), 'png'))).toBe(false)
    expect(isSprite(`data:image/svg+xml;base64,${good.toString('base64')}`)).toBe(false)
    expect(isSprite('https://example.com/a.png')).toBe(false)
    expect(isSprite(address(Buffer.alloc(MAX_SPRITE_CHARS), 'png'))).toBe(false)
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        const size = spriteSize(address(Buffer.from(bytes), 'webp'))
        expect(size === null || (size.width >= 0 && size.height >= 0)).toBe(true)
      }),
    )
  })
  it('stands once in what is delivered, however it is drawn', async () => {
    const sprite = address(await picture(16, 16).webp().toBuffer(), 'webp')
    const definition = definitionSchema.parse({
      ...styleOf('quiet-snowfall')!.definition,
      shapes: [{ shape: 'flake' }, { sprite, tinted: true, weight: 3 }],
    })
    expect(spritesOf(definition)).toEqual([sprite])
    expect(particleData(definition).split(sprite)).toHaveLength(2)
    const [look] = prepare(definition)
    expect(look[SPRITES]).toEqual([sprite])
    const [, [turned, [place], tint]] = look[4] as [unknown, [number, [string], unknown]]
    expect([turned, place]).toEqual([0, '0'])
    // Its colour is drawn over it, only where it is.
    expect(tint).toMatchObject({ 1: 0, 2: '00' })
  })
})
