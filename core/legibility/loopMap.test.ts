import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { convertRgbaToI420 } from '../picture/convertRgbaToI420'
import { parseHex } from '../picture/srgb'
import { PERCENTILE } from '../scrim/frameContrast'
import { BLEND_MODES } from '../picture/blend'
import { evenLayer, evenScrim } from '../scrim/Scrim'
import { planTrace, TraceWriter, type ContrastTrace } from './ContrastTrace'
import { copyAreas } from './copyAreas'
import { CopyMeter, copySamples, type ScreenView } from './CopySamples'
import { failingBoxes } from './failingBoxes'
import { leastInBoxes, loopMap } from './loopMap'
import type { TextPlace } from './TextPlace'

const SIZE = { width: 320, height: 180 }
const SCRIM = evenScrim('#000000', 0.2)
const WHITE = parseHex('#ffffff')

/** A bright square that is there in one of four frames only. */
function clip(left: number, top: number, texts: readonly TextPlace[] = []): ContrastTrace {
  const writer = new TraceWriter(planTrace(SIZE, 4, 1, copyAreas(viewOf(texts))))
  for (let frame = 0; frame < 4; frame++) {
    const data = new Uint8ClampedArray(SIZE.width * SIZE.height * 4)
    for (let y = 0; y < SIZE.height; y++)
      for (let x = 0; x < SIZE.width; x++) {
        const isBright = frame === 2 && x >= left && x < left + 60 && y >= top && y < top + 60
        data.set(isBright ? [230, 230, 230, 255] : [20, 24, 30, 255], (y * SIZE.width + x) * 4)
      }
    writer.add(convertRgbaToI420(data, SIZE.width, SIZE.height), {
      matrix: 'bt709',
      fullRange: false,
    })
  }
  return writer.finish()
}
const viewOf = (texts: readonly TextPlace[]): ScreenView => ({
  picture: SIZE,
  region: { width: 390, height: 844 },
  focal: { x: 0.5, y: 0.5 },
  texts,
})

describe('the map of the whole loop', () => {
  it('covers the region, and nothing beside it', () => {
    const map = loopMap(clip(0, 0), viewOf([]), SCRIM, WHITE)
    const area = map.reduce((sum, { width, height }) => sum + width * height, 0)
    expect(area).toBeCloseTo(390 * 844, -1)
    for (const { x, y, width, height } of map) {
      expect(Math.min(x, y)).toBeGreaterThanOrEqual(0)
      expect(x + width).toBeLessThan(390.01)
      expect(y + height).toBeLessThan(844.01)
    }
  })
  it('follows blended layers: none makes it better than copy has it', () => {
    for (const blend of BLEND_MODES) {
      const scrim = { layers: [{ ...evenLayer('#a06030', 0.6), blend }] }
      const place: TextPlace = {
        label: 'Heading',
        boxes: [{ x: 60, y: 300, width: 260, height: 200 }],
        color: '#ffffff',
        needed: 3,
        plate: null,
      }
      const trace = clip(130, 60, [place])
      const map = loopMap(trace, viewOf([place]), scrim, WHITE)
      const samples = copySamples(trace, viewOf([place]), scrim, place)!
      const found = new CopyMeter(trace).measure(samples, 2)!.ratio
      expect(leastInBoxes(map, place.boxes, PERCENTILE)!).toBeLessThanOrEqual(found + 0.01)
    }
  })
  it('shows what is bright at any time', () => {
    // In the middle of the picture, which a phone shows the middle of.
    const map = loopMap(clip(130, 60), viewOf([]), SCRIM, WHITE)
    const at = (x: number, y: number): number =>
      map.find(
        (cell) => x >= cell.x && x < cell.x + cell.width && y >= cell.y && y < cell.y + cell.height,
      )!.ratio
    expect(at(195, 422)).toBeLessThan(2)
    expect(at(195, 40)).toBeGreaterThan(12)
  })
  it('never tells more than a text has in any frame', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 80, max: 200 }),
        fc.integer({ min: 0, max: 120 }),
        fc.record({
          x: fc.integer({ min: 0, max: 300 }),
          y: fc.integer({ min: 0, max: 700 }),
          width: fc.integer({ min: 60, max: 390 }),
          height: fc.integer({ min: 40, max: 300 }),
        }),
        (left, top, box) => {
          const text: TextPlace = {
            label: 'Text',
            boxes: [box],
            color: '#ffffff',
            needed: 4.5,
            plate: null,
          }
          const trace = clip(left, top, [text])
          const view = viewOf([text])
          const least = leastInBoxes(loopMap(trace, view, SCRIM, WHITE), [box], 0)!
          const samples = copySamples(trace, view, SCRIM, text)!
          const meter = new CopyMeter(trace)
          for (let frame = 0; frame < 4; frame++)
            expect(meter.measure(samples, frame)!.ratio).toBeGreaterThan(least - 0.01)
        },
      ),
      { numRuns: 20 },
    ))
  it('counts a small part of a text as the measure does: by the 5th percentile', () => {
    const cells = [
      { x: 0, y: 0, width: 4, height: 100, ratio: 1.2 },
      { x: 4, y: 0, width: 96, height: 100, ratio: 8 },
    ]
    const box = { x: 0, y: 0, width: 100, height: 100 }
    expect(leastInBoxes(cells, [box], PERCENTILE)).toBe(8)
    expect(leastInBoxes(cells, [{ ...box, width: 50 }], PERCENTILE)).toBe(1.2)
    expect(leastInBoxes(cells, [{ ...box, x: 500 }], PERCENTILE)).toBeNull()
  })
})

describe('where copy fails in a frame', () => {
  const data = new Uint8ClampedArray(40 * 20 * 4).fill(255)
  for (let y = 0; y < 20; y++)
    for (let x = 0; x < 20; x++) data.set([10, 10, 10, 255], (y * 40 + x) * 4)
  const pixels = { data, width: 40, height: 20 }
  it('is told in runs of cells', () => {
    expect(failingBoxes(pixels, SCRIM, WHITE, 4.5)).toEqual(
      Array.from({ length: 5 }, (_, row) => ({ x: 20, y: row * 4, width: 20, height: 4 })),
    )
    expect(failingBoxes(pixels, evenScrim('#000000', 1), WHITE, 4.5)).toEqual([])
    const dark = failingBoxes(pixels, SCRIM, parseHex('#101010'), 4.5)
    expect(dark.every(({ x, width }) => x === 0 && width === 20)).toBe(true)
    expect(dark).toHaveLength(5)
  })
  it('ends at the edge of sizes that are no whole cells', () => {
    const boxes = failingBoxes({ ...pixels, data: data.fill(255) }, SCRIM, WHITE, 4.5, {
      cellPx: 7,
    })
    expect(boxes.map(({ x, y, width, height }) => [x, y, width, height])).toEqual([
      [0, 0, 40, 7],
      [0, 7, 40, 7],
      [0, 14, 40, 6],
    ])
  })
})
