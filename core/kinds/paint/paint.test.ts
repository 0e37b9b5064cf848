import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { easeInOut } from '../easing'
import { bandingOf } from './banding'
import { widestGap } from '../../picture/gradientStops'
import { addStop, moveStop, removeStop, reversed } from './editGradient'
import { colorAt, fallbackStops } from './gradientColors'
import { gradientGeometry } from './gradientGeometry'
import {
  createPaint,
  MAX_STOPS,
  newGradient,
  paintSchema,
  type Gradient,
  type Paint,
  type PaintMotion,
} from './Paint'
import { motionSteps } from './motionSteps'
import { paintTransform, placeAtRest } from './paintMotion'
import { paintPixels } from './paintPixels'
import { parsePaint } from './parsePaint'

const hex = fc
  .integer({ min: 0, max: 0xffffff })
  .map((value) => `#${value.toString(16).padStart(6, '0')}`)
const gradient: fc.Arbitrary<Gradient> = fc.record({
  shape: fc.constantFrom('linear', 'radial', 'conic'),
  angleDeg: fc.integer({ min: 0, max: 360 }),
  centre: fc.record({
    x: fc.double({ min: 0, max: 1, noNaN: true }),
    y: fc.double({ min: 0, max: 1, noNaN: true }),
  }),
  radius: fc.double({ min: 0.1, max: 2, noNaN: true }),
  space: fc.constantFrom('oklab', 'srgb'),
  opacity: fc.double({ min: 0, max: 1, noNaN: true }),
  stops: fc
    .array(fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), color: hex }), {
      minLength: 2,
      maxLength: MAX_STOPS,
    })
    .map((stops) => stops.toSorted((a, b) => a.at - b.at)),
})
const paintOf = (...gradients: Gradient[]): Paint => ({
  ...createPaint(),
  dither: false,
  gradients,
})

describe('a gradient in words', () => {
  it.each([
    ['#1b2350', 0, '#1b2350'],
    ['linear 120deg #1b2350 #b5563c', 1, '#1b2350'],
    ['  radial   #000000 #ffffff ', 1, '#000000'],
  ])('reads %s', (words, gradients, color) => {
    const parsed = parsePaint(words)
    expect(parsed.ok && [parsed.value.gradients.length, parsed.value.color]).toEqual([
      gradients,
      color,
    ])
    expect(paintSchema.safeParse(parsed.ok && parsed.value).success).toBe(true)
  })
  it('spreads colours without a place evenly between those that have one', () => {
    const parsed = parsePaint('-60deg #000000 #111111 #222222 80% #333333')
    expect(parsed.ok && parsed.value.gradients[0]).toMatchObject({
      angleDeg: 300,
      stops: [{ at: 0 }, { at: 0.4 }, { at: 0.8 }, { at: 1 }],
    })
  })
  it.each(['', 'blue', '#12345', '20% #123456', 'linear 12deg', `${'#123456 '.repeat(9)}`])(
    'says what is wrong with "%s"',
    (words) => {
      const parsed = parsePaint(words)
      expect(parsed.ok ? '' : parsed.error).toMatch(/^["A-Z].*\.$/)
    },
  )
  it('gives a valid paint or a sentence for anything that is typed (seed 5)', () => {
    const word = fc.oneof(
      hex,
      fc.constantFrom('linear', 'conic', '40%', '500%', '7deg', '-9deg'),
      fc.string(),
    )
    fc.assert(
      fc.property(fc.array(word, { maxLength: 12 }), (words) => {
        const parsed = parsePaint(words.join(' '))
        expect(parsed.ok ? paintSchema.safeParse(parsed.value).success : parsed.error !== '').toBe(
          true,
        )
      }),
      { seed: 5 },
    )
  })
})

describe('stops', () => {
  it('stay valid and in order through every change (seed 7)', () => {
    fc.assert(
      fc.property(
        gradient,
        fc.nat(9),
        fc.double({ min: -1, max: 2, noNaN: true }),
        (each, n, at) => {
          const index = n % each.stops.length
          for (const next of [
            moveStop(each, index, at),
            addStop(each, Math.min(1, Math.max(0, at))),
            removeStop(each, index),
            reversed(each),
          ])
            expect(paintSchema.safeParse(paintOf(next)).error?.issues).toBeUndefined()
        },
      ),
      { seed: 7 },
    )
  })
  it('that are added have the colour that was there', () => {
    const plain = newGradient('#000000', '#ffffff')
    const more = addStop({ ...plain, space: 'srgb' }, 0.25)
    expect(more.stops[1]).toEqual({ at: 0.25, color: '#404040' })
    expect(colorAt(more, 0.6).r).toBeCloseTo(colorAt({ ...plain, space: 'srgb' }, 0.6).r, 0)
  })
  it('are put into the widest gap', () =>
    expect(widestGap([{ at: 0 }, { at: 0.3 }, { at: 1 }])).toBe(0.65))
  it('are never fewer than two, nor more than eight', () => {
    let each = newGradient('#102030', '#405060')
    expect(removeStop(each, 0)).toBe(each)
    for (let more = 0; more < 12; more++) each = addStop(each, widestGap(each.stops))
    expect(each.stops).toHaveLength(MAX_STOPS)
  })
})

describe('colours between stops', () => {
  it('in OKLab keep a neutral way from blue to yellow lighter than in sRGB', () => {
    const way = { stops: newGradient('#0000ff', '#ffff00').stops }
    const light = ({ r, g, b }: { r: number; g: number; b: number }): number => r + g + b
    expect(light(colorAt({ ...way, space: 'oklab' }, 0.5))).toBeGreaterThan(
      light(colorAt({ ...way, space: 'srgb' }, 0.5)),
    )
  })
  /** The largest difference of a channel where browsers mix in sRGB only, along the way. */
  const fallbackDifference = (from: string, to: string): number => {
    const own = newGradient(from, to)
    const fallback = { stops: fallbackStops(own), space: 'srgb' } as const
    return Math.max(
      ...Array.from({ length: 201 }, (_, step) => {
        const [shown, wanted] = [colorAt(fallback, step / 200), colorAt(own, step / 200)]
        return Math.max(
          Math.abs(shown.r - wanted.r),
          Math.abs(shown.g - wanted.g),
          Math.abs(shown.b - wanted.b),
        )
      }),
    )
  }
  it('are within 9 of 255 for browsers that mix in sRGB only (seed 9)', () =>
    fc.assert(
      fc.property(hex, hex, (from, to) => {
        expect(fallbackDifference(from, to)).toBeLessThan(9)
      }),
      { seed: 9 },
    ))
  it('are within 3 there, in few stops, where no channel leaves sRGB', () => {
    for (const [from, to] of [
      ['#1b2350', '#b5563c'],
      ['#0b1026', '#f2c9a0'],
    ] as const) {
      expect(fallbackDifference(from, to)).toBeLessThanOrEqual(3.5)
      expect(fallbackStops(newGradient(from, to)).length).toBeLessThan(6)
    }
  })
})

describe('pixels', () => {
  it('are the colour alone where there is no gradient', () => {
    const data = paintPixels({ ...createPaint(), color: '#123456', gradients: [] }, 3, 2)
    expect([...data.subarray(20)]).toEqual([0x12, 0x34, 0x56, 255])
  })
  it('run along the angle, corner to corner', () => {
    const across = paintPixels(
      paintOf({ ...newGradient('#000000', '#ffffff'), angleDeg: 90, space: 'srgb' }),
      100,
      10,
    )
    expect([across[0], across[99 * 4]]).toEqual([1, 254])
    const up = paintPixels(
      paintOf({ ...newGradient('#000000', '#ffffff'), angleDeg: 0, space: 'srgb' }),
      10,
      100,
    )
    expect([up[0], up[99 * 40]]).toEqual([254, 1])
  })
  it.each([
    ['multiply', 64],
    ['screen', 191],
    ['overlay', 128],
    ['normal', 128],
    ['lighten', 128],
  ] as const)('of a second gradient are blended: %s', (blend, value) => {
    const even = newGradient('#808080', '#808080')
    const [shown] = paintPixels({ ...paintOf(even, even), blend }, 1, 1)
    expect(Math.abs(shown! - value)).toBeLessThanOrEqual(1)
  })
})

describe('motion', () => {
  const moving = fc.record({
    moves: fc.constantFrom('angle', 'centre', 'stops'),
    amount: fc.double({ min: 0.05, max: 1, noNaN: true }),
    seconds: fc.constant(20),
  })
  it('never shows an edge of its element, in regions up to three times as wide (seed 3)', () => {
    const side = fc.double({ min: 0, max: 1, noNaN: true })
    fc.assert(
      fc.property(
        gradient,
        moving,
        side,
        side,
        side,
        fc.double({ min: 1 / 3, max: 3, noNaN: true }),
        (each, motion, x, y, progress, aspect) => {
          const transform = paintTransform({ ...paintOf(each), motion })
          const [width, height] = [300 * aspect, 300]
          const at = placeAtRest(transform, progress, x * width, y * height, width, height)
          const beyond = (transform.oversize - 1) / 2 + 1e-6
          expect(at.x).toBeGreaterThanOrEqual(-beyond * width)
          expect(at.x).toBeLessThanOrEqual((1 + beyond) * width)
          expect(at.y).toBeGreaterThanOrEqual(-beyond * height)
          expect(at.y).toBeLessThanOrEqual((1 + beyond) * height)
        },
      ),
      { seed: 3 },
    )
  })
  it('begins with the paint as it stands', () => {
    const still = paintOf(newGradient('#102030', '#d0a080'))
    const motion = { moves: 'angle', amount: 1, seconds: 20 } as const
    expect(paintPixels({ ...still, motion }, 40, 20, 0)).toEqual(paintPixels(still, 40, 20))
    expect(paintPixels({ ...still, motion }, 40, 20, 1)).not.toEqual(paintPixels(still, 40, 20))
  })
  it('takes more steps the more colours change in a second, between 8 and 30', () => {
    const motion: PaintMotion = { moves: 'angle', amount: 0.5, seconds: 24 }
    const steps = (from: string, to: string, more: Partial<PaintMotion> = {}) =>
      motionSteps({ ...paintOf(newGradient(from, to)), motion: { ...motion, ...more } })
    expect(steps('#202020', '#282828')).toBe(8)
    const quick = { amount: 1, seconds: 8 }
    expect(steps('#1b2350', '#b5563c', quick)).toBeGreaterThan(8)
    expect(steps('#000000', '#ffffff', quick)).toBeGreaterThan(steps('#1b2350', '#b5563c', quick))
    const hard = newGradient('#000000', '#ffffff')
    const edge = {
      ...hard,
      stops: [
        { at: 0.5, color: '#000000' },
        { at: 0.5, color: '#ffffff' },
      ],
    }
    expect(motionSteps({ ...paintOf(edge), motion })).toBe(30)
    expect(motionSteps({ ...paintOf({ ...hard, shape: 'conic' }), motion })).toBe(30)
  })
  it('changes no colour by more than a level between two steps, where 30 are enough', () => {
    const paint: Paint = {
      ...paintOf(newGradient('#1b2350', '#b5563c')),
      motion: { moves: 'centre', amount: 1, seconds: 8 },
    }
    const steps = motionSteps(paint)
    expect(steps).toBeGreaterThan(8)
    expect(steps).toBeLessThan(30)
    const [half, by] = [0.5, 1 / (steps * 4)]
    const [one, other] = [half, half + by].map((time) =>
      paintPixels(paint, 192, 108, easeInOut(time)),
    )
    expect(Math.max(...one!.map((value, at) => Math.abs(value - other![at]!)))).toBeLessThan(3)
  })
  it('eases in and out', () => {
    expect(
      [easeInOut(0), easeInOut(0.5), easeInOut(1)].map((each) => Math.round(each * 1000)),
    ).toEqual([0, 500, 1000])
    expect(easeInOut(0.25)).toBeCloseTo(0.129, 2)
  })
})

describe('banding', () => {
  it('is found in a dark gradient over a whole screen, and hidden by dither', () => {
    const dark = paintOf({ ...newGradient('#0a0a0f', '#1c1c22'), angleDeg: 90 })
    const { isVisible, px, step } = bandingOf(dark)
    expect([isVisible, px >= 12, step > 0.33]).toEqual([true, true, true])
    expect(bandingOf({ ...dark, dither: true }).isVisible).toBe(false)
  })
  it('counts the colours of both ends of a slanted gradient', () => {
    // Only the corners have them: the way through the middle leaves the window before.
    const across = newGradient('#101014', '#101014')
    const ends = [0, 0.08].map((at, index) => ({ at, color: index ? '#101014' : '#0a0a0e' }))
    const slanted = paintOf({ ...across, angleDeg: 45, stops: ends })
    expect(bandingOf(slanted).step).toBeGreaterThan(0.2)
  })
  it('is not found where colours change quickly, or not at all', () => {
    expect(bandingOf(paintOf(newGradient('#000000', '#ffffff'))).isVisible).toBe(false)
    expect(bandingOf(paintOf(newGradient('#333333', '#333333'))).step).toBe(0)
    expect(bandingOf({ ...createPaint(), gradients: [] })).toEqual({
      step: 0,
      px: 0,
      isVisible: false,
    })
  })
})

describe('handles on the stage', () => {
  it('lead back to where they stand (seed 13)', () => {
    fc.assert(
      fc.property(gradient, fc.double({ min: 0.02, max: 0.98, noNaN: true }), (each, at) => {
        const geometry = gradientGeometry(each, 640, 360)
        expect(geometry.alongTo(geometry.placeOf(at))).toBeCloseTo(at, 1)
        const { x, y } = geometry.handleOf(at)
        if (each.shape === 'linear') {
          expect(geometry.alongTo({ x, y })).toBeCloseTo(at, 1)
          expect(x >= 0 && x <= 640 && y >= 0 && y <= 360).toBe(true)
        }
        if (each.shape === 'conic')
          expect(geometry.angleTo(geometry.angleHandle) % 360).toBe(each.angleDeg % 360)
      }),
      { seed: 13 },
    )
  })
})
