import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { slidesOf } from '../../backdrop/delivered'
import { clipRecipes, posterRecipes, recipeKey, type PosterRecipe } from '../../backdrop/recipe'
import { firstVisits } from '../../backdrop/firstVisit'
import { outcomes } from '../../behaviour/conditions'
import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { inventBackdrop } from '../../testing/samples'
import type { KnownSource } from '../Kind'
import { deliveryAdvice } from './deliveryAdvice'
import { reduceSlideshow, type SlideshowAction } from './reduceSlideshow'
import { sceneAt } from './scene'
import { slideshowCost, transitionCost } from './slideCost'
import { lightnessOf, slideFindings, type SlideFacts } from './slideFindings'
import { createSlideshow, slideCycle, timingsOf, type Slideshow } from './Slideshow'
import { slideshowSequence } from './slideshowSequence'
import {
  entering,
  FIRST_TRANSITION,
  leaving,
  MOSAIC_STEPS,
  TRANSITION_STYLES,
  WHOLE,
} from './transition'

const ids = Array.from({ length: 30 }, (_, index) => `source ${index}`)
const show = createSlideshow(ids.slice(0, 5))
const after = (...actions: SlideshowAction[]): Slideshow => actions.reduce(reduceSlideshow, show)
const order = ({ slides }: Slideshow): number[] => slides.map(({ id }) => id)

describe('changes of slides', () => {
  it('give new ones ids of their own, up to 24', () => {
    const more = after({ type: 'slides/add', sourceIds: ids, at: 1 })
    expect(more.slides).toHaveLength(24)
    expect(new Set(order(more)).size).toBe(24)
    expect(order(more).slice(0, 2)).toEqual([1, 6])
  })
  it('never leave fewer than two', () => {
    const two = createSlideshow(ids.slice(0, 2))
    expect(reduceSlideshow(two, { type: 'slides/remove', id: 1 })).toBe(two)
  })
  it('begin with another slide by turning the cycle, not by breaking it', () =>
    expect(order(after({ type: 'slides/first', id: 4 }))).toEqual([4, 5, 1, 2, 3]))
  it('take over a set: what is decided of slides that stay is kept', () => {
    const decided = after({ type: 'slides/set', id: 3, slide: { opacity: 0.5 } })
    const taken = reduceSlideshow(decided, {
      type: 'slides/take',
      sourceIds: ['source 9', 'source 2', 'source 2'],
      setId: 'set',
    })
    expect(taken.slides.map(({ opacity }) => opacity)).toEqual([1, 0.5, 1])
    expect(new Set(order(taken)).size).toBe(3)
    expect(taken.setId).toBe('set')
  })
  it('set one transition for all, and one of its own for a slide, and take it back', () => {
    const all = after({ type: 'slides/transition', id: null, transition: { seconds: 3 } })
    expect(timingsOf(all).map(({ transitionSeconds }) => transitionSeconds)).toEqual(
      Array(5).fill(3),
    )
    const own = reduceSlideshow(all, {
      type: 'slides/transition',
      id: 2,
      transition: { style: 'push' },
    })
    expect(own.slides[1]!.transition).toMatchObject({ style: 'push', seconds: 3 })
    expect(
      reduceSlideshow(own, { type: 'slides/transition', id: 2, transition: null }).slides[1]!
        .transition,
    ).toBeNull()
  })
  it('set the cycle: slides that share a hold go on sharing it (seed 31)', () =>
    fc.assert(
      fc.property(fc.integer({ min: 12, max: 360 }), (seconds) => {
        const own = after({ type: 'slides/set', id: 2, slide: { holdSeconds: 8 } })
        const set = reduceSlideshow(own, { type: 'slides/cycle', seconds })
        expect(slideCycle(set).seconds).toBeCloseTo(seconds, 1)
        expect(set.slides.filter(({ holdSeconds }) => holdSeconds === null)).toHaveLength(4)
      }),
      { seed: 31 },
    ))
})

describe('what is seen in a transition', () => {
  it.each(TRANSITION_STYLES)('begins with the one and ends with the other: %s', (style) => {
    const transition = { ...FIRST_TRANSITION, style, softness: 0 }
    const [begin, end] = [entering(transition, 0), entering(transition, 1)]
    expect(begin).not.toEqual(end)
    expect(end.opacity).toBe(1)
    expect([end.x + 0, end.y + 0]).toEqual([0, 0])
    expect(end.wash).toBe(0)
    expect(leaving(transition, 0)).toMatchObject({ opacity: 1 })
  })
  it('uncovers every cell of a mosaic once, in an order that follows from its seed', () => {
    const corners = (step: number, seed: number): number =>
      entering({ ...FIRST_TRANSITION, style: 'mosaic', seed }, step / MOSAIC_STEPS).outline!.length
    const counts = Array.from({ length: MOSAIC_STEPS + 1 }, (_, step) => corners(step, 7))
    expect(counts).toEqual([...counts].sort((a, b) => a - b))
    const half = (seed: number) =>
      entering({ ...FIRST_TRANSITION, style: 'mosaic', seed }, 0.5).outline
    expect(half(1)).toEqual(half(1))
    expect(half(1)).not.toEqual(half(2))
  })
  it('is one slide in a hold, and two in a transition, the next one above', () => {
    const cycle = slideCycle(show)
    const transitions = show.slides.map(() => FIRST_TRANSITION)
    expect(sceneAt(cycle, transitions, 2)).toMatchObject([{ slide: 0, look: WHOLE }])
    expect(sceneAt(cycle, transitions, 4.6).map(({ slide }) => slide)).toEqual([0, 1])
    expect(sceneAt(cycle, transitions, cycle.seconds - 0.6).map(({ slide }) => slide)).toEqual([
      4, 0,
    ])
  })
  it('pans a slide on without a jump, also where the cycle begins anew (seed 32)', () => {
    const cycle = slideCycle(show)
    const transitions = show.slides.map(() => FIRST_TRANSITION)
    const shareOf = (slide: number, time: number): number | undefined =>
      sceneAt(cycle, transitions, time).find((each) => each.slide === slide)?.panShare
    fc.assert(
      fc.property(fc.double({ min: 0, max: 2 * 26, noNaN: true }), (time) => {
        for (let slide = 0; slide < 5; slide++) {
          const [one, other] = [shareOf(slide, time), shareOf(slide, time + 0.01)]
          if (one !== undefined && other !== undefined)
            expect(Math.abs(one - other)).toBeLessThan(0.01)
        }
      }),
      { seed: 32 },
    )
  })
})

const facts = (fields: Partial<SlideFacts>): SlideFacts => ({
  sourceId: String(Math.random()),
  placing: 'cover',
  isDrawing: false,
  width: 2400,
  height: 1600,
  palette: [{ hex: '#405060', share: 1 }],
  ...fields,
})
const WIDE = { width: 1920, height: 1080 }
const codes = (slides: readonly SlideFacts[]) =>
  slideFindings(slides, WIDE).map(({ slide, code }) => [slide, code])

describe('findings of slides together', () => {
  const usual = [facts({}), facts({}), facts({})]
  it('are none of images that go together', () => expect(codes(usual)).toEqual([]))
  it('tell an upright one among wide ones, but not where it is shown whole', () => {
    const upright = facts({ width: 1600, height: 2400 })
    expect(codes([...usual, upright])).toEqual([[3, 'portrait']])
    expect(codes([...usual, { ...upright, placing: 'contain' }])).toEqual([])
    expect(codes([upright, upright, usual[0]!]).filter(([, code]) => code === 'portrait')).toEqual(
      [],
    )
  })
  it('tell a darker and a brighter one by its lightness', () => {
    const palette = (hex: string) => facts({ palette: [{ hex, share: 1 }] })
    expect(codes([...usual, palette('#fafafa')])).toEqual([[3, 'brighter']])
    expect(codes([palette('#000000'), ...usual])).toEqual([[0, 'darker']])
    expect(lightnessOf([])).toBeNull()
    expect(lightnessOf([{ hex: '#ffffff', share: 0.2 }])).toBeCloseTo(1, 3)
  })
  it('tell one that is too small for wide screens, unless it is a drawing', () => {
    const small = facts({ width: 960, height: 540 })
    expect(slideFindings([...usual, small], WIDE)).toMatchObject([{ code: 'small', figure: 2 }])
    expect(codes([...usual, { ...small, isDrawing: true }])).toEqual([])
  })
  it('tell the same image twice, and what is not measured yet', () =>
    expect(codes([...usual, usual[1]!, facts({ palette: [] })])).toEqual([
      [3, 'repeated'],
      [4, 'unmeasured'],
    ]))
})

describe('live or clip', () => {
  it('is live where little moves, or where visitors and orders need the slides', () => {
    expect(deliveryAdvice(show).delivery).toBe('live')
    const panned = after(
      ...show.slides.map(({ id }) => ({
        type: 'slides/set' as const,
        id,
        slide: { pan: { from: { x: 0, y: 0, zoom: 1 }, to: { x: 0.1, y: 0.1, zoom: 1.5 } } },
      })),
    )
    expect(deliveryAdvice(panned).delivery).toBe('clip')
    expect(deliveryAdvice({ ...panned, order: 'shuffled' }).delivery).toBe('live')
  })
  it('costs as much as its transitions take of the cycle', () => {
    expect(slideshowCost(show)).toBeCloseTo((2.9 * 1.2) / 5.2, 6)
    const cut = after({ type: 'slides/transition', id: null, transition: { seconds: 0 } })
    expect(slideshowCost(cut)).toBe(0)
    const edge = { ...FIRST_TRANSITION, style: 'edge' } as const
    expect(transitionCost({ ...edge, softness: 0 })).toBeLessThan(transitionCost(edge))
  })
})

const known = new Map<string, KnownSource>(
  ids.map((id, index) => [
    id,
    {
      sha256: String(index).padStart(64, '0'),
      width: 2400,
      height: 1350,
      image: { mime: 'image/jpeg', bytes: 400_000, alpha: false },
    },
  ]),
)
const documentOf = (base: Slideshow): BackdropDocument => ({ ...inventBackdrop(), base })
const keysOf = (base: Slideshow): string[] =>
  posterRecipes(documentOf(base), known).map(({ recipe }) => recipeKey(recipe))

describe('the files of slides', () => {
  it('are each slide in its formats for each screen, none of them a clip', () => {
    const recipes = posterRecipes(documentOf(show), known)
    const classes = new Set(recipes.map(({ screenClass }) => screenClass)).size
    expect(recipes).toHaveLength(classes * 5 * 3)
    expect(clipRecipes(documentOf(show), known)).toEqual([])
    expect(slidesOf(documentOf(show), known)!.pictures).toHaveLength(5)
  })
  it('have keys that are short, and differ with every slide that shares their bytes', () => {
    const keys = keysOf(show)
    expect(new Set(keys).size).toBe(keys.length)
    expect(Math.max(...keys.map((key) => key.length))).toBeLessThan(300)
    const other = keysOf(after({ type: 'slides/swap', id: 5, sourceId: 'source 20' }))
    expect(other.filter((key) => keys.includes(key))).toEqual([])
    const timed = keysOf(after({ type: 'slides/shared', slides: { holdSeconds: 9 } }))
    expect(timed).toEqual(keys)
  })
  it('stay within the first limit, the first visit and the whole cycle', () => {
    const { shared } = posterRecipes(documentOf(show), known)[0]!.recipe as PosterRecipe
    expect(shared!.budgets.map(({ pictures }) => pictures)).toEqual([[0], [0, 1], [0, 1, 2, 3, 4]])
    const tight = after({
      type: 'slides/shared',
      slides: { cycleBytes: { phone: 50_000, laptop: 60_000, wide: 70_000 } },
    })
    const [wide] = posterRecipes(documentOf(tight), known)
    expect(wide!.recipe.maxBytes).toBeLessThan(70_000)
  })
  it('count on a first visit with slides 1 and 2 alone', () => {
    const posters = [0, 1, 2].map((slide) => ({
      screenClass: 'wide' as const,
      slide,
      bytes: 10_000 * (slide + 1),
    }))
    const visits = firstVisits(documentOf(show), { clips: [], posters })
    expect(visits.map(({ poster }) => poster)).toEqual([30_000, 30_000, 30_000])
    // The whole cycle has a budget of its own.
    expect(visits.map(({ cycle, page }) => cycle!.total - page)).toEqual([60_000, 60_000, 60_000])
    expect(visits.map(({ cycle }) => cycle!.budgetBytes)).toEqual(Object.values(show.cycleBytes))
  })
  it('count with whichever slide comes second, and with tiles, which browsers fetch at once', () => {
    const posters = [0, 1, 2, 3, 4].map((slide) => ({
      screenClass: 'wide' as const,
      slide,
      bytes: [10_000, 20_000, 70_000, 3_000, 5_000][slide]!,
    }))
    const heaviest = (base: Slideshow): number =>
      firstVisits(documentOf(base), { clips: [], posters })[0]!.poster
    expect(heaviest(show)).toBe(30_000)
    expect(heaviest({ ...show, order: 'visit' })).toBe(80_000)
    const tiled = after({ type: 'slides/set', id: 4, slide: { placing: 'tile' } })
    expect(heaviest(tiled)).toBe(33_000)
    expect(heaviest({ ...tiled, order: 'shuffled' })).toBe(83_000)
  })
  it('count as the one browser loads them that loads most, not the heaviest of every format', () => {
    // AVIF is larger of the one slide, JPEG of the others.
    const posters = [0, 1, 2, 3, 4].flatMap((slide) =>
      (['avif', 'webp', 'jpeg'] as const).map((format) => ({
        screenClass: 'wide' as const,
        slide,
        format,
        bytes: format === 'webp' ? 1_000 : (format === 'avif') === (slide === 0) ? 9_000 : 5_000,
      })),
    )
    const [visit] = firstVisits(documentOf(show), { clips: [], posters })
    expect(visit!.poster).toBe(14_000)
    expect(visit!.cycle!.total - visit!.page).toBe(5_000 + 4 * 9_000)
    // A slide without AVIF comes as WebP there.
    const without = posters.filter(({ slide, format }) => slide !== 1 || format !== 'avif')
    expect(firstVisits(documentOf(show), { clips: [], posters: without })[0]!.poster).toBe(14_000)
  })
  it('are clips where it is rendered to one: as long as its cycle', () => {
    const clip = after({ type: 'slides/shared', slides: { delivery: 'clip' } })
    const recipes = clipRecipes(documentOf(clip), known)
    expect(recipes.length).toBeGreaterThan(0)
    expect(recipes[0]!.recipe.sequence.frames).toBe(26 * 30)
    expect(posterRecipes(documentOf(clip), known).every(({ slide }) => slide === undefined)).toBe(
      true,
    )
  })
  it('have frames of 16 : 9, as wide as the images allow', () => {
    expect(slideshowSequence(show, known)!.whole).toEqual({ width: 2400, height: 1350 })
    expect(slideshowSequence(show, new Map())).toBeNull()
  })
})

describe('what visitors get of slides', () => {
  const told = (base: Slideshow, condition: string) =>
    outcomes(documentOf(base)).find((each) => each.condition === condition)!
  it('follows from the order without script, and is no colour where a file is missing', () => {
    expect(told(show, 'no-script').shows).toBe('motion')
    expect(told({ ...show, order: 'visit' }, 'no-script').shows).toBe('still')
    expect(told(show, 'failed-file').because).toMatch(/left out/)
  })
  it('is that of a clip where it is one', () =>
    expect(told({ ...show, delivery: 'clip' }, 'laptop').shows).toBe('clip'))
})
