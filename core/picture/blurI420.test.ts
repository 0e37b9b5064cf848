import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import { createI420, planesOf, type I420 } from './I420'
import { i420Blurrer } from './blurI420'

const SIZE = { width: 96, height: 64 }
const LEFT = { x: 0, y: 0, width: 0.4, height: 1 }

function noisy(seed: number, { width, height } = SIZE): I420 {
  const random = seededNumbers(seed)
  const picture = createI420(width, height)
  picture.data.forEach((_, at) => (picture.data[at] = Math.floor(random() * 256)))
  return picture
}

/** Mean difference between neighbours in a row of luma, for columns from one to another. */
function detail(picture: I420, from: number, to: number): number {
  const [luma] = planesOf(picture)
  let sum = 0
  for (let y = 0; y < luma.height; y++)
    for (let x = from + 1; x < to; x++)
      sum += Math.abs(luma.data[y * luma.width + x]! - luma.data[y * luma.width + x - 1]!)
  return sum / (luma.height * (to - from - 1))
}

describe('the ground behind copy', () => {
  it('loses its detail inside the box, and none well outside of it', () => {
    const picture = noisy(1)
    const soft = i420Blurrer(SIZE, { box: LEFT, strength: 1 })(picture)
    expect(detail(soft, 0, 36)).toBeLessThan(detail(picture, 0, 36) / 2.5)
    expect(detail(soft, 60, 96)).toBe(detail(picture, 60, 96))
  })
  it('fades from one to the other without an edge', () => {
    const picture = createI420(SIZE.width, SIZE.height)
    picture.data.fill(128)
    planesOf(picture)[0].data.forEach((_, at, luma) => (luma[at] = at % 2 === 0 ? 100 : 156))
    const soft = i420Blurrer(SIZE, { box: LEFT, strength: 1 })(picture)
    const swing = [30, 39, 41, 43, 46].map((x) => detail(soft, x, x + 2))
    for (let index = 1; index < swing.length; index++)
      expect(swing[index]!).toBeGreaterThanOrEqual(swing[index - 1]!)
    expect(swing.at(-1)).toBe(56)
  })
  it('is softer the stronger it is', () => {
    const size = { width: 640, height: 64 }
    const picture = noisy(2, size)
    const [little, much] = [0.1, 1].map((strength) =>
      detail(i420Blurrer(size, { box: LEFT, strength })(picture), 0, 240),
    )
    expect(much).toBeLessThan(little! / 2)
  })
  it('keeps what is one colour, and the picture that was given (seed 42)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 255 }),
        fc.double({ min: 0, max: 0.9, noNaN: true }),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (value, x, width, strength) => {
          const picture = createI420(SIZE.width, SIZE.height)
          picture.data.fill(value)
          const soft = i420Blurrer(SIZE, { box: { x, y: 0.2, width, height: 0.5 }, strength })(
            picture,
          )
          expect(soft.data.every((sample) => sample === value)).toBe(true)
          expect(soft).not.toBe(picture)
        },
      ),
      { seed: 42, numRuns: 30 },
    )
  })
  it('keeps the mean of what it blurs', () => {
    const picture = noisy(3)
    const mean = (of: I420): number =>
      planesOf(of)[0].data.reduce((sum, sample) => sum + sample, 0) / (SIZE.width * SIZE.height)
    expect(
      Math.abs(
        mean(
          i420Blurrer(SIZE, { box: { x: 0, y: 0, width: 1, height: 1 }, strength: 1 })(picture),
        ) - mean(picture),
      ),
    ).toBeLessThan(1.5)
  })
})
