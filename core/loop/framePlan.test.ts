import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { defaultOutputRate, nearestRate, toNumber } from '../Fraction'
import { constantRate } from '../media/frameGrid'
import {
  momentAt,
  blendWeight,
  firstFrameSeconds,
  frameCount,
  framePlan,
  loopMoment,
  loopSeconds,
  overlapFrames,
  plannedFrame,
  snapCut,
  sourceSeconds,
  type LoopSettings,
  type PlannedFrame,
  type Seam,
} from './framePlan'
import { parseTime } from './parseTime'

const steady = (frames: number, ticks: number, timescale: number) => ({
  timescale,
  order: [],
  times: Array.from({ length: frames }, (_, index) => index * ticks),
  length: frames * ticks,
})
const cut = (start: number, end: number, timescale = 24) => ({ timescale, start, end })
const FPS24 = { num: 24, den: 1 }
const STRAIGHT: Seam = { kind: 'straight', overlapSeconds: 0.8 }
const settings = (change: Partial<LoopSettings> = {}): LoopSettings => ({
  cut: cut(0, 24),
  speed: 1,
  frameRate: FPS24,
  seam: STRAIGHT,
  blendFrames: false,
  ...change,
})
const blended = (overlapSeconds: number): Seam => ({ kind: 'blended', overlapSeconds })
const THERE_AND_BACK: Seam = { kind: 'ping-pong', overlapSeconds: 0 }
/** The frames that a straight plan shows. */
const shown = (loop: LoopSettings, clip: ReturnType<typeof steady>): number[] =>
  framePlan(loop, clip).map(({ show }) => show.frame)
const SEED = 20261123

/** Loops of every kind. */
const anyLoop = fc
  .record({
    start: fc.integer({ min: 0, max: 200 }),
    length: fc.integer({ min: 2, max: 100 }),
    speed: fc.double({ min: 0.25, max: 4, noNaN: true }),
    fps: fc.constantFrom(24, 25, 30, 50, 60),
    kind: fc.constantFrom('straight' as const, 'blended' as const, 'ping-pong' as const),
    overlapSeconds: fc.double({ min: 0.04, max: 10, noNaN: true }),
    blendFrames: fc.boolean(),
  })
  .map(({ start, length, speed, fps, kind, overlapSeconds, blendFrames }) =>
    settings({
      cut: cut(start, start + length),
      speed,
      frameRate: { num: fps, den: 1 },
      seam: { kind, overlapSeconds },
      blendFrames,
    }),
  )

/** Clips of a constant rate as containers store them: times rounded to ticks, after an offset. */
const anyRoundedClip = fc
  .record({
    rate: fc.constantFrom(
      { num: 24000, den: 1001 },
      { num: 24, den: 1 },
      { num: 25, den: 1 },
      { num: 30000, den: 1001 },
      { num: 30, den: 1 },
      { num: 50, den: 1 },
      { num: 60000, den: 1001 },
      { num: 60, den: 1 },
      { num: 17, den: 1 },
    ),
    timescale: fc.constantFrom(600, 1000, 90000),
    offsetMs: fc.double({ min: 0, max: 40, noNaN: true }),
    count: fc.integer({ min: 40, max: 400 }),
    isRebased: fc.boolean(),
    ends: fc.tuple(fc.nat(), fc.nat()),
  })
  .map(({ rate, timescale, offsetMs, count, isRebased, ends }) => {
    const at = (frame: number): number =>
      Math.round((offsetMs / 1000 + (frame * rate.den) / rate.num) * timescale)
    // Readers start at the first frame; a clip whose sound starts earlier may keep its offset.
    const base = isRebased ? at(0) : 0
    const times = Array.from({ length: count }, (_, frame) => at(frame) - base)
    const length = at(count) - base
    const from = ends[0] % (count - 20)
    const to = from + 12 + (ends[1] % (count - from - 12))
    return {
      rate,
      from,
      to,
      clip: { timescale, order: [], times, length, ends: [...times.slice(1), length] },
    }
  })

describe('frame plan', () => {
  it('shows every frame of the cut once at the clip’s own speed and rate', () => {
    expect(shown(settings({ cut: cut(48, 240) }), steady(336, 1, 24))).toEqual(
      Array.from({ length: 192 }, (_, k) => 48 + k),
    )
  })
  it('takes every second frame at double speed', () => {
    expect(shown(settings({ cut: cut(0, 12), speed: 2 }), steady(24, 1, 24))).toEqual([
      0, 2, 4, 6, 8, 10,
    ])
  })
  it('repeats frames in slow motion', () => {
    expect(shown(settings({ cut: cut(0, 3), speed: 0.5 }), steady(24, 1, 24))).toEqual([
      0, 0, 1, 1, 2, 2,
    ])
  })
  it('mixes neighbours in slow motion when that is asked for', () => {
    const plan = framePlan(
      settings({ cut: cut(0, 3), speed: 0.25, blendFrames: true }),
      steady(24, 1, 24),
    )
    expect(plan.slice(0, 5).map(({ show }) => [show.frame, show.next, show.share])).toEqual([
      [0, 0, 0],
      [0, 1, 0.25],
      [0, 1, 0.5],
      [0, 1, 0.75],
      [1, 1, 0],
    ])
  })
  it('takes the next frame whole where the mix would be nearly all of it', () => {
    const moment = (ticks: number): unknown =>
      momentAt(
        settings({
          cut: { timescale: 1000, start: ticks, end: 4000 },
          speed: 0.25,
          blendFrames: true,
        }),
        { timescale: 1000, times: [0, 1000, 2000, 3000] },
        0,
      )
    expect(moment(1990)).toEqual({ frame: 2, next: 2, share: 0 })
    expect(moment(1980)).toEqual({ frame: 1, next: 2, share: 0.98 })
    expect(moment(1010)).toEqual({ frame: 1, next: 1, share: 0 })
  })
  it('mixes nothing where the clip has frames enough, or behind its last one', () => {
    expect(
      framePlan(settings({ blendFrames: true }), steady(24, 1, 24)).every(
        ({ show }) => show.share === 0,
      ),
    ).toBe(true)
    expect(
      framePlan(
        settings({ cut: cut(20, 24), speed: 0.5, blendFrames: true }),
        steady(24, 1, 24),
      ).at(-1)!.show,
    ).toEqual({ frame: 23, next: 23, share: 0 })
  })
  it('resamples a variable frame rate by time, not by number', () => {
    const uneven = { timescale: 1000, times: [0, 40, 400, 440, 480, 960], length: 1000 }
    expect(
      framePlan(settings({ cut: cut(0, 1000, 1000), frameRate: { num: 5, den: 1 } }), uneven).map(
        ({ show }) => show.frame,
      ),
    ).toEqual([1, 1, 4, 4, 4])
  })
  it('shows the frame on screen at the middle of each interval where the rate varies', () => {
    const uneven = { timescale: 1000, times: [0, 31, 95, 120, 170, 181, 260, 333], length: 400 }
    expect(
      framePlan(settings({ cut: cut(0, 400, 1000), frameRate: { num: 20, den: 1 } }), uneven).map(
        ({ show }) => show.frame,
      ),
    ).toEqual([0, 1, 3, 4, 5, 6, 6, 7])
  })
  it('is exact for broadcast rates over minutes', () => {
    const frameRate = { num: 30000, den: 1001 }
    expect(
      shown(settings({ cut: cut(0, 9000 * 1001, 30000), frameRate }), steady(9000, 1001, 30000)),
    ).toEqual(Array.from({ length: 9000 }, (_, k) => k))
  })
  it(`maps frames of equal rates one to one, however their times were rounded (seed ${SEED})`, () => {
    fc.assert(
      fc.property(anyRoundedClip, fc.context(), ({ clip, rate, from, to }, context) => {
        const loop = settings({
          cut: { timescale: clip.timescale, start: clip.times[from]!, end: clip.ends[to]! },
          frameRate: rate,
          sourceRate: constantRate(clip),
        })
        context.log(JSON.stringify({ rate, timescale: clip.timescale }))
        expect(shown(loop, clip)).toEqual(
          Array.from({ length: to - from + 1 }, (_, index) => from + index),
        )
      }),
      { seed: SEED, numRuns: 400 },
    )
  })
  it(`takes every second frame at half the rate, and every frame twice at twice the rate (seed ${SEED})`, () => {
    fc.assert(
      fc.property(anyRoundedClip, ({ clip, rate, from, to }) => {
        const all = { timescale: clip.timescale, start: clip.times[from]!, end: clip.ends[to]! }
        const sourceRate = constantRate(clip)
        const half = { num: rate.num, den: rate.den * 2 }
        const halved = shown(settings({ cut: all, frameRate: half, sourceRate }), clip)
        halved.forEach((frame, k) => expect(frame).toBe(from + 2 * k))
        const twice = { num: rate.num * 2, den: rate.den }
        const doubled = shown(settings({ cut: all, frameRate: twice, sourceRate }), clip)
        doubled.forEach((frame, k) => expect(frame).toBe(from + (k >> 1)))
        expect(doubled).toHaveLength(2 * (to - from + 1))
      }),
      { seed: SEED, numRuns: 200 },
    )
  })
  it('maps frames one to one where rates differ by a thousandth, and the length follows', () => {
    const clip = steady(1440, 1001, 24000)
    const loop = settings({
      cut: { timescale: 24000, start: 0, end: 1440 * 1001 },
      sourceRate: { num: 24000, den: 1001 },
    })
    expect(shown(loop, clip)).toEqual(Array.from({ length: 1440 }, (_, k) => k))
    expect(loopSeconds(loop)).toBe(60)
    expect(sourceSeconds(loop, 30)).toBeCloseTo(30.03, 6)
    expect(loopMoment(loop, 30.03)).toBeCloseTo(30, 6)
    expect(firstFrameSeconds({ ...loop, seam: blended(1) })).toBeCloseTo((1416 * 1001) / 24000, 6)
  })
  it('resamples rates that differ by more than two thousandths', () => {
    const loop = settings({ cut: cut(0, 25 * 40, 25), sourceRate: { num: 25, den: 1 } })
    const plan = shown(loop, steady(1000, 1, 25))
    expect(plan).toHaveLength(960)
    expect(plan.at(-1)).toBe(999)
  })
  it(`never repeats a frame of a clip that has more frames than are shown (seed ${SEED})`, () => {
    fc.assert(
      fc.property(anyRoundedClip, fc.double({ min: 1.01, max: 4, noNaN: true }), (any, speed) => {
        const { clip, rate, from, to } = any
        const plan = shown(
          settings({
            cut: { timescale: clip.timescale, start: clip.times[from]!, end: clip.ends[to]! },
            frameRate: rate,
            sourceRate: constantRate(clip),
            speed,
          }),
          clip,
        )
        plan.slice(1).forEach((frame, k) => {
          if (frame < clip.times.length - 1) expect(frame).toBeGreaterThan(plan[k]!)
        })
      }),
      { seed: SEED, numRuns: 200 },
    )
  })
  it(`covers the cut once: straight plans never fall, stay in the cut and keep their length (seed ${SEED})`, () => {
    fc.assert(
      fc.property(anyLoop, (any) => {
        const loop = { ...any, seam: STRAIGHT }
        const plan = shown(loop, steady(300, 1, 24))
        expect(plan.length).toBe(frameCount(loop))
        expect(
          Math.abs(loopSeconds(loop) - (loop.cut.end - loop.cut.start) / 24 / loop.speed),
        ).toBeLessThanOrEqual(1 / toNumber(loop.frameRate))
        plan.forEach((number, k) => {
          expect(number).toBeGreaterThanOrEqual(k === 0 ? loop.cut.start : plan[k - 1]!)
          expect(number).toBeLessThan(loop.cut.end + 1)
        })
      }),
      { seed: SEED },
    )
  })
  it(`covers the cut once, too, where the seam is blended: every frame of it is shown, under or over another (seed ${SEED})`, () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 8, max: 100 }),
        fc.double({ min: 0.05, max: 4, noNaN: true }),
        (length, overlapSeconds) => {
          const loop = settings({ cut: cut(10, 10 + length), seam: blended(overlapSeconds) })
          const plan = framePlan(loop, steady(300, 1, 24))
          const seen = plan.flatMap(({ show, under }) => [
            show.frame,
            ...(under ? [under.frame] : []),
          ])
          expect([...seen].sort((a, b) => a - b)).toEqual(
            Array.from({ length }, (_, at) => 10 + at),
          )
          expect(plan.length + overlapFrames(loop)).toBe(length)
        },
      ),
      { seed: SEED },
    )
  })
  it(`is continuous at both joins of a blended seam (seed ${SEED})`, () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 8, max: 200 }),
        fc.double({ min: 0.1, max: 4, noNaN: true }),
        (length, overlapSeconds) => {
          const loop = settings({ cut: cut(0, length), seam: blended(overlapSeconds) })
          const plan = framePlan(loop, steady(300, 1, 24))
          const overlap = overlapFrames(loop)
          // What is seen, as one number: a clip whose frame n shows n.
          const value = ({ show, under, weight }: PlannedFrame): number =>
            (under ? under.frame * (1 - weight) : 0) + show.frame * weight
          // From the last frame the loop goes on with the one that follows it in the clip …
          expect(value(plan[0]!) - value(plan.at(-1)!)).toBe(1)
          // … and the blend ends as slowly as it began: no step is larger than the fastest that its
          // curve and the motion allow.
          const jump = length - overlap
          for (let k = 1; k <= Math.min(overlap, plan.length - 1); k++)
            expect(Math.abs(value(plan[k]!) - value(plan[k - 1]!))).toBeLessThanOrEqual(
              (1.5 * jump) / overlap + 1 + 1e-9,
            )
          if (overlap < plan.length)
            expect(Math.abs(value(plan[overlap]!) - value(plan[overlap - 1]!))).toBeLessThanOrEqual(
              jump * (1 - blendWeight((overlap - 1) / overlap)) + 1 + 1e-9,
            )
        },
      ),
      { seed: SEED },
    )
  })
  it(`shows no frame twice in a row there and back, round the join too (seed ${SEED})`, () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 150 }),
        fc.integer({ min: 0, max: 100 }),
        (length, start) => {
          const plan = shown(
            settings({ cut: cut(start, start + length), seam: THERE_AND_BACK }),
            steady(300, 1, 24),
          )
          expect(plan).toHaveLength(2 * length - 2)
          plan.forEach((frame, k) =>
            expect(frame === plan[(k + 1) % plan.length]).toBe(plan.length === 1),
          )
          expect(new Set(plan).size).toBe(length)
        },
      ),
      { seed: SEED },
    )
  })
  it(`is stable under adding whole loop lengths, forward and back (seed ${SEED})`, () => {
    fc.assert(
      fc.property(
        anyLoop,
        fc.integer({ min: -500, max: 500 }),
        fc.integer({ min: -5, max: 5 }),
        (loop, k, turns) => {
          const clip = steady(300, 1, 24)
          expect(plannedFrame(loop, clip, k + turns * frameCount(loop))).toEqual(
            plannedFrame(loop, clip, k),
          )
        },
      ),
      { seed: SEED },
    )
  })
  it(`mixes only with weights from 0 to 1, of frames that exist (seed ${SEED})`, () => {
    fc.assert(
      fc.property(anyLoop, (loop) => {
        for (const { show, under, weight } of framePlan(loop, steady(300, 1, 24))) {
          expect(weight >= 0 && weight <= 1).toBe(true)
          for (const moment of under ? [show, under] : [show])
            expect(
              moment.share >= 0 && moment.share < 1 && moment.frame >= 0 && moment.next <= 299,
            ).toBe(true)
        }
      }),
      { seed: SEED },
    )
  })
  it('gives a blend less than half of the cut, and at least a frame', () => {
    expect(overlapFrames(settings({ seam: blended(10) }))).toBe(11)
    expect(overlapFrames(settings({ seam: blended(0.001) }))).toBe(1)
    expect(overlapFrames(settings())).toBe(0)
  })
})

describe('moments of a loop', () => {
  it('begins a blended loop with the frame that follows its last one', () => {
    const loop = settings({ cut: cut(24, 72), seam: blended(0.5) })
    expect(firstFrameSeconds(loop)).toBe(2.5)
    expect(plannedFrame(loop, steady(100, 1, 24), 0)).toMatchObject({
      under: { frame: 60 },
      weight: 0,
    })
    expect(firstFrameSeconds(settings({ cut: cut(24, 72) }))).toBe(1)
  })
  it.each([
    ['straight', STRAIGHT, [0, 0.5, 1.5], [1, 1.5, 1.5]],
    ['there and back', THERE_AND_BACK, [0, 23 / 24, 1.5], [1, 1 + 23 / 24, 1 + 10 / 24]],
  ] as const)('tells the source’s time for a moment of a %s loop', (_, seam, times, sources) => {
    const loop = settings({ cut: cut(24, 48), seam })
    times.forEach((time, at) => expect(sourceSeconds(loop, time)).toBeCloseTo(sources[at]!, 9))
  })
  it(`finds the moment of the loop that shows a moment of the source (seed ${SEED})`, () => {
    fc.assert(
      fc.property(anyLoop, fc.double({ min: 0, max: 0.999, noNaN: true }), (loop, share) => {
        const forward = {
          ...loop,
          seam: loop.seam.kind === 'ping-pong' ? STRAIGHT : loop.seam,
        }
        const seconds = sourceSeconds(forward, share * loopSeconds(forward))
        const moment = loopMoment(forward, seconds)
        // Rounding to whole frames may let the loop reach a fraction of a frame past the cut.
        if (moment === null) expect(seconds * 24).toBeGreaterThanOrEqual(loop.cut.end - 1e-3)
        else expect(moment).toBeCloseTo(share * loopSeconds(forward), 6)
      }),
      { seed: SEED },
    )
  })
  it('knows no moment outside of the cut, and finds what a blend lies over at the start', () => {
    const loop = settings({ cut: cut(24, 72), seam: blended(0.5) })
    expect([loopMoment(loop, 0.9), loopMoment(loop, 3)]).toEqual([null, null])
    expect(loopMoment(loop, 2.75)).toBeCloseTo(0.25, 9)
  })
  it('counts the speed in', () =>
    expect(sourceSeconds(settings({ cut: cut(24, 72), speed: 2 }), 0.5)).toBe(2))
})

describe('snapping a cut', () => {
  const clip = steady(100, 1001, 24000)
  it('lays both ends on frames', () =>
    expect(snapCut(cut(1500, 50_300, 24000), clip, 'both')).toEqual(cut(1001, 50_050, 24000)))
  it('lets the end reach the end of the clip', () =>
    expect(snapCut(cut(0, 9e9, 24000), clip, 'end').end).toBe(100_100))
  it('moves the start away when it is pushed over the end', () =>
    expect(snapCut(cut(60_000, 50_050, 24000), clip, 'start')).toEqual(cut(48_048, 50_050, 24000)))
  it('changes to the clip’s own timescale', () =>
    expect(snapCut(cut(1, 2, 1), clip, 'both').timescale).toBe(24000))
  it(`always leaves a cut of two frames or more inside the clip (seed ${SEED})`, () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.constantFrom('start' as const, 'end' as const),
        (start, end, moved) => {
          const snapped = snapCut(cut(start, end, 24000), clip, moved)
          expect(snapped.start).toBeGreaterThanOrEqual(0)
          expect(snapped.end).toBeLessThanOrEqual(clip.length)
          expect(snapped.end - snapped.start).toBeGreaterThanOrEqual(2002)
        },
      ),
      { seed: SEED },
    )
  })
})

describe('frame rates', () => {
  it.each([
    [23.976, 24000, 1001],
    [24.0001, 24, 1],
    [29.97, 30000, 1001],
    [59.94, 60000, 1001],
    [12.5, 12500, 1000],
  ])('takes %d for %i/%i', (fps, num, den) => expect(nearestRate(fps)).toEqual({ num, den }))
  it.each([
    [24, 24],
    [30, 30],
    [60, 30],
    [50, 25],
    [120, 30],
  ])('offers for %d fps: %d', (source, offered) =>
    expect(toNumber(defaultOutputRate(source))).toBe(offered),
  )
})

describe('typed times', () => {
  it.each([
    ['2.5', { seconds: 2.5 }],
    ['2,5 s', { seconds: 2.5 }],
    [' 3s ', { seconds: 3 }],
    ['75f', { frames: 75 }],
    ['1:02.5', { seconds: 62.5 }],
    ['.5', { seconds: 0.5 }],
  ])('reads %s', (text, time) => expect(parseTime(text)).toEqual(time))
  it.each([
    ['00:02:15', 2.625],
    ['1:00:02:12', 3602.5],
    ['0:59:23', 59 + 23 / 24],
  ])('reads the timecode %s, whose last part counts frames', (text, seconds) =>
    expect(parseTime(text, 24)).toEqual({ seconds }),
  )
  it.each([
    ['00:02:24', 24],
    ['00:60:00', 24],
    ['1:60:00:00', 24],
    ['00:02:15', 0],
    ['00:00:02:15:01', 24],
  ])('refuses the timecode "%s" at %d frames a second', (text, fps) =>
    expect(parseTime(text, fps)).toBeNull(),
  )
  it.each(['', 'abc', '-1', '1:2:3:4', '2.5.1', '5x', 'f', '1e3'])('refuses "%s"', (text) =>
    expect(parseTime(text)).toBeNull(),
  )
})
