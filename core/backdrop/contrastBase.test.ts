import { describe, expect, it } from 'vitest'
import { createImage, FIRST_DRIFT, type ImageBase } from '../kinds/image/Image'
import type { ImageSequence } from '../kinds/image/imageSequence'
import type { AnySequence } from '../kinds'
import { createSlideshow, cycleOrder } from '../kinds/slideshow/Slideshow'
import type { SlideshowSequence } from '../kinds/slideshow/slideshowSequence'
import type { Size } from '../fit/cover'
import { progressOf, type PaintSequence } from '../kinds/paint/paintSequence'
import { createPaint } from '../kinds/paint/Paint'
import { inventBackdrop, knownAs, SAMPLE_SOURCE_ID } from '../testing/samples'
import type { BackdropDocument } from './BackdropDocument'
import { baseOnScreen, contrastKey } from './contrastBase'
import { reduce } from './reduce'
import { evenScrim } from '../scrim/Scrim'

const SHELF_ID = '00000000-0000-4000-8000-0000000000aa'
const CLIP = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
const IMAGE = knownAs({
  sha256: 'b'.repeat(64),
  width: 1920,
  height: 1080,
  image: { mime: 'image/jpeg', bytes: 400_000, alpha: false },
})

describe('what is behind copy on a screen', () => {
  it('is the same frames on all screens, however their files are cropped', () => {
    const document = reduce(inventBackdrop(), {
      type: 'weight/row',
      screenClass: 'phone',
      row: { crop: 'screen' },
    })
    const keys = (['phone', 'tablet', 'laptop', 'wide'] as const).map(
      (screen) => baseOnScreen(document, CLIP, screen)!.key,
    )
    expect(new Set(keys).size).toBe(1)
  })
  it('is another picture where the files of a screen are blurred behind the copy', () => {
    const document = reduce(inventBackdrop(), {
      type: 'weight/row',
      screenClass: 'phone',
      row: { copyBlur: 0.5, crop: 'screen' },
    })
    const phone = baseOnScreen(document, CLIP, 'phone')!
    expect(phone.copyBlur).not.toBeNull()
    expect(phone.picture!.width).toBeLessThan(1920)
    expect(phone.key).not.toBe(baseOnScreen(document, CLIP, 'wide')!.key)
  })
  it('follows the focal point of its class', () => {
    const document = reduce(inventBackdrop(), {
      type: 'fit/focal',
      focal: { x: 0.9, y: 0.1 },
      screenClass: 'phone',
    })
    expect(baseOnScreen(document, CLIP, 'phone')!.focal).toEqual({ x: 0.9, y: 0.1 })
    expect(baseOnScreen(document, CLIP, 'laptop')!.focal).toEqual(document.fit.focal)
  })
  it('is what slides show in the region of each screen, where they are delivered one by one', () => {
    const slides = { ...createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID]), seed: 5 }
    const own = { focal: { x: 0.2, y: 0.5 }, ownFocal: { phone: { x: 0.8, y: 0.5 }, laptop: null } }
    const base = {
      ...slides,
      order: 'shuffled' as const,
      slides: slides.slides.map((slide, index) => (index === 0 ? { ...slide, focal: own } : slide)),
    }
    const document = { ...inventBackdrop(), base }
    const on = (screen: 'phone' | 'wide', region?: Size) =>
      baseOnScreen(document, IMAGE, screen, region)!
    const phone = on('phone', { width: 390, height: 911.4 })
    expect(phone.picture).toEqual({ width: 390, height: 912 })
    expect(on('wide').picture).toEqual({ width: 1920, height: 1080 })
    expect(phone.key).not.toBe(on('phone').key)
    const focals = (sequence: AnySequence) =>
      sequence.kind === 'slideshow' ? sequence.slides.map(({ focal }) => focal.x) : []
    const place = cycleOrder(base).indexOf(0)
    expect(focals(phone.sequence)[place]).toBe(0.8)
    expect(focals(on('wide').sequence)[place]).toBe(0.2)
    // A clip of them has one shape for all.
    const clip = { ...document, base: { ...base, delivery: 'clip' as const } }
    expect(baseOnScreen(clip, IMAGE, 'phone')!.picture).toEqual(
      baseOnScreen(clip, IMAGE, 'wide')!.picture,
    )
    expect(baseOnScreen(document, new Map(), 'phone')).toBeNull()
  })
  it('is the way of a pan, and one frame of an image that is shown whole or repeated', () => {
    const on = (fields: Partial<ImageBase>) => {
      const base = { ...createImage(SAMPLE_SOURCE_ID), ...fields }
      return baseOnScreen({ ...inventBackdrop(), base }, IMAGE, 'phone')!
    }
    const panned = on({ drift: FIRST_DRIFT })
    expect(panned.picture).toEqual({ width: 390, height: 844 })
    // Back is as there: half of the time in five frames a second.
    expect(panned.sequence.frames).toBe((FIRST_DRIFT.seconds / 2) * 5)
    expect(panned.sequence).toMatchObject({ slides: [{ panEasing: 'ease-in-out' }] })
    for (const placing of ['contain', 'tile'] as const)
      expect(on({ placing, drift: FIRST_DRIFT }).sequence).toMatchObject({
        frames: 1,
        slides: [{ placing, pan: null }],
      })
    expect(on({}).sequence.kind).toBe('image')
    const motion = { moves: 'angle' as const, amount: 0.5, seconds: 30 }
    const paint = baseOnScreen(
      { ...inventBackdrop(), base: { ...createPaint(), motion } },
      new Map(),
      'phone',
    )!
    expect(paint).toMatchObject({ picture: { width: 390, height: 844 }, sequence: { frames: 30 } })
    const sequence = paint.sequence as PaintSequence
    expect([0, 15, 30].map((frame) => progressOf(sequence, frame))).toEqual([
      0,
      expect.closeTo(0.5, 5),
      1,
    ])
  })
  it('is the poster alone on a phone that shows nothing else', () => {
    const plain = reduce(inventBackdrop(), {
      type: 'behaviour/set',
      behaviour: { phone: 'poster' },
    })
    const phone = baseOnScreen(plain, CLIP, 'phone')!
    expect(phone).toMatchObject({ isStill: true, sequence: { frames: 1 } })
    const wide = baseOnScreen(plain, CLIP, 'wide')!
    expect(wide).toMatchObject({ isStill: false })
    expect(wide.sequence.frames).toBeGreaterThan(1)
    expect(phone.key).not.toBe(baseOnScreen(inventBackdrop(), CLIP, 'phone')!.key)
    const other = reduce(plain, {
      type: 'poster/picture',
      picture: { kind: 'frame', ticks: 24, timescale: 24 },
    })
    const chosen = baseOnScreen(other, CLIP, 'phone')!
    expect(chosen).toMatchObject({
      isStill: true,
      sequence: { frames: 1, loop: { cut: { start: 24 }, speed: 1 } },
    })
    expect(chosen.key).not.toBe(phone.key)
    expect(baseOnScreen(other, CLIP, 'wide')!.key).toBe(wide.key)
    const own = reduce(plain, {
      type: 'poster/picture',
      picture: {
        kind: 'source',
        sourceId: SHELF_ID,
        sha256: 'c'.repeat(64),
        mime: 'image/jpeg',
        bytes: 9,
      },
    })
    // An image from the shelf that is higher than the clip: cut to its shape around its middle.
    const square = knownAs({
      sha256: 'c'.repeat(64),
      width: 1000,
      height: 1000,
      image: { mime: 'image/jpeg', bytes: 9, alpha: false },
    })
    const known = new Map([...CLIP, [SHELF_ID, square.get(SAMPLE_SOURCE_ID)!] as const])
    const shelf = baseOnScreen(own, known, 'phone')!
    expect(shelf).toMatchObject({ isStill: true, sequence: { kind: 'image', frames: 1 } })
    const { width, height } = shelf.picture!
    const { part, size } = shelf.sequence as ImageSequence
    expect(size.width / size.height).toBeCloseTo(width / height, 1)
    expect(part!.y + part!.height / 2).toBeCloseTo(0.5, 6)
    expect(part!.x + part!.width / 2).toBeCloseTo(0.5, 6)
    expect(baseOnScreen(own, known, 'wide')!.key).toBe(wide.key)
    // One that is gone stands for itself: the clip is what is known.
    expect(baseOnScreen(own, CLIP, 'phone')).toMatchObject({ isStill: true })
    // An image has no other poster: it stands as its pan begins.
    const panned = { ...other, base: { ...createImage(SAMPLE_SOURCE_ID), drift: FIRST_DRIFT } }
    expect(baseOnScreen(panned, IMAGE, 'phone')).toMatchObject({ isStill: true })
  })
  it('is one window after another of an image that stays in place', () => {
    const fixed = {
      ...inventBackdrop(),
      base: { ...createImage(SAMPLE_SOURCE_ID), scrolling: 'fixed' as const },
    }
    const on = (height: number) =>
      baseOnScreen(fixed, IMAGE, 'phone', { width: 390, height })!.sequence
    expect(on(500)).toMatchObject({ region: { width: 390, height: 500 }, frames: 1 })
    for (const height of [500, 1600])
      expect(on(height)).toMatchObject({ slides: [{ everyHeight: 844 }] })
    const scrolls = { ...fixed, base: { ...fixed.base, scrolling: 'page' as const } }
    expect(baseOnScreen(scrolls, IMAGE, 'phone')!.sequence.kind).toBe('image')
  })
  it('is blurred where the files are, of slides that are delivered one by one and of images', () => {
    const softened = (
      base: BackdropDocument['base'],
      copyBlur: number,
      crop: 'whole' | 'screen',
    ) => {
      const screenClass = 'phone' as const
      const document = reduce(
        { ...inventBackdrop(), base },
        { type: 'weight/row', screenClass, row: { copyBlur, crop } },
      )
      const sequence = baseOnScreen(document, IMAGE, 'phone')!.sequence as SlideshowSequence
      return sequence.slides.map((slide) => slide.softened)
    }
    const slides = createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID])
    expect(softened(slides, 0, 'whole')).toEqual([undefined, undefined])
    const [one, other] = softened(slides, 0.5, 'whole')
    expect(one).toMatchObject({ part: null, blur: { strength: 0.5 } })
    expect(other).toEqual(one)
    expect(one!.blur.box.width).toBeGreaterThan(0.1)
    expect(softened(slides, 0.5, 'screen')[0]!.part).not.toBeNull()
    const panned = { ...createImage(SAMPLE_SOURCE_ID), drift: FIRST_DRIFT }
    expect(softened(panned, 0.5, 'whole')[0]).toMatchObject({ blur: { strength: 0.5 } })
  })
  it('is nothing where its source is gone; a gradient has no shape', () => {
    expect(baseOnScreen(inventBackdrop(), new Map(), 'phone')).toBeNull()
    const paint = { ...inventBackdrop(), base: createPaint() }
    expect(baseOnScreen(paint, new Map(), 'phone')).toMatchObject({ picture: null })
  })
})

describe('the key of what is measured', () => {
  const key = contrastKey(inventBackdrop())
  it.each([
    { type: 'scrim/set', scrim: evenScrim('#14101c', 0.9) },
    { type: 'copy/write', field: 'color', value: '#000000' },
    { type: 'copy/place', screens: ['wide'], place: { down: 'top' } },
    { type: 'fit/height', height: { unit: 'px', value: 500 } },
    { type: 'handoff/set', handoff: { lang: 'ar' } },
    { type: 'behaviour/set', behaviour: { phone: 'poster' } },
  ] as const)('changes with what matters: $type', (action) =>
    expect(contrastKey(reduce(inventBackdrop(), action))).not.toBe(key),
  )
  it('stays where nothing that is seen changes', () => {
    const same = reduce(inventBackdrop(), {
      type: 'weight/row',
      screenClass: 'wide',
      row: { budgetBytes: 900_000 },
    })
    expect(contrastKey(same)).toBe(key)
  })
})
