import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ContainerError } from '../bytes/ContainerError'
import type { Oklab } from '../picture/convertSrgbToOklab'
import { seededNumbers } from '../testing/samples'
import { chooseOverlap } from './chooseOverlap'
import { comparedFrames } from './comparedFrames'
import { findLoops, isSameLoop, refineLoop, type LoopRange } from './findLoops'
import {
  decodeTrace,
  encodeTrace,
  TRACE_CELLS,
  TraceBuilder,
  traceDistance,
  traceStep,
  traceVelocityDistance,
  type FrameTrace,
} from './FrameTrace'
import { loopRepeats } from './loopRepeats'
import { pickPosters, type PosterCandidate } from './pickPosters'
import { SeamMeter } from './SeamMeter'

/** A flat grey picture, 0 to 1. */
const grey = (lightness: number): Oklab[] =>
  Array.from({ length: TRACE_CELLS }, () => ({ lightness, a: 0, b: 0 }))
/** A picture whose left part is light, so far as `share` says. */
const filled = (share: number): Oklab[] =>
  Array.from({ length: TRACE_CELLS }, (_, cell) => ({
    lightness: (cell % 32) / 32 < share ? 0.8 : 0.2,
    a: 0.05,
    b: -0.05,
  }))

function traceOf(seconds: number, picture: (t: number) => Oklab[]): FrameTrace {
  const builder = new TraceBuilder(seconds)
  for (let t = 0; t < seconds - 1e-9; t += 1 / 25) if (builder.wants(t)) builder.add(t, picture(t))
  return builder.finish()
}
const whole = (seconds: number, min = 4, max = 12): LoopRange => ({
  from: 0,
  to: seconds,
  min,
  max,
})

describe('a trace', () => {
  it('keeps about ten moments a second, and fewer of very long clips', () => {
    const { seconds } = traceOf(4, () => grey(0.5))
    expect(seconds.length).toBeGreaterThan(30)
    expect(seconds.length).toBeLessThanOrEqual(40)
    expect(traceStep(3600)).toBeGreaterThan(0.3)
  })
  it('keeps every frame of a clip that has ten a second', () => {
    const builder = new TraceBuilder(2)
    for (let index = 0; index < 20; index++)
      if (builder.wants(index / 10)) builder.add(index / 10, grey(0.5))
    expect(builder.finish().seconds).toHaveLength(20)
  })
  it('measures distances as the pictures themselves have them, to a byte', () => {
    const trace = traceOf(0.5, (t) => (t < 0.2 ? grey(0.2) : grey(0.7)))
    expect(traceDistance(trace, 0, trace.seconds.length - 1)).toBeCloseTo(50, 0)
    expect(traceDistance(trace, 0, 0)).toBe(0)
  })
  it('tells moments that look alike but move on differently', () => {
    const swing = traceOf(4, (t) => filled(0.5 + 0.4 * Math.sin(t * Math.PI)))
    const at = (t: number): number => swing.seconds.findIndex((each) => each >= t - 0.02)
    expect(traceVelocityDistance(swing, at(0.25), at(2.25))).toBeLessThan(
      traceVelocityDistance(swing, at(0.25), at(0.75)),
    )
  })
  it('comes back from its bytes', () => {
    const trace = traceOf(1, (t) => filled(t))
    const read = decodeTrace(encodeTrace(trace))
    expect(read.cells).toEqual(trace.cells)
    read.seconds.forEach((each, index) => expect(each).toBeCloseTo(trace.seconds[index]!, 3))
  })
  it('refuses bytes that are none, are cut short, or claim more than they hold', () => {
    const bytes = encodeTrace(traceOf(0.3, () => grey(0.5)))
    for (const broken of [
      new Uint8Array(0),
      bytes.subarray(0, 5),
      bytes.subarray(0, bytes.byteLength - 1),
      Uint8Array.from([...bytes, 0]),
    ])
      expect(() => decodeTrace(broken)).toThrow(ContainerError)
    const huge = bytes.slice()
    huge.set([0xff, 0xff, 0xff, 0xff], 8)
    expect(() => decodeTrace(huge)).toThrow(expect.objectContaining({ code: 'media/bad-size' }))
    const other = bytes.slice()
    other[5] = 64
    expect(() => decodeTrace(other)).toThrow(expect.objectContaining({ code: 'media/bad-value' }))
  })
  it('never reads out of bounds, whatever the bytes (seed 5)', () => {
    const bytes = encodeTrace(traceOf(0.2, () => grey(0.5)))
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(11), fc.nat(255)), { maxLength: 6 }),
        fc.nat(bytes.byteLength),
        (changes, length) => {
          const mutant = bytes.slice(0, length)
          for (const [at, value] of changes) if (at < mutant.length) mutant[at] = value
          try {
            expect(decodeTrace(mutant).cells.byteLength).toBe(
              mutant.byteLength - 12 - 4 * decodeTrace(mutant).seconds.length,
            )
          } catch (error) {
            expect(error).toBeInstanceOf(ContainerError)
          }
        },
      ),
      { seed: 5 },
    )
  })
})

describe('the search for loops', () => {
  /**
   * Something that comes round every 5 seconds, with a drift so small that nearer turns join
   * better.
   */
  const turning = traceOf(30, (t) =>
    filled(0.5 + 0.35 * Math.sin((t / 5) * 2 * Math.PI) + t * 0.0005),
  )
  it('finds the period of what comes round, best first', () => {
    const loops = findLoops(turning, whole(30), 6)
    expect(loops.length).toBeGreaterThan(2)
    for (const loop of loops.slice(0, 3))
      expect(
        Math.abs(loop.end - loop.start - 5 * Math.round((loop.end - loop.start) / 5)),
      ).toBeLessThanOrEqual(0.121)
    loops
      .slice(1)
      .forEach((loop, index) => expect(loop.cost).toBeGreaterThanOrEqual(loops[index]!.cost))
  })
  it('offers no loop twice', () => {
    const loops = findLoops(turning, whole(30), 8)
    loops.forEach((one, index) =>
      loops.slice(index + 1).forEach((other) => expect(isSameLoop(one, other)).toBe(false)),
    )
  })
  it('prefers moments that move on alike over moments that only look alike', () => {
    const [best] = findLoops(turning, whole(30, 2, 12), 6)
    // Half way round the picture is the same, but goes the other way.
    expect(Math.abs(best!.end - best!.start - 2.5)).toBeGreaterThan(0.5)
  })
  it('keeps to lengths and region', () => {
    for (const loop of findLoops(turning, { from: 8, to: 21, min: 4.5, max: 7 }, 8)) {
      expect(loop.start).toBeGreaterThanOrEqual(8)
      expect(loop.end).toBeLessThanOrEqual(21)
      expect(loop.end - loop.start).toBeGreaterThanOrEqual(4.499)
      expect(loop.end - loop.start).toBeLessThanOrEqual(7.001)
    }
  })
  it.each([
    ['a region that is too short', { from: 3, to: 5, min: 4, max: 12 }],
    ['lengths beyond the clip', whole(30, 40, 60)],
  ])('finds nothing in %s', (_, range) => expect(findLoops(turning, range, 5)).toEqual([]))
  it('finds nothing in a clip of one frame or none', () => {
    expect(
      findLoops({ seconds: new Float64Array(0), cells: new Uint8Array(0) }, whole(10), 5),
    ).toEqual([])
    expect(
      findLoops(
        traceOf(0.04, () => grey(1)),
        whole(10),
        5,
      ),
    ).toEqual([])
  })
  it('finds what comparing all pairs by hand finds (seed 12)', () => {
    const random = seededNumbers(12)
    const noise = traceOf(9, () => grey(random()))
    const range = whole(9, 3, 6)
    let min = Infinity
    for (let i = 0; i + 1 < noise.seconds.length; i++) {
      for (let j = i + 1; j + 1 < noise.seconds.length; j++) {
        const length = noise.seconds[j]! - noise.seconds[i]!
        if (length >= range.min - 1e-6 && length <= range.max + 1e-6)
          min = Math.min(min, traceDistance(noise, i, j) + traceVelocityDistance(noise, i, j))
      }
    }
    expect(findLoops(noise, range, 4)[0]!.cost).toBeCloseTo(min, 9)
  })
  it('tells how far it is, and stops when told', () => {
    const told: number[] = []
    findLoops(turning, whole(30), 4, (done) => told.push(done))
    expect(told.at(-1)).toBe(1)
    expect([...told].sort((a, b) => a - b)).toEqual(told)
    expect(() =>
      findLoops(turning, whole(30), 4, () => {
        throw new RangeError('stop')
      }),
    ).toThrow('stop')
  })
})

describe('the close look', () => {
  const run = (from: number, values: number[]) =>
    values.map((description, index) => ({ seconds: from + index / 25, description }))
  const distance = (one: number, other: number): number => Math.abs(one - other)
  it('moves both ends to the frames that join, neighbours included', () => {
    const best = refineLoop(run(1, [0, 1, 2, 3, 4, 5]), run(6, [9, 8, 2, 3, 4, 7]), distance, {
      min: 4,
      max: 6,
    })
    expect(best).toEqual({ start: 1.12, end: 6.12, jump: 0 })
  })
  it('does not fall for a single frame that looks alike', () => {
    const best = refineLoop(run(0, [5, 6, 7, 8, 9]), run(5, [90, 7, 50, 5.5, 6.5, 7.5]), distance, {
      min: 4,
      max: 6,
    })
    expect(best!.jump).toBeGreaterThan(0)
    expect(best!.end).toBeCloseTo(5.16, 9)
  })
  it('gives nothing where no pair keeps to the lengths', () =>
    expect(
      refineLoop(run(0, [1, 2, 3]), run(9, [1, 2, 3]), distance, { min: 1, max: 2 }),
    ).toBeNull())
})

describe('the length of a blend', () => {
  const steps = (length: number, at: Record<number, number> = {}): number[] =>
    Array.from({ length }, (_, index) => at[index] ?? 1)
  it.each([
    ['no jump', 0.5, 24, 0.292],
    ['a jump of eight steps', 8, 24, 0.5],
    ['a jump that would need more than two seconds', 90, 24, 2],
    ['nothing that moves', null, 24, 0.292],
    ['the same at a higher rate', 8, 60, 0.3],
  ])('for %s takes what it needs', (_, straightRatio, fps, seconds) =>
    expect(chooseOverlap({ steps: steps(10 * fps - 1), straightRatio }, fps)).toBe(seconds),
  )
  it('never takes more than a third of the cut', () =>
    expect(chooseOverlap({ steps: steps(47), straightRatio: 60 }, 24)).toBeLessThanOrEqual(0.667))
  it('goes on to a calm moment when something quick passes where the loop would end', () => {
    // 192 frames; twelve frames are needed: the loop point would fall between frames 179 and 180.
    const quick = steps(191, { 178: 4, 179: 4, 177: 4, 176: 0.9 })
    expect(chooseOverlap({ steps: quick, straightRatio: 8 }, 24) * 24).toBeCloseTo(15, 1)
  })
  it('takes the calmest moment when none is calm', () => {
    const busy = steps(
      191,
      Object.fromEntries(
        Array.from({ length: 40 }, (_, index) => [150 + index, index === 20 ? 2 : 5]),
      ),
    )
    expect(chooseOverlap({ steps: busy, straightRatio: 8 }, 24) * 24).toBeCloseTo(21, 1)
  })
})

describe('the frames that are compared', () => {
  it('are all of a short loop', () => expect([...comparedFrames(5, 32)]).toEqual([0, 1, 2, 3, 4]))
  it('are the first, the last, and one of each stretch', () => {
    const places = [...comparedFrames(300, 30)].sort((a, b) => a - b)
    expect([places[0], places.at(-1)]).toEqual([0, 299])
    for (let stretch = 0; stretch < 30; stretch++)
      expect(
        places.some((k) => Math.floor(k / 10) === stretch),
        `stretch ${stretch}`,
      ).toBe(true)
  })
  it('fall in step with no interval of an encoder', () => {
    const places = [...comparedFrames(320, 32)]
    for (const interval of [4, 5, 8, 10, 16]) {
      for (let phase = 0; phase < interval; phase++)
        expect(
          places.filter((k) => k % interval === phase).length,
          `${interval}, ${phase}`,
        ).toBeLessThan(places.length * 0.55)
    }
  })
})

describe('measuring a join', () => {
  const feed = (count: number, picture: (k: number) => Oklab[]) => {
    const meter = new SeamMeter(count)
    let looked = 0
    for (let k = 0; k < count; k++) {
      if (!meter.wants(k)) continue
      looked += 1
      meter.see(k, picture(k))
    }
    return { figure: meter.figure(), looked, meter }
  }
  it('is 1 for a loop whose join is a step like every other', () =>
    expect(feed(40, (k) => grey(0.3 + 0.01 * Math.abs(20 - k))).figure!.ratio).toBeCloseTo(1, 5))
  it('tells a jump in steps and in ΔE', () => {
    const { figure } = feed(30, (k) => grey(0.2 + 0.01 * k))
    expect(figure).toEqual({ ratio: 29, deltaE: 29, worstDeltaE: 29 })
  })
  it('says nothing of a loop that does not move', () =>
    expect(feed(30, () => grey(0.5)).figure).toEqual({ ratio: null, deltaE: 0, worstDeltaE: 0 }))
  it('looks at a part of a long loop, and comes to the same figure', () => {
    const { figure, looked } = feed(900, (k) => grey(0.1 + 0.0008 * k))
    expect(looked).toBeLessThan(100)
    expect(figure!.ratio).toBeCloseTo(899, 0)
  })
  it('looks at frames that are compared anyway, and at their neighbours', () => {
    for (const count of [2, 5, 24, 25, 60, 300, 1801]) {
      const meter = new SeamMeter(count)
      const wanted = Array.from({ length: count }, (_, k) => k).filter((k) => meter.wants(k))
      for (const k of comparedFrames(count, 24))
        expect(wanted, `frame ${k} of ${count}`).toContain(k)
      expect(wanted.length).toBeLessThanOrEqual(2 * 26)
    }
  })
  it('has no figure before the last frame has come', () => {
    const meter = new SeamMeter(10)
    meter.see(0, grey(0.5))
    expect(meter.figure()).toBeNull()
  })
  it('measures another join against the same steps', () => {
    const { meter } = feed(30, (k) => grey(0.2 + 0.01 * k))
    expect(meter.figure({ last: grey(0.5), first: grey(0.48) })).toEqual({
      ratio: 2,
      deltaE: 2,
      worstDeltaE: 2,
    })
  })
})

describe('how often an index plays a loop', () => {
  it.each([
    [192, 24, 2_000_000, 23],
    [24, 24, 9_000_000, 180],
    [240, 30, 400_000, 20],
    [240, 30, 150_000, 16],
    [240, 30, 100_000, 12],
    [50, 25, 9_000, 5],
    [6000, 30, 9000, 2],
    [9000, 30, 9e7, 2],
  ])('%d frames at %d a second in %d bytes: %d times', (frames, num, bytes, times) => {
    expect(loopRepeats(frames, { num, den: 1 }, bytes)).toBe(times)
  })
})

describe('frames offered as posters', () => {
  const candidate = (
    seconds: number,
    sharpness: number,
    unrest: number,
    lightness: number,
  ): PosterCandidate => ({ seconds, sharpness, unrest, cells: grey(lightness) })
  it('are the sharpest, the calmest behind the copy, and the one like all of them', () => {
    const picks = pickPosters([
      candidate(0, 5, 9, 0.1),
      candidate(1, 90, 9, 0.3),
      candidate(2, 5, 1, 0.9),
      candidate(3, 5, 9, 0.45),
    ])
    expect(picks).toEqual([
      { reason: 'sharpest', index: 1 },
      { reason: 'calmest', index: 2 },
      { reason: 'closest to the average frame', index: 3 },
    ])
  })
  it('are each offered for one reason only', () =>
    expect(
      pickPosters([candidate(0, 90, 1, 0.5), candidate(1, 5, 9, 0.5)]).map(({ index }) => index),
    ).toEqual([0, 1]))
  it('are none where there are no frames', () => expect(pickPosters([])).toEqual([]))
})
