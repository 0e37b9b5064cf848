import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { seededNumbers } from '../../testing/samples'
import { writeGif, type GifPicture } from '../../testing/writeGif'
import { GifDecoder } from './GifDecoder'
import { readGif } from './readGif'

const [WIDTH, HEIGHT] = [9, 7]
const PALETTE = Array.from(
  { length: 8 },
  (_, index) => [index * 30, 255 - index * 30, (index * 77) % 256] as const,
)

/**
 * The disposal rules said plainly: a canvas of palette indexes (−1 is clear), copied whole before
 * each frame. Slow and obvious.
 */
function draw(pictures: readonly GifPicture[]): number[][] {
  let canvas = Array.from({ length: WIDTH * HEIGHT }, () => -1)
  const shown: number[][] = []
  for (const picture of pictures) {
    const before = [...canvas]
    const { x = 0, y = 0 } = picture
    for (let row = 0; row < picture.height; row++) {
      for (let column = 0; column < picture.width; column++) {
        const index = picture.indexes[row * picture.width + column]!
        const inside = x + column < WIDTH && y + row < HEIGHT
        if (inside && index !== picture.transparent) canvas[(y + row) * WIDTH + x + column] = index
      }
    }
    shown.push([...canvas])
    if (picture.disposal === 3) canvas = before
    if (picture.disposal === 2)
      canvas = canvas.map((index, at) =>
        at % WIDTH >= x &&
        at % WIDTH < x + picture.width &&
        Math.floor(at / WIDTH) >= y &&
        Math.floor(at / WIDTH) < y + picture.height
          ? -1
          : index,
      )
  }
  return shown
}

function invent(random: () => number): GifPicture[] {
  const whole = (max: number): number => Math.floor(random() * max)
  return Array.from({ length: 1 + whole(6) }, () => {
    const [width, height] = [1 + whole(WIDTH + 2), 1 + whole(HEIGHT + 2)]
    return {
      x: whole(WIDTH),
      y: whole(HEIGHT),
      width,
      height,
      indexes: Uint8Array.from({ length: width * height }, () => whole(8)),
      delayCs: 5,
      disposal: whole(4) as 0 | 1 | 2 | 3,
      ...(random() < 0.5 ? { transparent: whole(8) } : {}),
    }
  })
}

describe('a GIF’s canvas', () => {
  it('equals that of a slow and obvious drawing, frame by frame and in any order (seed 11)', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer(), async (seed) => {
        const random = seededNumbers(seed)
        const pictures = invent(random)
        const bytes = writeGif(WIDTH, HEIGHT, PALETTE, pictures)
        const decoder = new GifDecoder(bytes, await readGif(memorySource(bytes)))
        const expected = draw(pictures)
        const order = [
          ...pictures.keys(),
          ...Array.from({ length: 4 }, () => Math.floor(random() * pictures.length)),
        ]
        for (const number of order) {
          const canvas = decoder.frame(number)
          const indexes = Array.from({ length: WIDTH * HEIGHT }, (_, at) =>
            canvas[at * 4 + 3] === 0
              ? -1
              : PALETTE.findIndex(
                  ([r, g, b]) =>
                    canvas[at * 4] === r && canvas[at * 4 + 1] === g && canvas[at * 4 + 2] === b,
                ),
          )
          expect(indexes, `frame ${number} of ${pictures.length}`).toEqual(expected[number])
        }
      }),
      { seed: 11, numRuns: 150 },
    )
  })
})
