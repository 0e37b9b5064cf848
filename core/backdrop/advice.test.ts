import { describe, expect, it } from 'vitest'
import type { Analysis } from '../material/Analysis'
import { inventBackdrop, knownAs, reduced as reduce, asFootage } from '../testing/samples'
import {
  alternatives,
  measuredRecipe,
  probedBytes,
  savedShare,
  scrimGain,
  taken,
  withBudget,
} from './advice'
import { backdropSchema } from './BackdropDocument'
import { firstVisits } from './firstVisit'
import { clipBudget, clipRecipes, posterRecipes, recipeKey } from './recipe'

const DOCUMENT = inventBackdrop()
const SOURCE = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
/** Fourteen seconds: lively at first, calm in the end. */
const ANALYSIS = {
  durationMs: 14_000,
  motion: Array.from({ length: 140 }, (_, at) => (at < 40 ? 60 : 10)),
  usable: null,
} as unknown as Analysis
const ids = (...parameters: Parameters<typeof alternatives>): string[] =>
  alternatives(...parameters).map(({ id }) => id)

describe('what could be given up', () => {
  it('is offered as it fits the decisions', () => {
    expect(ids(DOCUMENT, 'laptop', ANALYSIS)).toEqual([
      'shorter',
      'calmer',
      'slower',
      'frame-rate',
      'crop',
      'smaller',
      'noise-reduction',
      'copy-blur',
      'scrim',
    ])
    expect(ids(DOCUMENT, 'phone', null)).toEqual([
      'shorter',
      'slower',
      'frame-rate',
      'smaller',
      'noise-reduction',
      'copy-blur',
      'scrim',
      'phone-still',
    ])
  })
  it('is not offered twice', () => {
    for (const alternative of alternatives(DOCUMENT, 'phone', ANALYSIS)) {
      if (['shorter', 'slower', 'smaller', 'scrim'].includes(alternative.id)) continue
      expect(ids(taken(DOCUMENT, alternative), 'phone', ANALYSIS), alternative.id).not.toContain(
        alternative.id,
      )
    }
  })
  it('gives a valid document, and another clip unless the clip is not what changes', () => {
    for (const alternative of alternatives(DOCUMENT, 'laptop', ANALYSIS)) {
      const changed = taken(DOCUMENT, alternative)
      expect(backdropSchema.safeParse(changed).success, alternative.id).toBe(true)
      if (alternative.id === 'scrim' || alternative.id === 'crop') continue
      expect(recipeKey(measuredRecipe(changed, SOURCE, 'laptop')!), alternative.id).not.toBe(
        recipeKey(measuredRecipe(DOCUMENT, SOURCE, 'laptop')!),
      )
    }
  })
  it('finds the calm part of a clip, and keeps the length', () => {
    const calmer = alternatives(DOCUMENT, 'laptop', ANALYSIS).find(({ id }) => id === 'calmer')!
    const { cut } = asFootage(taken(DOCUMENT, calmer)).base.timing
    expect(cut.start / cut.timescale).toBeGreaterThanOrEqual(3.9)
    expect(cut.end - cut.start).toBe(DOCUMENT.base.timing.cut.end - DOCUMENT.base.timing.cut.start)
  })
  it('keeps a loop as long when it is slowed', () => {
    const slower = asFootage(
      taken(
        DOCUMENT,
        alternatives(DOCUMENT, 'laptop', null).find(({ id }) => id === 'slower')!,
      ),
    )
    const seconds = (document: typeof DOCUMENT): number =>
      (document.base.timing.cut.end - document.base.timing.cut.start) /
      document.base.timing.cut.timescale /
      document.base.timing.speed
    expect(seconds(slower)).toBeCloseTo(seconds(DOCUMENT), 6)
  })
  it('of a locked row is only what leaves the row alone', () => {
    const locked = reduce(DOCUMENT, { type: 'weight/lock', screenClass: 'laptop', locked: true })
    expect(ids(locked, 'laptop', null)).toEqual(['shorter', 'slower', 'noise-reduction'])
    for (const alternative of alternatives(locked, 'laptop', ANALYSIS))
      expect(taken(locked, alternative), alternative.id).not.toBe(locked)
  })
  it('takes up what a stronger scrim saves by a smaller budget', () => {
    const scrim = alternatives(DOCUMENT, 'laptop', null).find(({ id }) => id === 'scrim')!
    const changed = taken(DOCUMENT, withBudget(scrim, DOCUMENT, 'laptop', 1_000_000, 0.3))
    expect(changed.scrim.layers[0]!.strength).toBeCloseTo(
      DOCUMENT.scrim.layers[0]!.strength + 0.15,
      9,
    )
    expect(clipBudget(changed, 'laptop')).toBe(700_000)
    expect(
      ids(reduce(DOCUMENT, { type: 'weight/set', weight: { goal: 'quality' } }), 'laptop', null),
    ).not.toContain('scrim')
  })
  it('leaves short loops and slow clips alone', () => {
    const short = reduce(DOCUMENT, {
      type: 'timing/cut',
      cut: { timescale: 24, start: 0, end: 96 },
    })
    expect(ids(short, 'laptop', null)).not.toContain('shorter')
    expect(
      ids(
        reduce(DOCUMENT, { type: 'timing/frame-rate', frameRate: { num: 20, den: 1 } }),
        'laptop',
        null,
      ),
    ).not.toContain('frame-rate')
  })
})

describe('what it saves', () => {
  it('is told in bytes at one setting', () => {
    const probe = {
      steering: 'quantizer' as const,
      frames: 101,
      points: [{ setting: 100, keyBytes: 5000, frameBytes: 1000, ssim: 0.97, psnr: 40 }],
    }
    expect(probedBytes(probe, 100)).toBe(105_000)
  })
  it('is told at one likeness where only a bit rate can be asked for', () => {
    const told = (bytes: number) => ({
      steering: 'rate' as const,
      frames: 101,
      points: [100_000, 200_000, 400_000].map((setting, index) => ({
        setting,
        keyBytes: bytes * 2 ** index,
        frameBytes: bytes * 2 ** index,
        ssim: 1 - 0.1 / 2 ** index,
        psnr: 36 + index,
      })),
    })
    // The same rate gives the same quality here at half the bytes.
    expect(savedShare(told(1000), told(500), 200_000)).toBeCloseTo(0.5, 6)
    expect(savedShare(told(1000), told(1000), 200_000)).toBeCloseTo(0, 6)
  })
  it('at the bottom of the curve, where likeness tells nothing, is what the coarsest of both take', () => {
    // An encoder's floor: two rates, one outcome; the shorter loop happens to look a little worse.
    const told = (frames: number, ssim: number) => ({
      steering: 'rate' as const,
      frames,
      points: [
        [20_000, 100, 0],
        [60_000, 101, 0.0001],
        [180_000, 900, 0.06],
      ].map(([setting, bytes, more]) => ({
        setting: setting!,
        keyBytes: bytes!,
        frameBytes: bytes!,
        ssim: ssim + more!,
        psnr: 36,
      })),
    })
    expect(savedShare(told(100, 0.9), told(75, 0.899), 20_000)).toBeCloseTo(0.25, 6)
  })
  it('at one quantizer is the difference of bytes', () => {
    const told = (frameBytes: number) => ({
      steering: 'quantizer' as const,
      frames: 11,
      points: [{ setting: 100, keyBytes: 0, frameBytes, ssim: 0.97, psnr: 40 }],
    })
    expect(savedShare(told(1000), told(700), 100)).toBeCloseTo(0.3, 2)
  })
  it('of a stronger scrim is what a coarser setting saves that looks as the present one does', () => {
    const seen = [
      { bytes: 1000, now: 0.95, stronger: 0.97 },
      { bytes: 500, now: 0.93, stronger: 0.95 },
      { bytes: 250, now: 0.9, stronger: 0.93 },
    ]
    expect(scrimGain(seen)).toBeCloseTo(0.5, 6)
    expect(scrimGain(seen.map((each) => ({ ...each, stronger: each.now })))).toBeCloseTo(0, 6)
    expect(scrimGain([])).toBe(0)
  })
})

describe('a first visit', () => {
  const clips = [
    { screenClass: 'wide' as const, family: 'av1' as const, bytes: 900 },
    { screenClass: 'wide' as const, family: 'h264' as const, bytes: 1400 },
    { screenClass: 'phone' as const, family: 'h264' as const, bytes: 300 },
  ]
  const posters = [
    { screenClass: 'wide' as const, bytes: 50 },
    { screenClass: 'wide' as const, bytes: 80 },
  ]
  it('counts the heaviest poster and clip that any browser is offered, and the neighbour’s where a screen has none', () => {
    const visits = firstVisits(DOCUMENT, { clips, posters })
    expect(visits.map(({ screenClass, poster, clip }) => [screenClass, poster, clip])).toEqual([
      ['phone', 80, 300],
      ['laptop', 80, 1400],
      ['wide', 80, 1400],
    ])
    expect(visits.every(({ total, poster, clip, page }) => total === poster + clip + page)).toBe(
      true,
    )
  })
  it('has no clip on phones that get the poster', () => {
    expect(
      firstVisits(reduce(DOCUMENT, { type: 'behaviour/set', behaviour: { phone: 'poster' } }), {
        clips,
        posters,
      })[0],
    ).toMatchObject({ clip: 0, poster: 80 })
  })
})

describe('the ground behind the copy', () => {
  const blurred = reduce(DOCUMENT, {
    type: 'weight/row',
    screenClass: 'phone',
    row: { copyBlur: 0.6 },
  })
  const clipOf = (document: typeof DOCUMENT, screenClass: 'phone' | 'wide') =>
    clipRecipes(document, SOURCE).find((each) => each.screenClass === screenClass)!.recipe
  it('is blurred in poster and clip of that screen alone, where its words stand', () => {
    const { copyBlur } = clipOf(blurred, 'phone')
    expect(copyBlur!.strength).toBe(0.6)
    expect(copyBlur!.box.width * copyBlur!.box.height).toBeGreaterThan(0.05)
    expect(
      posterRecipes(blurred, SOURCE).find((each) => each.screenClass === 'phone')!.recipe.copyBlur,
    ).toEqual(copyBlur)
    expect(clipOf(blurred, 'wide').copyBlur).toBeNull()
    expect(recipeKey(clipOf(blurred, 'phone'))).not.toBe(recipeKey(clipOf(DOCUMENT, 'phone')))
  })
  it('is not made anew for a letter more', () => {
    const longer = reduce(blurred, {
      type: 'copy/write',
      field: 'heading',
      value: `${blurred.copy.heading}s`,
    })
    expect(recipeKey(clipOf(longer, 'phone'))).toBe(recipeKey(clipOf(blurred, 'phone')))
  })
  it('is not offered where there are no words, nor twice', () => {
    const wordless = (['heading', 'body'] as const).reduce(
      (document, field) => reduce(document, { type: 'copy/write', field, value: '' }),
      DOCUMENT,
    )
    for (const document of [wordless, blurred])
      expect(alternatives(document, 'phone', null).map(({ id }) => id)).not.toContain('copy-blur')
  })
})
