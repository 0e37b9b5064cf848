import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { BlendMode } from '../picture/blend'
import {
  frameContrast,
  partBehind,
  worstPlace,
  type Box,
  type RegionPixels,
} from '../scrim/frameContrast'
import { evenLayer, NO_SCRIM } from '../scrim/Scrim'
import { contrastMoments } from './contrastMoments'
import { surroundings, type TextPlace } from './TextPlace'
import { worstAt, worstMoments, worstOfAll, type ContrastRow } from './worstOf'

const WHITE = { r: 255, g: 255, b: 255 }
/** A box that may lie outside. */
const BOX = fc.record({
  x: fc.integer({ min: -20, max: 130 }),
  y: fc.integer({ min: -20, max: 90 }),
  width: fc.integer({ min: 1, max: 140 }),
  height: fc.integer({ min: 1, max: 100 }),
})
/** A dark region with a bright square. */
function region(bright: { x: number; y: number; side: number }): RegionPixels {
  const [width, height] = [120, 80]
  const data = new Uint8ClampedArray(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const isIn =
        x >= bright.x && x < bright.x + bright.side && y >= bright.y && y < bright.y + bright.side
      data.set(isIn ? [240, 240, 240, 255] : [20, 20, 30, 255], (y * width + x) * 4)
    }
  return { data, width, height }
}

/** What of a region lies in a part of it. */
function cutOut(pixels: RegionPixels, part: Box): RegionPixels {
  const data = new Uint8ClampedArray(part.width * part.height * 4)
  for (let row = 0; row < part.height; row++) {
    const from = ((part.y + row) * pixels.width + part.x) * 4
    data.set(pixels.data.subarray(from, from + part.width * 4), row * part.width * 4)
  }
  return { ...pixels, data, part }
}

describe('the worst place behind a text', () => {
  it('is where the picture is brightest, for bright copy', () => {
    const pixels = region({ x: 40, y: 24, side: 24 })
    const worst = worstPlace(pixels, NO_SCRIM, [{ x: 0, y: 0, width: 120, height: 80 }], WHITE)!
    expect(worst.x).toBeGreaterThan(40)
    expect(worst.x).toBeLessThan(64)
    expect(worst.y).toBeGreaterThan(24)
    expect(worst.y).toBeLessThan(48)
    expect(worst.ratio).toBeLessThan(1.3)
  })
  it('is found in any of its boxes, and nowhere else', () => {
    const pixels = region({ x: 96, y: 56, side: 20 })
    const [dark, bright] = [
      { x: 4, y: 4, width: 40, height: 20 },
      { x: 96, y: 56, width: 20, height: 20 },
    ]
    expect(worstPlace(pixels, NO_SCRIM, [dark], WHITE)!.ratio).toBeGreaterThan(12)
    expect(worstPlace(pixels, NO_SCRIM, [dark, bright], WHITE)!.ratio).toBeLessThan(1.3)
    expect(worstPlace(pixels, NO_SCRIM, [], WHITE)).toBeNull()
    expect(worstPlace(pixels, NO_SCRIM, [{ ...dark, x: 400 }], WHITE)).toBeNull()
  })
  it.each(['normal', 'multiply', 'hue'] as const)(
    'is the same where only what lies behind the text is kept: %s',
    (blend) =>
      fc.assert(
        fc.property(fc.array(BOX, { minLength: 1, maxLength: 3 }), (boxes) => {
          const pixels = region({ x: 40, y: 24, side: 24 })
          const scrim = { layers: [{ ...evenLayer('#803010', 0.4), blend: blend as BlendMode }] }
          const whole = worstPlace(pixels, scrim, boxes, WHITE)
          const part = partBehind(pixels, boxes)
          const kept = part && worstPlace(cutOut(pixels, part), scrim, boxes, WHITE)
          expect(kept).toEqual(whole)
        }),
      ),
  )
  it('is the figure that the stage tells', () =>
    fc.assert(
      fc.property(BOX, (box) => {
        const pixels = region({ x: 40, y: 24, side: 24 })
        expect(worstPlace(pixels, NO_SCRIM, [box], WHITE)?.ratio ?? null).toBe(
          frameContrast(pixels, NO_SCRIM, box, WHITE),
        )
      }),
    ))
})

describe('what is around a control', () => {
  it('is a frame that its box is no part of', () => {
    const box = { x: 20, y: 30, width: 50, height: 16 }
    const around = surroundings(box, 8)
    const area = around.reduce((sum, { width, height }) => sum + width * height, 0)
    expect(area).toBe((50 + 16) * (16 + 16) - 50 * 16)
    for (const { x, y, width, height } of around) {
      const beside = x + width <= 20 || x >= 70 || y + height <= 30 || y >= 46
      expect(beside).toBe(true)
    }
  })
})

describe('the moments that are looked at', () => {
  const RATE = { num: 30, den: 1 }
  it('are all frames of what moves', () => {
    const moments = contrastMoments({ frames: 90, frameRate: RATE }, null)
    expect(moments).toHaveLength(90)
    expect(moments[45]).toEqual({ frame: 45, seconds: 1.5 })
  })
  it('are the pictures of a period where only particles move, not more than help', () => {
    const still = { frames: 1, frameRate: { num: 1, den: 1 } }
    const some = contrastMoments(still, { period: 4, frameRate: 30 })
    expect(some).toHaveLength(120)
    expect(some.every(({ frame, seconds }) => frame === 0 && seconds < 4)).toBe(true)
    expect(contrastMoments(still, { period: 120, frameRate: 60 })).toHaveLength(240)
    expect(contrastMoments(still, null)).toEqual([{ frame: 0, seconds: 0 }])
  })
})

describe('the worst moments', () => {
  const text = (label: string, needed: number): TextPlace => ({
    label,
    needed,
    boxes: [],
    color: '#ffffff',
    plate: null,
  })
  const texts = [text('Heading', 3), text('Text', 4.5), text('Button', 3)]
  const row = (seconds: number, ...ratios: (number | null)[]): ContrastRow => ({
    seconds,
    places: ratios.map((ratio) => (ratio === null ? null : { ratio, x: seconds, y: 2 })),
  })
  const rows = [row(0, 8, 9, null), row(1, 3.1, 5, null), row(2, 6, 4.6, null)]
  it('are told for each text that has something behind it', () => {
    const worst = worstMoments('phone', texts, rows)
    expect(worst.map(({ text: { label }, seconds }) => [label, seconds])).toEqual([
      ['Heading', 1],
      ['Text', 2],
    ])
    expect(worst[0]).toMatchObject({ ratio: 3.1, x: 1, y: 2 })
  })
  it('have the one at their head that is farthest from enough, not the lowest', () => {
    const worst = worstMoments('phone', texts, rows)
    expect(worstOfAll(worst)!.text.label).toBe('Text')
    expect(worstOfAll([])).toBeNull()
  })
  it('are asked for one time, too', () => {
    expect(worstAt('wide', texts, rows[1]!)).toMatchObject({
      screen: 'wide',
      seconds: 1,
      text: { label: 'Heading' },
    })
    expect(worstAt('wide', texts, { seconds: 0, places: [null, null, null] })).toBeNull()
  })
})
