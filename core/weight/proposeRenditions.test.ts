import { evenScrim, linearLayer, type Scrim } from '../scrim/Scrim'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { coverRect } from '../fit/cover'
import { cropShape, PLAIN_SHAPE, shapedSize } from '../picture/pictureShape'
import { CLASS_SCREENS } from '../fit/screens'
import { copyBox } from '../copy/copyBox'
import { FIRST_TYPE } from '../copy/copyParts'
import { COPY_PLACES, type CopyPlace } from '../copy/copyPlace'
import { proposeRenditions, screenCrop } from './proposeRenditions'

const PICTURE = { width: 1920, height: 1080 }
const LIMITS = { phone: 640, laptop: 1440 }
const CENTRE = { x: 0.5, y: 0.5 }
const FULL = { unit: 'svh' as const, value: 100 }

describe('the crop for a screen', () => {
  it('keeps of a wide picture what upright phones show, round the focal point', () => {
    const crop = screenCrop(PICTURE, FULL, LIMITS, { x: 0.8, y: 0.5 }, ['phone'])!
    expect(crop.height).toBe(1)
    expect(crop.width).toBeCloseTo((0.7 * 1080) / 1920, 6)
    expect(crop.x).toBeCloseTo((1 - crop.width) * 0.8, 6)
  })
  it('leaves the picture whole where windows of a class show nearly all of it', () => {
    expect(screenCrop(PICTURE, FULL, LIMITS, CENTRE, ['laptop'])).toBeNull()
    expect(screenCrop({ width: 1080, height: 1920 }, FULL, LIMITS, CENTRE, ['phone'])).toBeNull()
  })
  it('cuts the height of a picture for low strips', () => {
    const crop = screenCrop(PICTURE, { unit: 'px', value: 320 }, LIMITS, CENTRE, ['wide'])!
    expect(crop.width).toBe(1)
    expect(crop.height).toBeLessThan(0.5)
  })
  it('of files that serve other windows too leaves what any of them shows', () => {
    const low = { unit: 'px' as const, value: 500 }
    const [laptop, wide, both] = [['laptop'], ['wide'], ['laptop', 'wide']].map((classes) =>
      screenCrop(PICTURE, low, LIMITS, CENTRE, classes as ('laptop' | 'wide')[]),
    )
    expect(wide!.height).toBeLessThan(0.7)
    expect(laptop).toBeNull()
    expect(both).toBeNull()
    expect(() => screenCrop(PICTURE, low, LIMITS, CENTRE, [])).toThrow(RangeError)
  })
  it('shows the same part through the same focal point as the whole picture does (seed 41)', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true })
    fc.assert(
      fc.property(
        share,
        share,
        fc.double({ min: 0.45, max: 0.69, noNaN: true }),
        (x, y, aspect) => {
          const focal = { x, y }
          const crop = screenCrop(PICTURE, FULL, LIMITS, focal, ['phone'])!
          const region = { width: 844 * aspect, height: 844 }
          const whole = coverRect(PICTURE, region, focal).shown
          const cropped = coverRect(
            { width: PICTURE.width * crop.width, height: PICTURE.height * crop.height },
            region,
            focal,
          ).shown
          expect(cropped.x + crop.x * PICTURE.width).toBeCloseTo(whole.x, 6)
          expect(cropped.width).toBeCloseTo(whole.width, 6)
          expect(cropped.y + crop.y * PICTURE.height).toBeCloseTo(whole.y, 6)
        },
      ),
      { seed: 41 },
    )
  })
})

describe('a crop of a shape', () => {
  const part = { x: 0.25, y: 0, width: 0.5, height: 1 }
  it('of a plain picture is itself', () => expect(cropShape(PLAIN_SHAPE, part).crop).toEqual(part))
  it('lies within the crop that was there', () => {
    expect(
      cropShape({ ...PLAIN_SHAPE, crop: { x: 0.2, y: 0.1, width: 0.6, height: 0.8 } }, part).crop,
    ).toEqual({ x: 0.35, y: 0.1, width: 0.3, height: 0.8 })
  })
  it('follows a mirrored and a turned picture', () => {
    expect(
      cropShape({ ...PLAIN_SHAPE, mirrored: true }, { x: 0, y: 0, width: 0.3, height: 1 }).crop!.x,
    ).toBeCloseTo(0.7, 9)
    // Turned clockwise once, what is left in the picture is at the bottom of the upright one.
    const turned = cropShape(
      { ...PLAIN_SHAPE, quarterTurns: 1 },
      { x: 0, y: 0, width: 0.5, height: 1 },
    )
    expect(turned.crop).toEqual({ x: 0, y: 0.5, width: 1, height: 0.5 })
    expect(shapedSize({ width: 1000, height: 600 }, turned)).toEqual({ width: 300, height: 1000 })
  })
})

describe('a proposed ladder', () => {
  const flat = (strength: number): Scrim => evenScrim('#000000', strength)
  const copy = {
    heading: 'Night trains, slow mornings',
    body: 'Sleep through the mountains and wake beside the sea, in a bed of your own.',
    button: { label: 'See the timetable' },
  }
  const origin = {
    picture: PICTURE,
    detail: 1,
    height: FULL,
    breakpoints: LIMITS,
    focalOf: () => CENTRE,
    scrim: flat(0.3),
    copy,
    screens: CLASS_SCREENS,
  }
  it('covers each class’s largest window, and crops for phones', () => {
    expect(proposeRenditions(origin)).toEqual({
      phone: { width: 756, crop: 'screen' },
      laptop: { width: 1422, crop: 'whole' },
      wide: { width: 1920, crop: 'whole' },
    })
  })
  it('never asks for more than the source really holds', () => {
    expect(proposeRenditions({ ...origin, detail: 0.5 }).wide.width).toBe(960)
    expect(proposeRenditions({ ...origin, picture: { width: 1280, height: 720 } }).wide.width).toBe(
      1280,
    )
  })
  it('makes less behind a scrim that hides detail', () =>
    expect(proposeRenditions({ ...origin, scrim: flat(0.7) }).wide.width).toBe(1536))
  it('makes less on phones where words and a middling scrim cover most of the region, but not on wide screens', () => {
    const wordy = {
      ...copy,
      heading: 'Night trains and slow mornings from the mountains to the sea',
      body: copy.body.repeat(4),
    }
    const [plain, covered] = [
      proposeRenditions({ ...origin, scrim: flat(0.45) }),
      proposeRenditions({ ...origin, scrim: flat(0.45), copy: wordy }),
    ]
    expect(covered.phone.width).toBeLessThan(plain.phone.width)
    expect(covered.wide.width).toBe(plain.wide.width)
  })
  it('makes no less for a gradient that is strong at one end only', () =>
    expect(
      proposeRenditions({
        ...origin,
        scrim: { layers: [linearLayer('#000000', [0.8, 0], 90)] },
      }).wide.width,
    ).toBe(1920))
  it('makes what a project’s screens need', () =>
    expect(
      proposeRenditions({
        ...origin,
        screens: { ...CLASS_SCREENS, laptop: { width: 1280, height: 720, density: 1.2 } },
      }).laptop.width,
    ).toBe(1536))
  it('makes less for low regions', () =>
    expect(proposeRenditions({ ...origin, height: { unit: 'svh', value: 60 } }).laptop.width).toBe(
      1280,
    ))
})

describe('the place of the copy', () => {
  const words = {
    heading: 'Night trains, slow mornings',
    body: 'Sleep through the mountains and wake beside the sea.',
    button: { label: 'See the timetable' },
  }
  it('lies inside the region, left of its middle on wide screens and nearly across phones', () => {
    const [wide, phone] = [
      copyBox(words, FULL, { width: 1920, height: 1080 }),
      copyBox(words, FULL, { width: 390, height: 844 }),
    ]
    expect(wide.x + wide.width).toBeLessThan(0.5)
    expect(phone.width).toBeGreaterThan(0.7)
    for (const box of [wide, phone])
      expect(box.x > 0 && box.y > 0 && box.x + box.width < 1 && box.y + box.height < 1).toBe(true)
  })
  it('follows the place of the copy, and stays inside in all of them', () => {
    const at = (place: CopyPlace) => copyBox(words, FULL, { width: 1280, height: 800 }, place)
    const boxes = COPY_PLACES.map(at)
    for (const box of boxes)
      expect(box.x > 0 && box.y > 0 && box.x + box.width < 1 && box.y + box.height < 1).toBe(true)
    expect(boxes[2]!.x).toBeGreaterThan(boxes[1]!.x)
    expect(boxes[1]!.x).toBeGreaterThan(boxes[0]!.x)
    expect(boxes[6]!.y).toBeGreaterThan(boxes[3]!.y)
    expect(boxes[3]!.y).toBeGreaterThan(boxes[0]!.y)
    expect(boxes[3]).toEqual(copyBox(words, FULL, { width: 1280, height: 800 }))
  })
  it('stays inside whatever is written (seed 41)', () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 200 }),
        fc.string({ maxLength: 500 }),
        fc.integer({ min: 300, max: 2600 }),
        fc.integer({ min: 300, max: 1600 }),
        fc.integer({ min: 20, max: 100 }),
        (heading, body, width, height, svh) => {
          const box = copyBox(
            { heading, body, button: { label: '' } },
            { unit: 'svh', value: svh },
            { width, height },
          )
          expect(Math.min(box.x, box.y, box.width, box.height)).toBeGreaterThan(0)
          expect(Math.max(box.x + box.width, box.y + box.height)).toBeLessThanOrEqual(1)
        },
      ),
      { seed: 41 },
    )
  })
  it('grows with its type and its parts, and makes room for what ends the region', () => {
    const phone = { width: 390, height: 844 }
    const usual = copyBox({ ...words, type: FIRST_TYPE }, FULL, phone)
    expect(usual).toEqual(copyBox(words, FULL, phone))
    const height = (fields: object): number => copyBox({ ...words, ...fields }, FULL, phone).height
    for (const fields of [
      { type: { ...FIRST_TYPE, headingSize: 1.5 } },
      { type: { ...FIRST_TYPE, bodySize: 1.5 } },
      { type: { ...FIRST_TYPE, lineLetters: 20 } },
      { more: ['Another text'] },
      { rule: true },
    ])
      expect(height(fields), JSON.stringify(fields)).toBeGreaterThan(usual.height)
    const at = (fields: object) =>
      copyBox({ ...words, ...fields }, FULL, phone, { across: 'start', down: 'bottom' })
    expect(at({ onward: { label: 'On', href: '#' } }).y).toBeLessThan(at({}).y)
    expect(at({ footer: 'Runs all year' }).y).toBeLessThan(at({}).y)
  })
  it('grows with its words', () =>
    expect(
      copyBox({ ...words, body: words.body.repeat(3) }, FULL, { width: 390, height: 844 }).height,
    ).toBeGreaterThan(copyBox(words, FULL, { width: 390, height: 844 }).height))
})
