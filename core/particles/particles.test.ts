import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { definitionSchema, MAX_ELEMENTS, SHAPES, type Definition } from './Definition'
import { digestOf } from './digest'
import { elementCount, elementsOf, type Element } from './elements'
import { chance, sine } from './exact'
import { linksOf, trianglesOf } from './links'
import { prepare } from './prepare'

const AREA = { width: 1280, height: 720 }

const real = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const range = (min: number, max: number) =>
  fc.tuple(real(min, max), real(min, max)).map(([one, other]) => ({
    from: Math.min(one, other),
    to: Math.max(one, other),
  }))
/** Any definition that can be read. */
const definition: fc.Arbitrary<Definition> = fc
  .record({
    seed: fc.nat(2 ** 31 - 1),
    period: real(2, 120),
    perMegapixel: real(0.5, 600),
    most: fc.integer({ min: 1, max: MAX_ELEMENTS }),
    shapes: fc.array(fc.record({ shape: fc.constantFrom(...SHAPES), weight: real(0.01, 1000) }), {
      minLength: 1,
      maxLength: 4,
    }),
    size: range(0.5, 400),
    depth: fc.record({
      planes: fc.integer({ min: 1, max: 6 }),
      size: real(0, 1),
      speed: real(0, 1),
      softness: real(0, 1),
    }),
    colours: fc.record({
      palette: fc.array(fc.record({ colour: fc.constant('#ffffff'), weight: real(0.01, 1000) }), {
        minLength: 1,
        maxLength: 12,
      }),
      by: fc.constantFrom('random', 'depth', 'age'),
    }),
    opacity: range(0, 1),
    motion: fc.record({
      direction: real(0, 360),
      spread: real(0, 360),
      speed: range(0, 2000),
      life: real(0.5, 120),
      sway: fc.option(fc.record({ distance: real(0, 500), seconds: real(0.5, 120) })),
      wander: fc.option(fc.record({ distance: real(0, 500), seconds: real(0.5, 120) })),
      spin: range(-240, 240),
      rise: real(-2000, 2000),
      swell: real(0, 1),
      twinkle: fc.option(fc.record({ amount: real(0, 1), seconds: real(0.5, 60) })),
    }),
    where: fc.option(
      fc.record({
        edge: fc.constantFrom('top', 'right', 'bottom', 'left'),
        from: real(0, 1),
        to: real(0, 1),
        soft: real(0, 1),
      }),
    ),
  })
  .map((fields) =>
    definitionSchema.parse({
      format: 'telon-particles',
      version: 1,
      name: 'Any',
      ...fields,
    }),
  )

/** What is seen of all elements at a time. */
function seenAt(of: Definition, seconds: number, area = AREA): Omit<Element, 'look'>[] {
  return elementsOf(prepare(of), area).map((element) => {
    element.look(seconds)
    const { look: _, ...seen } = element
    return seen
  })
}

const SNOW = definitionSchema.parse({
  format: 'telon-particles',
  version: 1,
  name: 'Test snow',
  seed: 7,
  period: 16,
  perMegapixel: 100,
  shapes: [{ shape: 'glow' }],
  size: { from: 3, to: 8 },
  depth: { planes: 3, size: 0.6, speed: 0.5, softness: 0.4 },
  colours: { palette: [{ colour: '#ffffff' }] },
  opacity: { from: 0.4, to: 0.9 },
  motion: {
    direction: 185,
    spread: 12,
    speed: { from: 40, to: 120 },
    sway: { distance: 24, seconds: 5 },
  },
})

describe('the arithmetic of particles', () => {
  it('has a sine that is near the true one, odd, and repeats (seed 51)', () =>
    fc.assert(
      fc.property(real(-1e6, 1e6), (turns) => {
        expect(Math.abs(sine(turns) - Math.sin(2 * Math.PI * turns))).toBeLessThan(0.0012)
      }),
      { seed: 51, numRuns: 2000 },
    ))
  it('hits zeros and extremes exactly', () =>
    expect([0, 0.25, 0.5, 0.75, 1].map(sine).map((value) => value + 0)).toEqual([0, 1, 0, -1, 0]))
  it('draws chances that fill their range evenly, whatever is counted through', () => {
    for (const draw of [
      (each: number) => chance(1, each, 3),
      (each: number) => chance(1, 5, each),
      (each: number) => chance(each, 5, 3),
    ]) {
      const cells = new Array<number>(10).fill(0)
      let along = 0
      for (let each = 0; each < 10_000; each++) {
        const value = draw(each)
        cells[Math.floor(value * 10)]! += 1
        along += (value - 0.5) * (draw(each + 1) - 0.5)
      }
      // 1000 in each cell; neighbours have nothing in common.
      expect(Math.min(...cells)).toBeGreaterThan(880)
      expect(Math.max(...cells)).toBeLessThan(1120)
      expect(Math.abs(along / 10_000)).toBeLessThan(0.004)
    }
  })
})

describe('elements', () => {
  it('are numbers, at most as many as allowed, in their area or unseen, in 1,000 definitions (seed 52)', () =>
    fc.assert(
      fc.property(definition, real(0, 500), (of, seconds) => {
        const all = seenAt(of, seconds)
        expect(all.length).toBeLessThanOrEqual(of.most)
        expect(all.length).toBe(elementCount(prepare(of), AREA))
        const wrong = all.filter(({ x, y, size, opacity, turn, colour }) => {
          const isNumber = [x, y, size, opacity, turn, colour].every(Number.isFinite)
          const isInside =
            x >= -size && x <= AREA.width + size && y >= -size && y <= AREA.height + size
          const isShade = opacity >= 0 && opacity <= 1 && of.colours.palette[colour] !== undefined
          return !isNumber || !isShade || (opacity > 0 && !isInside)
        })
        expect(wrong).toEqual([])
      }),
      { seed: 52, numRuns: 1000 },
    ))
  it('are where they were after a period, exactly, and after a day (seed 53)', () =>
    fc.assert(
      fc.property(definition, (of) => {
        expect(seenAt(of, of.period)).toEqual(seenAt(of, 0))
        const whole = { ...of, period: Math.round(of.period) }
        const day = Math.floor(86_400 / whole.period) * whole.period
        expect(seenAt(whole, day)).toEqual(seenAt(whole, 0))
      }),
      { seed: 53, numRuns: 100 },
    ))
  it('move without jumps as long as they are seen (seed 54)', () =>
    fc.assert(
      fc.property(definition, real(0, 1), (of, share) => {
        const step = 0.002
        const [before, after] = [share * of.period, share * of.period + step].map((time) =>
          seenAt(of, time),
        )
        const { sway, wander, rise } = of.motion
        // Crossing ones go a whole number of times: at most 1.7 times as fast as they should.
        const fastest =
          of.motion.speed.to * 1.8 +
          ((sway?.distance ?? 0) / Math.min(sway?.seconds ?? 1, of.period)) * 10 +
          ((wander?.distance ?? 0) / Math.min(wander?.seconds ?? 1, of.period)) * 30 +
          Math.abs(rise) * 8 +
          4000 / of.period
        before!.forEach((one, index) => {
          const other = after![index]!
          // Faint ones are about to begin elsewhere; others enter or leave at the edges.
          if (one.opacity < 0.02 || other.opacity < 0.02) return
          const away = Math.hypot(other.x - one.x, other.y - one.y)
          expect(away).toBeLessThan(fastest * step + 1)
        })
      }),
      { seed: 54, numRuns: 300 },
    ))
  it('are spread over the whole area at any time, not in clumps', () => {
    const many = { ...SNOW, perMegapixel: 1000, most: 2000 }
    for (const seconds of [0, 3.7, 11]) {
      const cells = new Array<number>(12).fill(0)
      for (const { x, y, opacity } of seenAt(many, seconds)) {
        if (opacity === 0 || x < 0 || y < 0 || x >= AREA.width || y >= AREA.height) continue
        cells[Math.floor((x / AREA.width) * 4) + 4 * Math.floor((y / AREA.height) * 3)]! += 1
      }
      const mean = cells.reduce((sum, each) => sum + each, 0) / 12
      expect(Math.min(...cells)).toBeGreaterThan(mean * 0.6)
      expect(Math.max(...cells)).toBeLessThan(mean * 1.5)
    }
  })
  it('of far planes are smaller, slower and come first', () => {
    const [before, after] = [seenAt(SNOW, 2), seenAt(SNOW, 2.05)]
    const third = Math.floor(before.length / 3)
    const mean = (values: readonly number[]): number =>
      values.reduce((sum, value) => sum + value, 0) / values.length
    const ways = before.map(({ y }, index) => Math.abs(after[index]!.y - y))
    const sizes = before.map(({ size }) => size)
    expect(mean(sizes.slice(0, third))).toBeLessThan(mean(sizes.slice(-third)) * 0.6)
    expect(mean(ways.slice(0, third))).toBeLessThan(mean(ways.slice(-third)) * 0.8)
    expect([before[0]!.soft, before.at(-1)!.soft]).toEqual([0, 0.4])
  })
  it('fall the way they are told', () => {
    const before = seenAt(SNOW, 2)
    const after = seenAt(SNOW, 2.1)
    const shown = before.flatMap((one, index) =>
      one.opacity > 0 && after[index]!.opacity > 0 ? [[one, after[index]!] as const] : [],
    )
    expect(shown.length).toBeGreaterThan(20)
    for (const [one, other] of shown) expect(other.y).toBeGreaterThan(one.y)
  })
  it('keep to a band, and fade at its ends', () => {
    const banded = { ...SNOW, where: { edge: 'bottom', from: 0, to: 0.4, soft: 0.2 } as const }
    for (const seen of seenAt(banded, 5)) {
      if (seen.y < AREA.height * 0.6) expect(seen.opacity).toBe(0)
      if (seen.opacity > 0 && seen.y > AREA.height * 0.8)
        expect(seen.opacity).toBeGreaterThanOrEqual(0.4)
    }
  })
  it('never twinkle so fast that they could flash', () => {
    const twinkling = (seconds: number): unknown => ({
      ...SNOW,
      motion: { ...SNOW.motion, twinkle: { amount: 1, seconds } },
    })
    expect(definitionSchema.safeParse(twinkling(0.3)).success).toBe(false)
    expect(definitionSchema.safeParse(twinkling(0.5)).success).toBe(true)
  })
  it('are the same to the bit as when they were first measured', () =>
    expect(digestOf(SNOW, AREA, [0, 1.25, 7.5])).toMatchInlineSnapshot(`"68af7f35"`))
})

describe('links between elements', () => {
  const points = fc.array(
    fc.record({ x: real(-20, 400), y: real(-20, 300), opacity: fc.constantFrom(0, 0.5, 1) }),
    { maxLength: 120 },
  )
  const order = fc.record({
    distance: real(4, 120),
    most: fc.integer({ min: 1, max: 6 }),
  })
  it('are between near ones that are seen, few of each, none twice (seed 55)', () =>
    fc.assert(
      fc.property(points, order, (all, how) => {
        const degrees = all.map(() => 0)
        const met = new Set<string>()
        for (const [one, other, length] of linksOf(all, how.distance, how.most)) {
          const away = Math.hypot(all[one]!.x - all[other]!.x, all[one]!.y - all[other]!.y)
          expect(away).toBeLessThan(how.distance)
          expect(length).toBeCloseTo(away / how.distance, 9)
          expect(all[one]!.opacity * all[other]!.opacity).toBeGreaterThan(0)
          expect(met.has(`${one} ${other}`)).toBe(false)
          met.add(`${one} ${other}`)
          degrees[one]! += 1
          degrees[other]! += 1
        }
        expect(Math.max(0, ...degrees)).toBeLessThanOrEqual(how.most)
      }),
      { seed: 55, numRuns: 300 },
    ))
  it('join two that are near, and leave alone two that are not', () => {
    const near = { x: 10, y: 10, opacity: 1 }
    expect(linksOf([near, { ...near, x: 40 }], 31, 1)).toEqual([[0, 1, 30 / 31]])
    expect(linksOf([near, { ...near, x: 40 }], 30, 1)).toEqual([])
  })
  it('make triangles where three are linked with each other, each once', () => {
    expect(
      trianglesOf([
        [0, 1, 0.2],
        [0, 2, 0.5],
        [1, 2, 0.3],
        [2, 3, 0.1],
      ]),
    ).toEqual([[0, 1, 0.5, 2]])
    expect(
      trianglesOf([
        [0, 1, 0.2],
        [1, 2, 0.2],
        [2, 3, 0.2],
      ]),
    ).toEqual([])
  })
  it('stay few where all crowd in one place', () => {
    const crowd = Array.from({ length: 2000 }, (_, index) => ({
      x: 50 + (index % 7) / 10,
      y: 50 + (index % 11) / 10,
      opacity: 1,
    }))
    expect(linksOf(crowd, 60, 3).length).toBeLessThanOrEqual(3000)
  })
})
