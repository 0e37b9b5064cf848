import { describe, expect, it } from 'vitest'
import { createI420, planesOf, type Plane } from '../picture/I420'
import { FACTS } from '../testing/samples'
import { BarMeter } from './BarMeter'
import { describeFinding } from './describeFinding'
import { findingsLeftBy, findingsOf, type Finding } from './findings'
import { MaterialMeter } from './MaterialMeter'

const [WIDTH, HEIGHT] = [320, 180]

/** A frame's luma from a function of place in pixels. */
function luma(value: (x: number, y: number) => number): Plane {
  const [plane] = planesOf(createI420(WIDTH, HEIGHT))
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) plane.data[y * WIDTH + x] = value(x, y)
  return plane
}
const scene = (x: number, y: number, t: number): number =>
  90 + 60 * Math.sin((x + t * 9) / 17) * Math.cos(y / 11)
const within =
  (left: number, top: number, right: number, bottom: number) =>
  (t: number): Plane =>
    luma((x, y) => (x >= left && x < right && y >= top && y < bottom ? scene(x, y, t) : 16))

function find(frame: (t: number) => Plane, frames = 12) {
  const meter = new BarMeter()
  for (let t = 0; t < frames; t++) meter.see(frame(t))
  return meter.find()
}

describe('black bars', () => {
  it.each([
    [
      'at both sides',
      within(32, 0, 288, 180),
      { x: 33 / 320, y: 0, width: 1 - 66 / 320, height: 1 },
    ],
    [
      'above and below',
      within(0, 20, 320, 160),
      { x: 0, y: 21 / 180, width: 1, height: 1 - 42 / 180 },
    ],
    [
      'on one side alone',
      within(40, 0, 320, 180),
      { x: 41 / 320, y: 0, width: 1 - 41 / 320, height: 1 },
    ],
    [
      'all round',
      within(16, 12, 304, 168),
      { x: 17 / 320, y: 13 / 180, width: 1 - 34 / 320, height: 1 - 26 / 180 },
    ],
  ])('are found %s, with a pixel for their soft edge', (_, frame, inner) => {
    const found = find(frame)!
    for (const side of ['x', 'y', 'width', 'height'] as const)
      expect(found[side]).toBeCloseTo(inner[side], 3)
  })
  it('are not seen in a clip that fills its frame', () =>
    expect(find(within(0, 0, 320, 180))).toBeNull())
  it('are not taken from a night sky that fades into black', () =>
    expect(
      find((t) =>
        luma((x, y) => Math.min(160, 16 + Math.max(0, y - 30) * 0.9 + (t % 2) + (x % 3))),
      ),
    ).toBeNull())
  it('are as narrow as the brightest frame shows them', () => {
    const found = find((t) => (t === 5 ? within(8, 0, 312, 180)(t) : within(40, 0, 280, 180)(t)))!
    expect(found.x).toBeCloseTo(9 / 320, 3)
  })
  it('are looked for in frames with a picture only', () => {
    expect(find(() => luma(() => 16))).toBeNull()
    expect(find((t) => (t < 6 ? luma(() => 16) : within(32, 0, 288, 180)(t)))!.width).toBeCloseTo(
      1 - 66 / 320,
      3,
    )
  })
  it('are no bars where they would take nearly half of a side', () =>
    expect(find(within(140, 0, 320, 180))).toBeNull())
  it('are told of a clip, with what they take, and where to crop them', () => {
    const meter = new MaterialMeter(20, 0.8)
    for (let t = 0; t < 20; t++) {
      const picture = createI420(WIDTH, HEIGHT)
      const [plane, blue, red] = planesOf(picture)
      plane.data.set(within(32, 0, 288, 180)(t).data)
      blue.data.fill(128)
      red.data.fill(128)
      meter.see(picture, t / 25, { matrix: 'bt709', fullRange: false })
    }
    const finding = findingsOf({ ...FACTS, audio: false }, meter.finish()).find(
      ({ code }) => code === 'bars',
    )!
    expect(finding).toMatchObject({ weight: 'look', figure: 21 })
    expect(describeFinding(finding).title).toBe('Black bars take 21 % of the picture')
  })
})

describe('what a crop repairs', () => {
  const finding = (code: 'bars' | 'mark' | 'soft', place: Finding['place']): Finding => ({
    code,
    weight: 'look',
    figure: 1,
    fromMs: null,
    toMs: null,
    place,
    repair: null,
  })
  const inner = { x: 0.1, y: 0, width: 0.8, height: 1 }
  const found = [
    finding('bars', inner),
    finding('mark', { x: 0.7, y: 0.9, width: 0.15, height: 0.05 }),
    finding('soft', null),
  ]
  it.each([
    ['nothing', null, ['bars', 'mark', 'soft']],
    ['the bars, exactly', inner, ['mark', 'soft']],
    ['more than the bars', { x: 0.2, y: 0.1, width: 0.5, height: 0.75 }, ['soft']],
    ['one bar of two', { x: 0.1, y: 0, width: 0.9, height: 1 }, ['bars', 'mark', 'soft']],
    ['the mark alone', { x: 0, y: 0, width: 1, height: 0.88 }, ['bars', 'soft']],
  ] as const)('%s', (_, crop, left) =>
    expect(findingsLeftBy(found, crop).map(({ code }) => code)).toEqual(left),
  )
})
