import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { contrastRatio } from '../scrim/contrast'
import { evenScrim, NO_SCRIM, scrimSchema, type Scrim } from '../scrim/Scrim'
import { layersOver } from '../scrim/scrimAt'
import { parseHex } from '../picture/srgb'
import { copyColors } from './copyColors'
import { localScrims, textsBox } from './localScrims'
import { longestRead } from './readSpan'
import { pictureCost, type ShownPicture } from './pictureCost'
import type { ScreenLayout } from './TextPlace'

const share = fc.integer({ min: 0, max: 100 }).map((value) => value / 100)
const boxes = fc.tuple(share, share, share, share).map(([a, b, c, d]) => ({
  x: Math.min(a, b),
  y: Math.min(c, d),
  width: Math.max(0.01, Math.abs(a - b)),
  height: Math.max(0.01, Math.abs(c - d)),
}))
const inside = boxes.filter(({ x, y, width, height }) => x + width <= 1 && y + height <= 1)

/** A picture of one colour, or of two beside each other. */
function picture(...colors: string[]): ShownPicture {
  const size = { width: 8, height: 4 }
  const data = new Uint8ClampedArray(8 * 4 * 4)
  for (let at = 0; at < 32; at++) {
    const { r, g, b } = parseHex(colors[Math.floor(((at % 8) * colors.length) / 8)]!)
    data.set([r, g, b, 255], at * 4)
  }
  return { data, size, region: { width: 800, height: 400 }, focal: { x: 0.5, y: 0.5 } }
}

const costOf = (pictures: readonly ShownPicture[], before: Scrim, after: Scrim) =>
  pictureCost(
    pictures.map((each) => ({ ...each, scrim: before })),
    pictures.map((each) => ({ ...each, scrim: after })),
  )

describe('scrims that are fitted to the copy', () => {
  it('have their whole strength behind all of it, and are layers that may be kept (seed 6)', () =>
    fc.assert(
      fc.property(inside, share, share, (box, across, down) => {
        for (const { layer } of localScrims(box, '#000000')) {
          expect(scrimSchema.safeParse({ layers: [layer] }).success).toBe(true)
          const x = (box.x + across * box.width) * 1280
          const y = (box.y + down * box.height) * 800
          expect(layersOver([layer], 1280, 800)(x, y).alpha).toBeGreaterThan(0.999)
        }
      }),
      { seed: 6 },
    ))
  it('have gone a fifth of the region further on', () => {
    const [spot, band] = localScrims({ x: 0.1, y: 0.4, width: 0.3, height: 0.1 }, '#000000')
    expect([spot!.kind, band!.kind]).toEqual(['spot', 'band'])
    const at = (index: 0 | 1, x: number, y: number): number =>
      layersOver([[spot!, band!][index]!.layer], 100, 100)(x, y).alpha
    expect(at(0, 90, 90)).toBe(0)
    expect(at(1, 90, 75)).toBe(0)
    expect(at(1, 90, 15)).toBe(0)
    // A band along the longer side.
    expect(at(1, 99, 45)).toBe(1)
  })
  it('are as large as the texts that are meant, on whatever screen', () => {
    const layout = (width: number, x: number): ScreenLayout => ({
      region: { width, height: 1000 },
      texts: ['Heading', 'Text'].map((label, row) => ({
        label,
        boxes: [{ x, y: 300 + 100 * row, width: 200, height: 50 }],
        color: '#ffffff',
        needed: 3,
        plate: null,
      })),
    })
    const both = [layout(1000, 100), layout(400, 100)]
    const box = textsBox(both, ({ label }) => label === 'Text')!
    expect(box.x).toBeCloseTo(0.1 - 0.02, 9)
    expect(box.width).toBeCloseTo(0.75 - 0.1 + 0.04, 9)
    expect(box.y).toBeCloseTo(0.4 - 0.02, 9)
    expect(textsBox(both, () => false)).toBeNull()
  })
})

describe('what a scrim takes from the picture', () => {
  it('is nothing where nothing changes, and more of what is stronger', () => {
    const pictures = [picture('#4060a0', '#e0c080')]
    const cost = (strength: number) => costOf(pictures, NO_SCRIM, evenScrim('#000000', strength))
    expect(cost(0)).toEqual({ deltaE: 0, changed: 0 })
    expect(cost(0.6).deltaE).toBeGreaterThan(cost(0.3).deltaE)
    expect(cost(0.6).changed).toBe(1)
    expect(costOf([], NO_SCRIM, evenScrim('#000000', 1))).toEqual({ deltaE: 0, changed: 0 })
  })
  it('is less of one that lies behind the copy only, of equal strength (seed 7)', () =>
    fc.assert(
      fc.property(
        inside.filter(({ width, height }) => width < 0.5 && height < 0.5),
        (box) => {
          const pictures = [picture('#c0a080')]
          const even = costOf(pictures, NO_SCRIM, evenScrim('#000000', 1))
          for (const { layer } of localScrims(box, '#000000')) {
            const local = costOf(pictures, NO_SCRIM, { layers: [layer] })
            expect(local.deltaE).toBeLessThan(even.deltaE)
            expect(local.changed).toBeLessThanOrEqual(even.changed)
          }
        },
      ),
      { seed: 7, numRuns: 40 },
    ))
  it('is counted in what is seen of the picture: not in what a screen cuts off', () => {
    // The left half is white, the right one black; a tall region shows the left alone.
    const half = picture('#ffffff', '#000000')
    const region = { width: 100, height: 100 }
    const darker = evenScrim('#000000', 0.5)
    const cost = (x: number) =>
      costOf([{ ...half, region, focal: { x, y: 0.5 } }], NO_SCRIM, darker)
    expect(cost(0).changed).toBe(1)
    expect(cost(1)).toEqual({ deltaE: 0, changed: 0 })
  })
})

describe('moments at which copy is read', () => {
  it.each([
    ['...x..x.', { first: 0, end: 3 }],
    ['x..x...', { first: 4, end: 7 }],
    ['xx', null],
    ['', null],
    ['..', { first: 0, end: 2 }],
    ['.x.', { first: 0, end: 1 }],
  ])('are the longest run of %s', (moments, span) =>
    expect(longestRead([...moments].map((each) => each === 'x'))).toEqual(span),
  )
})

describe('colours for copy', () => {
  it('are white, black and two tints of the picture, without the present one', () => {
    const colors = copyColors([picture('#203a80')], '#ffffff')
    expect(colors).toHaveLength(3)
    expect(colors).toContain('#000000')
    expect(colors).not.toContain('#ffffff')
    const [light, dark] = colors.slice(1).map(parseHex)
    expect(light!.b).toBeGreaterThan(light!.r)
    expect(contrastRatio(light!, dark!)).toBeGreaterThan(12)
  })
  it('of a grey picture have no tint that stands out', () => {
    const [, light] = copyColors([picture('#808080')], '#ffffff')
    const { r, g, b } = parseHex(light!)
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThanOrEqual(1)
  })
})
