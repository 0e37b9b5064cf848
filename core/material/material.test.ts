import { describe, expect, it } from 'vitest'
import { createI420, planesOf, type I420 } from '../picture/I420'
import { FACTS, seededNumbers } from '../testing/samples'
import { analysisSchema, livelinessOf, type Analysis } from './Analysis'
import { describeFinding } from './describeFinding'
import {
  findingsOf,
  findingsWithin,
  isRepairable,
  widestScreen,
  type FindingCode,
} from './findings'
import { FlashMeter } from './FlashMeter'
import { MarkMeter } from './MarkMeter'
import { MaterialMeter } from './MaterialMeter'
import { findCuts, findEnds, median } from './shots'

const KIND = { matrix: 'bt709', fullRange: false } as const
const [WIDTH, HEIGHT] = [320, 180]

/** A picture from a function of place, 0 to 1 each, to luma. */
function paint(luma: (x: number, y: number) => number): I420 {
  const picture = createI420(WIDTH, HEIGHT)
  const [plane, blue, red] = planesOf(picture)
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      plane.data[y * WIDTH + x] = Math.round(luma(x / WIDTH, y / HEIGHT))
  blue.data.fill(128)
  red.data.fill(128)
  return picture
}

/** Stripes that drift, with a grain of their own in each frame: what ordinary footage does. */
const drift =
  (t: number) =>
  (x: number, y: number): number =>
    100 + 60 * Math.sin(9 * (x + t * 0.3)) * Math.cos(5 * y + t) + grain(x, y, t)
const grain = (x: number, y: number, t: number): number =>
  (Math.imul(
    Math.round(x * WIDTH) * 73 + Math.round(y * HEIGHT) * 151 + Math.round(t * 100) * 199,
    2654435761,
  ) >>>
    28) *
  2
const black = paint(() => 16)
const card = paint((x, y) => (Math.abs(y - 0.5) < 0.06 && Math.floor(x * 24) % 2 === 0 ? 220 : 40))

/** Measures a clip of `seconds` at 25 frames a second, told by its frame at each moment. */
function measure(seconds: number, frame: (t: number) => I420): Analysis {
  const count = Math.round(seconds * 25)
  const meter = new MaterialMeter(count, seconds)
  for (let index = 0; index < count; index++) meter.see(frame(index / 25), index / 25, KIND)
  return meter.finish()
}
const footage = (t: number): I420 => paint(drift(t))

describe('measuring a clip', () => {
  it('finds nothing to say of clean footage', () => {
    const analysis = measure(4, footage)
    expect(analysis).toMatchObject({
      frames: 100,
      durationMs: 4000,
      cutsMs: [],
      titleEndMs: null,
      usable: null,
      flashes: { most: 0 },
      marks: [],
    })
    expect(findingsOf({ ...FACTS, audio: false }, analysis)).toEqual([])
    expect(analysisSchema.parse(analysis)).toEqual(analysis)
  })
  it('finds a title card to the frame, and starts behind it', () => {
    const analysis = measure(6, (t) => (t < 1.8 ? card : footage(t)))
    expect(analysis).toMatchObject({
      titleEndMs: 1800,
      cutsMs: [],
      usable: { startMs: 1800, endMs: 6000 },
    })
  })
  it('finds the end of a card that dissolves', () => {
    const { titleEndMs } = measure(6, (t) =>
      paint((x, y) => {
        const mix = Math.min(1, Math.max(0, (t - 1.2) / 0.4))
        return (
          drift(t)(x, y) * mix +
          (Math.abs(y - 0.5) < 0.06 && Math.floor(x * 24) % 2 === 0 ? 220 : 40) * (1 - mix)
        )
      }),
    )
    expect(Math.abs(titleEndMs! - 1600)).toBeLessThanOrEqual(80)
  })
  it('finds hard cuts, and takes the longest shot between them', () => {
    const analysis = measure(6, (t) =>
      paint(t < 2 ? drift(t) : (x, y) => 235 - drift(t)(y, x) * 0.9),
    )
    expect(analysis).toMatchObject({ cutsMs: [2000], usable: { startMs: 2000, endMs: 6000 } })
  })
  it('finds black at either end', () => {
    const analysis = measure(6, (t) => (t < 0.6 || t >= 5.2 ? black : footage(t)))
    expect(analysis).toMatchObject({
      black: { startMs: 600, endMs: 5200 },
      usable: { startMs: 600, endMs: 5200 },
      titleEndMs: null,
    })
  })
  it('finds fades from and to black', () => {
    const analysis = measure(6, (t) =>
      paint((x, y) => 16 + (drift(t)(x, y) - 16) * Math.min(1, t / 0.8, (6 - t) / 0.8)),
    )
    expect(Math.abs(analysis.fade.startMs - 720)).toBeLessThanOrEqual(120)
    expect(Math.abs(analysis.fade.endMs - 5280)).toBeLessThanOrEqual(120)
  })
  it('finds an end that is held', () =>
    expect(measure(6, (t) => footage(Math.min(t, 4.8)))).toMatchObject({
      still: { startMs: 0, endMs: 4840 },
    }))
  it('does not take coding noise at the start for motion', () => {
    const random = seededNumbers(4)
    const settling = (t: number): I420 =>
      paint(
        (x, y) =>
          (Math.abs(y - 0.5) < 0.06 && Math.floor(x * 24) % 2 === 0 ? 220 : 40) +
          (t > 0.1 && t < 0.2 ? random() * 3 : 0),
      )
    expect(measure(6, (t) => (t < 1.8 ? settling(t) : footage(t))).titleEndMs).toBe(1800)
  })
  it('finds lettering that stays while all else moves', () => {
    const lettered = (t: number): I420 =>
      paint((x, y) =>
        x > 0.7 && x < 0.9 && y > 0.84 && y < 0.92 && Math.floor(x * 120) % 2 === 0
          ? 235
          : drift(t * 4)(x, y),
      )
    const [mark, ...others] = measure(4, lettered).marks
    expect(others).toEqual([])
    expect(mark!.x).toBeGreaterThan(0.68)
    expect(mark!.x + mark!.width).toBeLessThan(0.92)
    expect(mark!.width).toBeGreaterThan(0.1)
    expect(Math.round(mark!.y * 50) / 50).toBe(0.84)
  })
  it('does not take a ridge before a moving sky for lettering', () => {
    expect(
      measure(4, (t) =>
        paint((x, y) => (y > 0.6 + 0.05 * Math.sin(x * 30) ? 30 : drift(t * 4)(x, y))),
      ).marks,
    ).toEqual([])
  })
  it('measures motion against time, not frames', () => {
    const slow = measure(4, footage)
    const fast = measure(4, (t) => footage(t * 3))
    expect(fast.motionMedian / slow.motionMedian).toBeGreaterThan(2.3)
  })
  it('keeps curves of long clips short enough to store', () => {
    const meter = new MaterialMeter(3001, 120)
    const [dark, light] = [createI420(64, 36), createI420(64, 36)]
    planesOf(light)[0].data.fill(200)
    for (let index = 0; index < 3001; index++)
      meter.see(index % 2 === 0 ? dark : light, index / 25, KIND)
    const { motion, brightness, framesEachPoint } = meter.finish()
    expect([motion.length, brightness.length, framesEachPoint]).toEqual([1501, 1501, 2])
  }, 60_000)
  it('tells the colours that dominate', () => {
    const { palette } = measure(1, () => paint((x) => (x < 0.75 ? 40 : 200)))
    expect(palette.map(({ share }) => share)).toEqual([0.75, 0.25])
    expect(palette[0]!.hex).toMatch(/^#1[0-9a-f]1[0-9a-f]1[0-9a-f]$/)
  })
  it('needs a frame', () => expect(() => new MaterialMeter(1, 1).finish()).toThrow(RangeError))
})

describe('shots', () => {
  const steps = (length: number, ...jumps: [number, number][]): number[] =>
    Array.from({ length }, (_, at) =>
      at === 0 ? 0 : (jumps.find(([place]) => place === at)?.[1] ?? 0.5),
    )
  it.each([
    ['one jump', steps(60, [30, 20]), [30]],
    ['two jumps', steps(90, [30, 20], [60, 20]), [30, 60]],
    ['a flash, which differs twice', steps(60, [30, 20], [31, 20]), []],
    ['a jump too small to see', steps(60, [30, 3]), []],
    ['a clip that is busy all the time', Array.from({ length: 60 }, () => 18), []],
    ['no frames', [], []],
  ])('are split at %s', (_, given, cuts) => expect(findCuts(given)).toEqual(cuts))
  it('has no ends in a clip that is black throughout', () => {
    const zeros = Array.from({ length: 50 }, () => 0)
    expect(findEnds(zeros, zeros, zeros, 6)).toEqual({
      black: { start: 0, end: 50 },
      still: { start: 0, end: 50 },
      fade: { start: 0, end: 50 },
    })
  })
  it.each([
    [[], 0],
    [[3], 3],
    [[1, 2], 1.5],
    [[9, 1, 5], 5],
  ])('the middle of %j is %d', (values, middle) => expect(median(values)).toBe(middle))
})

describe('flashes', () => {
  const blink = (hertz: number, share: number): number => {
    const meter = new FlashMeter(100)
    for (let frame = 0; frame < 100; frame++) {
      const on = Math.floor((frame / 50) * hertz * 2) % 2 === 0
      meter.see(
        Array.from({ length: 100 }, (_, cell) => (cell < share * 100 && on ? 230 : 40)),
        frame / 50,
      )
    }
    return meter.worst().flashes
  }
  it.each([
    [2, 1, 2],
    [5, 1, 5],
    [8, 0.5, 8],
  ])('at %i a second over a share of %d are counted', (hertz, share, min) => {
    expect(Math.abs(blink(hertz, share) - min)).toBeLessThanOrEqual(1)
  })
  it('over a small part of the picture do not count', () => expect(blink(6, 0.05)).toBe(0))
  it('of little contrast do not count', () => {
    const meter = new FlashMeter(10)
    for (let frame = 0; frame < 60; frame++)
      meter.see(
        Array.from({ length: 10 }, () => (frame % 4 < 2 ? 100 : 112)),
        frame / 30,
      )
    expect(meter.worst().flashes).toBe(0)
  })
})

describe('marks', () => {
  it('are not looked for in fewer frames than tell', () => {
    const meter = new MarkMeter()
    for (let frame = 0; frame < 3; frame++) meter.see(planesOf(card)[0])
    expect(meter.find()).toEqual([])
  })
  it('are not found where nothing moves, for there every edge stays', () => {
    const meter = new MarkMeter()
    for (let frame = 0; frame < 12; frame++) meter.see(planesOf(card)[0])
    expect(meter.find()).toEqual([])
  })
})

describe('findings', () => {
  const CLEAN = measure(2, footage)
  const facts = { ...FACTS, audio: false }
  const codes = (
    changed: Partial<typeof FACTS>,
    analysis: Partial<Analysis> | null = {},
  ): FindingCode[] =>
    findingsOf({ ...facts, ...changed }, analysis && { ...CLEAN, ...analysis }).map(
      (finding) => finding.code,
    )
  it.each<[string, Partial<typeof FACTS>, Partial<Analysis>, FindingCode[]]>([
    ['a clip without flaws', {}, {}, []],
    ['sound', { audio: true }, {}, ['sound']],
    ['an index at the end', { indexFirst: false }, {}, ['index-last']],
    [
      'a narrow picture',
      { video: { ...FACTS.video, displayWidth: 640, displayHeight: 360, bytesPerSecond: 20_000 } },
      {},
      ['narrow'],
    ],
    ['too many bits', { video: { ...FACTS.video, bytesPerSecond: 1_500_000 } }, {}, ['heavy']],
    ['metadata of a place', { personal: ['location'] }, {}, ['personal']],
    ['a GIF', { container: 'gif' }, { asVideoBytes: 310_000 }, ['pictures']],
    ['more motion than copy bears', {}, { motionMedian: 80 }, ['busy']],
    ['detail for half the width', {}, { halfShare: 0.9 }, ['soft']],
    [
      'black and then a fade',
      {},
      { black: { startMs: 400, endMs: 2000 }, fade: { startMs: 900, endMs: 2000 } },
      ['black-start', 'fade-in'],
    ],
    ['an end that is held', {}, { still: { startMs: 0, endMs: 1500 } }, ['held-end']],
    ['flashes', {}, { flashes: { most: 5, ms: 300 } }, ['flashes']],
    ['three flashes a second, which are allowed', {}, { flashes: { most: 3, ms: 300 } }, []],
    [
      'two cuts and a mark',
      {},
      { cutsMs: [500, 900], marks: [{ x: 0.8, y: 0.9, width: 0.1, height: 0.05 }] },
      ['hard-cut', 'hard-cut', 'mark'],
    ],
  ])('are told of %s', (_, changed, analysis, expected) =>
    expect(codes(changed, analysis)).toEqual(expected),
  )

  it('from the index alone do not guess at frames', () =>
    expect(codes({ audio: true }, null)).toEqual(['sound']))
  it('of flashes must be repaired', () =>
    expect(findingsOf(facts, { ...CLEAN, flashes: { most: 9, ms: 0 } })[0]!.weight).toBe('fix'))
  it('say what can be repaired losslessly', () => {
    expect([isRepairable({ container: 'mp4' }), isRepairable({ container: 'gif' })]).toEqual([
      true,
      false,
    ])
    expect(
      findingsOf({ ...FACTS, container: 'gif' }, null).map((finding) => finding.repair),
    ).toEqual([null, null])
  })
  it('are worded with figure, meaning and advice, each of them', () => {
    const every: FindingCode[] = [
      'narrow',
      'soft',
      'busy',
      'flashes',
      'hard-cut',
      'title-card',
      'black-start',
      'black-end',
      'held-start',
      'held-end',
      'fade-in',
      'fade-out',
      'mark',
      'sound',
      'heavy',
      'index-last',
      'personal',
      'pictures',
      'rotated',
      'wide-gamut',
      'heavy-image',
      'transparent',
    ]
    for (const code of every) {
      const { title, meaning, advice } = describeFinding({
        code,
        weight: 'look',
        figure: 1_500_000,
        fromMs: 1800,
        toMs: 2000,
        place: { x: 0.8, y: 0.9, width: 0.1, height: 0.05 },
        repair: null,
      })
      expect(title, code).toMatch(/^[A-Z0-9]/)
      expect(meaning, code).toMatch(/\.$/)
      expect(advice, code).toMatch(/\.$/)
    }
    expect(
      describeFinding({
        code: 'mark',
        weight: 'look',
        figure: 10,
        fromMs: null,
        toMs: null,
        place: { x: 0.8, y: 0.9, width: 0.1, height: 0.05 },
        repair: null,
      }).title,
    ).toContain('bottom right')
  })
  it.each([
    [0, 1800, ['title-card', 'narrow']],
    [1800, 4000, ['narrow']],
    [1000, 4100, ['title-card', 'hard-cut', 'narrow']],
    [4000, 6000, ['narrow']],
    [5000, 6400, ['black-end', 'narrow']],
  ])('concern the cut from %i to %i', (startMs, endMs, expected) => {
    const all = findingsOf(
      { ...facts, video: { ...facts.video, displayWidth: 800, bytesPerSecond: 1000 } },
      {
        ...CLEAN,
        durationMs: 7000,
        titleEndMs: 1800,
        cutsMs: [4000],
        black: { startMs: 0, endMs: 6200 },
        still: { startMs: 0, endMs: 7000 },
        fade: { startMs: 0, endMs: 7000 },
      },
    )
    expect(
      findingsWithin(all, startMs, endMs)
        .map((finding) => finding.code)
        .sort(),
    ).toEqual([...expected].sort())
  })
  it('know the widest screen that stays sharp', () => {
    expect(widestScreen(facts, CLEAN)).toEqual({ good: 1920, soft: 2880 })
    expect(widestScreen(facts, { ...CLEAN, halfShare: 0.85 })).toEqual({ good: 960, soft: 1440 })
  })
  it.each([
    [2, 'calm'],
    [20, 'lively'],
    [70, 'busy'],
  ] as const)('call %d ΔE a second %s', (motionMedian, name) =>
    expect(livelinessOf({ motionMedian })).toBe(name),
  )
})
