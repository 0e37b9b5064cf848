import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ContainerError } from '../bytes/ContainerError'
import { convertRgbaToI420 } from '../picture/convertRgbaToI420'
import { rgbFromYuv, type YuvKind } from '../picture/describeCells'
import { createI420, type I420 } from '../picture/I420'
import { BLEND_MODES } from '../picture/blend'
import { parseHex } from '../picture/srgb'
import { yuvTables } from '../picture/yuvTables'
import { worstPlace } from '../scrim/frameContrast'
import { evenLayer, linearLayer, NO_SCRIM, type Scrim } from '../scrim/Scrim'
import {
  decodeContrastTrace,
  encodeContrastTrace,
  planTrace,
  TRACE_BYTES,
  traceBytes,
  TraceWriter,
  type ContrastTrace,
} from './ContrastTrace'
import { copyAreas } from './copyAreas'
import { CopyMeter, copySamples, type ScreenView } from './CopySamples'
import { nthSmallest } from './nthSmallest'
import { quickWorst } from './quickWorst'
import type { TextPlace } from './TextPlace'

const KIND: YuvKind = { matrix: 'bt709', fullRange: false }
const PICTURE = { width: 320, height: 180 }
const SCRIM: Scrim = { layers: [linearLayer('#201030', [0.7, 0.1], 120)] }

const text = (fields: Partial<TextPlace> = {}): TextPlace => ({
  label: 'Heading',
  boxes: [{ x: 120, y: 200, width: 500, height: 160 }],
  color: '#ffffff',
  needed: 3,
  plate: null,
  ...fields,
})
const view = (texts: readonly TextPlace[]): ScreenView => ({
  picture: PICTURE,
  region: { width: 1280, height: 720 },
  focal: { x: 0.5, y: 0.5 },
  texts,
})

/** Pixels of a frame as RGBA, drawn by a function of place and time. */
function drawn(
  at: (x: number, y: number) => readonly [number, number, number],
): Uint8ClampedArray<ArrayBuffer> {
  const data = new Uint8ClampedArray(PICTURE.width * PICTURE.height * 4)
  for (let y = 0; y < PICTURE.height; y++)
    for (let x = 0; x < PICTURE.width; x++)
      data.set([...at(x, y), 255], (y * PICTURE.width + x) * 4)
  return data
}

/** A bright spot that moves to the right over a dusk. */
const spotted = (frame: number) =>
  drawn((x, y) =>
    Math.hypot(x - 20 - 12 * frame, y - 70) < 14
      ? [250, 240, 200]
      : [20 + (x >> 3), 30, 60 + (y >> 2)],
  )

function traceOf(pictures: readonly I420[], areas = copyAreas(view([text()]))): ContrastTrace {
  const writer = new TraceWriter(planTrace(PICTURE, pictures.length, 2, areas))
  for (const picture of pictures) writer.add(picture, KIND)
  return writer.finish()
}
const i420 = (data: Uint8ClampedArray<ArrayBuffer>): I420 =>
  convertRgbaToI420(data, PICTURE.width, PICTURE.height)
const CLIP = Array.from({ length: 20 }, (_, frame) => i420(spotted(frame)))

describe('the plan of a trace', () => {
  const areaOf = fc.record({
    x: fc.double({ min: 0, max: 0.9, noNaN: true }),
    y: fc.double({ min: 0, max: 0.9, noNaN: true }),
    width: fc.double({ min: 0.01, max: 1, noNaN: true }),
    height: fc.double({ min: 0.01, max: 1, noNaN: true }),
  })
  it('takes no more bytes than ten seconds may, and keeps all that copy is in front of', () =>
    fc.assert(
      fc.property(
        fc.array(areaOf, { maxLength: 6 }),
        fc.integer({ min: 1, max: 600 }),
        fc.constantFrom({ width: 1920, height: 1080 }, { width: 1080, height: 1920 }, PICTURE),
        (areas, frames, picture) => {
          const plan = planTrace(picture, frames, 10, areas)
          expect(traceBytes(plan)).toBeLessThanOrEqual(TRACE_BYTES)
          const across = Math.ceil(plan.width / 16)
          for (const { x, y, width, height } of areas) {
            const [column, row] = [
              Math.floor((Math.min(0.999, x + width / 2) * plan.width) / 16),
              Math.floor((Math.min(0.999, y + height / 2) * plan.height) / 16),
            ]
            expect(plan.slots[row * across + column]).toBeGreaterThanOrEqual(0)
          }
        },
      ),
    ))
  it('is 320 × 180 where the bytes allow, never larger than the picture', () => {
    const small = planTrace({ width: 1920, height: 1080 }, 240, 10, copyAreas(view([text()])))
    expect([small.width, small.height]).toEqual([320, 180])
    expect(planTrace({ width: 64, height: 36 }, 10, 1, [])).toMatchObject({ width: 64, height: 36 })
  })
  it('becomes coarser rather than heavier where copy is everywhere', () => {
    const whole = [{ x: 0, y: 0, width: 1, height: 1 }]
    const plan = planTrace({ width: 1920, height: 1080 }, 600, 10, whole)
    expect(plan.width).toBeLessThan(320)
    expect(plan.slots.every((slot) => slot >= 0)).toBe(true)
  })
})

describe('contrast from a trace', () => {
  const trace = traceOf(CLIP)
  const meter = new CopyMeter(trace)
  it('is within 5 % of what the frame itself gives, in every frame', () => {
    const samples = copySamples(trace, view([text()]), SCRIM, text())!
    CLIP.forEach((_, frame) => {
      // At the trace's own size a box of the region is a quarter as large.
      const exact = worstPlace(
        { data: spotted(frame), ...PICTURE },
        SCRIM,
        [{ x: 30, y: 50, width: 125, height: 40 }],
        { r: 255, g: 255, b: 255 },
        1,
      )!
      const found = meter.measure(samples, frame)!
      expect(Math.abs(found.ratio / exact.ratio - 1)).toBeLessThan(0.05)
    })
  })
  it('is never below its bound, and the frames that bounds choose hold the worst', () =>
    fc.assert(
      fc.property(
        fc.record({
          x: fc.integer({ min: 0, max: 1100 }),
          y: fc.integer({ min: 0, max: 600 }),
          width: fc.integer({ min: 20, max: 700 }),
          height: fc.integer({ min: 20, max: 300 }),
        }),
        fc.constantFrom('#ffffff', '#000000', '#808080', '#e0c060'),
        fc.constantFrom(
          null,
          { layer: { r: 0, g: 0, b: 0, alpha: 0.55 } },
          { layer: { r: 0, g: 0, b: 0, alpha: 0.1 }, opacities: [0.1, 0.5, 0.9] },
        ),
        (box, color, plate) => {
          const place = text({ boxes: [box], color, plate })
          const own = traceOf(CLIP, copyAreas(view([place])))
          const ownMeter = new CopyMeter(own)
          const samples = copySamples(own, view([place]), SCRIM, place)!
          const ratios = CLIP.map((_, frame) => ownMeter.measure(samples, frame)!.ratio)
          ratios.forEach((ratio, frame) =>
            expect(ownMeter.bound(samples, frame)).toBeLessThanOrEqual(ratio + 1e-3),
          )
          // Whoever goes on until no bound is lower has found the worst.
          const sure = quickWorst(ownMeter, samples, [...CLIP.keys()], CLIP.length)!
          expect(sure.place.ratio).toBe(Math.min(...ratios))
        },
      ),
      { numRuns: 25 },
    ))
  it('follows layers that are blended, as worst place and as bound: every mode (seed 4)', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...BLEND_MODES),
        fc.constantFrom(...BLEND_MODES),
        fc.constantFrom('#ffffff', '#101010'),
        fc.integer({ min: 0, max: 19 }),
        (first, second, color, frame) => {
          const scrim: Scrim = {
            layers: [
              { ...linearLayer('#c08040', [0.9, 0.2], 120), blend: first },
              evenLayer('#203060', 0.2),
              { ...linearLayer('#306080', [0.1, 0.7], 60), blend: second },
              evenLayer('#000000', 0.1),
            ],
          }
          const place = text({ color, plate: { layer: { r: 9, g: 9, b: 9, alpha: 0.1 } } })
          const samples = copySamples(trace, view([place]), scrim, place)!
          const found = meter.measure(samples, frame)!
          const exact = worstPlace(
            { data: spotted(frame), ...PICTURE },
            scrim,
            [{ x: 30, y: 50, width: 125, height: 40 }],
            parseHex(color),
            1,
            place.plate,
          )!
          expect(Math.abs(found.ratio / exact.ratio - 1)).toBeLessThan(0.05)
          expect(meter.bound(samples, frame)).toBeLessThanOrEqual(found.ratio + 1e-3)
        },
      ),
      { seed: 4, numRuns: 120 },
    ))
  it('is found in the first few frames that bounds choose', () => {
    const samples = copySamples(trace, view([text()]), SCRIM, text())!
    const ratios = CLIP.map((_, frame) => meter.measure(samples, frame)!.ratio)
    const { frame, place } = quickWorst(meter, samples, [...CLIP.keys()])!
    expect(place.ratio).toBe(ratios[frame])
    expect(place.ratio).toBeLessThan(Math.min(...ratios) * 1.05)
  })
  it('is told at the place of the spot', () => {
    const samples = copySamples(trace, view([text()]), SCRIM, text())!
    const { x, y } = meter.measure(samples, 5)!
    expect(Math.hypot(x - 4 * 80, y - 4 * 70)).toBeLessThan(4 * 15)
  })
  it('does not depend on the frame where a control has a plate of its own', () => {
    const label = text({ color: '#ffffff', plate: { layer: { r: 0, g: 0, b: 0, alpha: 1 } } })
    const samples = copySamples(trace, view([label]), SCRIM, label)!
    expect(meter.measure(samples, 0)!.ratio).toBeCloseTo(21, 1)
    expect(meter.measure(samples, 9)!.ratio).toBeCloseTo(21, 1)
  })
  it('counts particles in front of the base', () => {
    const samples = copySamples(trace, view([text()]), NO_SCRIM, text())!
    const data = new Uint8ClampedArray(samples.count * 4).fill(255)
    const at = Int32Array.from({ length: samples.count }, (_, index) => index * 4)
    expect(meter.measure(samples, 0, { data, at })!.ratio).toBeCloseTo(1, 2)
  })
  it('is not told where the trace lacks what is behind the copy, or nothing is', () => {
    const long = Array.from({ length: 400 }, () => CLIP[0]!)
    const small = traceOf(long, [{ x: 0, y: 0, width: 0.05, height: 0.05 }])
    const far = text({ boxes: [{ x: 900, y: 500, width: 300, height: 200 }] })
    const samples = copySamples(small, view([far]), SCRIM, far)!
    expect(samples.places).toBeNull()
    expect(new CopyMeter(small).measure(samples, 0)).toBeNull()
    expect(quickWorst(new CopyMeter(small), samples, [0])).toBeNull()
    const outside = text({ boxes: [{ x: 2000, y: 0, width: 10, height: 10 }] })
    expect(copySamples(trace, view([outside]), SCRIM, outside)).toBeNull()
  })
})

describe('traces as bytes', () => {
  const bytes = encodeContrastTrace(traceOf(CLIP.slice(0, 3)))
  it('are read as they were written', () => {
    const read = decodeContrastTrace(bytes)
    expect(read).toEqual(traceOf(CLIP.slice(0, 3)))
  })
  it('are refused where anything is wrong with them, and never read beyond', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 60 }),
        fc.integer({ min: 0, max: 255 }),
        fc.integer({ min: 0, max: bytes.length }),
        (at, value, length) => {
          const changed = bytes.slice(0, length)
          changed[at] = value
          try {
            const read = decodeContrastTrace(changed)
            expect(traceBytes(read)).toBeLessThanOrEqual(changed.length)
          } catch (error) {
            expect(error).toBeInstanceOf(ContainerError)
          }
        },
      ),
    ))
  it('take frames of one size only, and all of them', () => {
    const writer = new TraceWriter(planTrace(PICTURE, 1, 1, []))
    expect(() => writer.add(createI420(64, 36), KIND)).toThrow(RangeError)
    expect(() => writer.finish()).toThrow(RangeError)
  })
})

describe('small helpers', () => {
  it('the nth smallest is that of a sorted list', () =>
    fc.assert(
      fc.property(
        fc.array(fc.float({ noNaN: true, min: 0, max: 30 }), { minLength: 1, maxLength: 80 }),
        fc.nat(),
        (values, seed) => {
          const n = seed % values.length
          const sorted = Float32Array.from(values).sort()
          expect(nthSmallest(Float32Array.from(values), values.length, n)).toBe(sorted[n])
        },
      ),
    ))
  it.each(['bt709', 'bt601', 'bt2020'] as const)(
    'tables of %s give what the formula gives',
    (matrix) =>
      fc.assert(
        fc.property(fc.nat(255), fc.nat(255), fc.nat(255), fc.boolean(), (y, cb, cr, fullRange) => {
          const kind = { matrix, fullRange }
          const { luma, redOfCr, greenOfCb, greenOfCr, blueOfCb } = yuvTables(kind)
          const clamp = (value: number): number => Math.min(255, Math.max(0, value))
          const found = [
            luma[y]! + redOfCr[cr]!,
            luma[y]! + greenOfCb[cb]! + greenOfCr[cr]!,
            luma[y]! + blueOfCb[cb]!,
          ].map(clamp)
          rgbFromYuv(y, cb, cr, kind).forEach((value, channel) =>
            expect(found[channel]).toBeCloseTo(value, 2),
          )
        }),
      ),
  )
})
