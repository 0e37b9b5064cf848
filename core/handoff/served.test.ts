import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { firstVisits } from '../backdrop/firstVisit'
import { clipsTaken } from '../backdrop/listedClips'
import { classServing, clipRecipes, containerOf, posterRecipes } from '../backdrop/recipe'
import { SCREEN_CLASSES, type ScreenClass } from '../fit/screens'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import { inventBackdrop, knownAs, reduced as reduce } from '../testing/samples'
import { FAMILIES, type Family } from '../weight/families'
import { emitBackdrop } from './emitMarkup'

/*
 * Which files a window is offered, read from the markup as a browser reads it: the first source
 * whose condition holds and whose format it plays.
 */

const FROM = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
const CODECS: Record<Family, string> = {
  av1: 'av01.0.08M.08',
  vp9: 'vp09.00.40.08',
  h264: 'avc1.640028',
}
const BROWSERS: readonly (readonly Family[])[] = [
  FAMILIES,
  ['av1', 'h264'],
  ['vp9', 'h264'],
  ['h264'],
]

/** The files of a document, each of as many bytes as its place in the list tells. */
function mediaOf(document: BackdropDocument): DeliveredMedia {
  return {
    clips: clipRecipes(document, FROM).map(({ screenClass, recipe }, index) => ({
      screenClass,
      family: recipe.family,
      container: containerOf(recipe),
      url: `media/${screenClass}-${recipe.family}`,
      codec: CODECS[recipe.family],
      width: recipe.width,
      height: recipe.height,
      bytes: 1000 + index,
    })),
    posters: posterRecipes(document, FROM).map(({ screenClass, density, recipe }, index) => ({
      screenClass,
      density,
      format: recipe.format,
      url: `media/${screenClass}-${recipe.format}`,
      width: recipe.width,
      height: recipe.height,
      bytes: 100 + index,
    })),
    placeholder: null,
  }
}

/**
 * Whether the condition of a source holds in a window whose visitor has asked for nothing. Throws
 * on a condition that is not known here.
 */
function holds(condition: string | undefined, window: number): boolean {
  return (condition ?? '')
    .split(' and ')
    .filter(Boolean)
    .every((part) => {
      if (part === '(prefers-reduced-motion: no-preference)') return true
      const min = /^\(min-width: (\d+)px\)$/.exec(part)
      if (!min) throw new Error(`what is ${part}?`)
      return window >= Number(min[1])
    })
}

/** The clip that a browser takes in a window; null where it is offered none. */
function taken(markup: string, window: number, plays: readonly Family[]): string | null {
  const sources = [
    ...markup.matchAll(/<source src="([^"]+)" type="([^"]+)"(?: media="([^"]+)")?>/g),
  ]
  return (
    sources.find(
      ([, , type, media]) =>
        plays.some((family) => type!.includes(CODECS[family])) && holds(media, window),
    )?.[1] ?? null
  )
}

const classOf = ({ weight }: BackdropDocument, window: number): ScreenClass =>
  window <= weight.breakpoints.phone
    ? 'phone'
    : window <= weight.breakpoints.laptop
      ? 'laptop'
      : 'wide'

const ROW = fc.record({
  enabled: fc.boolean(),
  av1: fc.boolean(),
  vp9: fc.boolean(),
  h264: fc.boolean(),
  budgetBytes: fc.integer({ min: 100, max: 4000 }),
})
/** Any ladder that the bench lets a designer make. */
const DOCUMENTS = fc
  .record({
    phone: ROW,
    laptop: ROW,
    wide: ROW,
    phoneLimit: fc.integer({ min: 400, max: 800 }),
    laptopLimit: fc.integer({ min: 1000, max: 1800 }),
    poster: fc.boolean(),
  })
  .map(({ phone, laptop, wide, phoneLimit, laptopLimit, poster }) => {
    let document = reduce(inventBackdrop(), {
      type: 'weight/set',
      weight: { breakpoints: { phone: phoneLimit, laptop: laptopLimit } },
    })
    if (poster)
      document = reduce(document, { type: 'behaviour/set', behaviour: { phone: 'poster' } })
    for (const [screenClass, row] of Object.entries({ phone, laptop, wide }) as [
      ScreenClass,
      typeof phone,
    ][]) {
      document = reduce(document, {
        type: 'weight/row',
        screenClass,
        row: { enabled: row.enabled, budgetBytes: row.budgetBytes * 1000 },
      })
      for (const format of FAMILIES)
        document = reduce(document, {
          type: 'weight/format',
          screenClass,
          format,
          enabled: row[format],
        })
    }
    return document
  })
const WINDOWS = fc.integer({ min: 200, max: 3000 })

describe('what a window is offered', () => {
  it('is a file of its own screen wherever the browser plays a format that this screen has (seed 81)', () => {
    fc.assert(
      fc.property(DOCUMENTS, WINDOWS, (document, window) => {
        const media = mediaOf(document)
        const markup = emitBackdrop(document, media)
        const screenClass = classOf(document, window)
        const gets =
          screenClass === 'phone' && document.behaviour.phone === 'poster'
            ? null
            : classServing(
                screenClass,
                media.clips.map((clip) => clip.screenClass),
              )
        for (const plays of BROWSERS) {
          const own = media.clips.find(
            (clip) => clip.screenClass === gets && plays.includes(clip.family),
          )
          if (own)
            expect(taken(markup, window, plays), `${window} px, ${plays.join()}`).toBe(own.url)
        }
      }),
      { seed: 81, numRuns: 400 },
    )
  })
  it('is something that it plays, whatever it plays, unless phones get the poster (seed 82)', () => {
    fc.assert(
      fc.property(DOCUMENTS, WINDOWS, (document, window) => {
        const markup = emitBackdrop(document, mediaOf(document))
        const poster =
          document.behaviour.phone === 'poster' && window <= document.weight.breakpoints.phone
        for (const plays of BROWSERS)
          expect(taken(markup, window, plays) === null, `${window} px, ${plays.join()}`).toBe(
            poster || mediaOf(document).clips.length === 0,
          )
      }),
      { seed: 82, numRuns: 400 },
    )
  })
  it('is what the figures of a first visit count, no more and no less (seed 83)', () => {
    fc.assert(
      fc.property(DOCUMENTS, (document) => {
        const media = mediaOf(document)
        const markup = emitBackdrop(document, media)
        const visits = firstVisits(document, media)
        const { phone, laptop } = document.weight.breakpoints
        for (const [screenClass, windows] of [
          ['phone', [200, phone]],
          ['laptop', [phone + 1, laptop]],
          ['wide', [laptop + 1, 3000]],
        ] as const) {
          const urls = new Set(
            windows.flatMap((window) =>
              BROWSERS.flatMap((plays) => taken(markup, window, plays) ?? []),
            ),
          )
          expect([...urls].sort()).toEqual(
            clipsTaken(screenClass, document, media.clips)
              .map(({ url }) => url)
              .sort(),
          )
          const heaviest = Math.max(
            0,
            ...media.clips.filter(({ url }) => urls.has(url)).map(({ bytes }) => bytes),
          )
          expect(visits.find((visit) => visit.screenClass === screenClass)!.clip).toBe(heaviest)
        }
      }),
      { seed: 83, numRuns: 200 },
    )
  })
  it('is the phone’s own file on a phone, though only laptops have one that every browser plays', () => {
    const document = (['phone', 'wide'] as const).reduce(
      (now, screenClass) =>
        reduce(now, { type: 'weight/format', screenClass, format: 'h264', enabled: false }),
      inventBackdrop(),
    )
    const markup = emitBackdrop(document, mediaOf(document))
    expect(taken(markup, 390, FAMILIES)).toBe('media/phone-av1')
    expect(taken(markup, 390, ['h264'])).toBe('media/laptop-h264')
    expect(taken(markup, 1920, ['h264'])).toBe('media/laptop-h264')
    // Whoever plays VP9 alone of the finer ones is not sent a phone's file on a laptop that has its
    // own.
    const split = reduce(
      reduce(document, {
        type: 'weight/format',
        screenClass: 'laptop',
        format: 'vp9',
        enabled: false,
      }),
      { type: 'weight/format', screenClass: 'phone', format: 'av1', enabled: false },
    )
    expect(taken(emitBackdrop(split, mediaOf(split)), 1280, ['vp9', 'h264'])).toBe(
      'media/laptop-h264',
    )
  })
  it('costs an old phone what it really gets', () => {
    const document = reduce(inventBackdrop(), {
      type: 'weight/format',
      screenClass: 'phone',
      format: 'h264',
      enabled: false,
    })
    const bytes = (screenClass: ScreenClass, family: Family): number =>
      family === 'h264' ? 800_000 : screenClass === 'phone' ? 200_000 : 600_000
    const clips = clipRecipes(document, FROM).map(({ screenClass, recipe }) => ({
      screenClass,
      family: recipe.family,
      bytes: bytes(screenClass, recipe.family),
    }))
    expect(firstVisits(document, { clips, posters: [] }).map(({ clip }) => clip)).toEqual([
      800_000, 800_000, 800_000,
    ])
    expect(
      firstVisits(inventBackdrop(), {
        clips: [...clips, { screenClass: 'phone', family: 'h264', bytes: 300_000 }],
        posters: [],
      })[0]!.clip,
    ).toBe(300_000)
  })
  it('counts no clip where one that is to be taken is not made', () => {
    const clips = clipRecipes(inventBackdrop(), FROM).map(({ screenClass, recipe }) => ({
      screenClass,
      family: recipe.family,
      bytes: screenClass === 'laptop' && recipe.family === 'vp9' ? 0 : 500,
    }))
    expect(
      Object.fromEntries(
        firstVisits(inventBackdrop(), { clips, posters: [] }).map(({ screenClass, clip }) => [
          screenClass,
          clip,
        ]),
      ),
    ).toEqual({ phone: 500, laptop: 0, wide: 500 })
  })
})

describe('the poster that a window is offered', () => {
  it('is its own screen’s, in the lightest format that the browser knows (seed 84)', () => {
    fc.assert(
      fc.property(
        DOCUMENTS,
        WINDOWS,
        fc.subarray(['avif', 'webp'] as const),
        (document, window, finer) => {
          const media = mediaOf(document)
          const markup = emitBackdrop(document, media)
          const sources = [
            ...markup.matchAll(
              /<source srcset="([^"]+)" type="image\/([^"]+)"(?: media="([^"]+)")?>/g,
            ),
          ]
          const knows = [...finer, 'jpeg'] as const
          const url =
            sources.find(
              ([, , format, condition]) =>
                knows.some((each) => each === format) && holds(condition, window),
            )?.[1] ?? /<img class="tln-poster" src="([^"]+)"/.exec(markup)![1]
          const screenClass = classServing(
            classOf(document, window),
            media.posters.map((poster) => poster.screenClass),
          )!
          const own = media.posters.filter(
            (poster) =>
              poster.screenClass === screenClass && knows.some((each) => each === poster.format),
          )
          expect(url).toBe(
            own.reduce((min, poster) => (poster.bytes < min.bytes ? poster : min)).url,
          )
        },
      ),
      { seed: 84, numRuns: 300 },
    )
  })
})

it('renditionss that are tried are those of all kinds', () => {
  const seen = new Set<string>()
  fc.assert(
    fc.property(
      DOCUMENTS,
      (document) =>
        void seen.add(
          SCREEN_CLASSES.map((each) =>
            Number(mediaOf(document).clips.some((clip) => clip.screenClass === each)),
          ).join(''),
        ),
    ),
    { seed: 85, numRuns: 300 },
  )
  expect(seen.size).toBeGreaterThan(4)
})
