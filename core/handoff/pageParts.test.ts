import { gzipSync } from 'node:zlib'
import fc from 'fast-check'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { pageParts } from '../backdrop/recipe'
import { SCREEN_CLASSES } from '../fit/screens'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import { EASINGS } from '../kinds/easing'
import { createImage, FIRST_DRIFT, type ImageBase } from '../kinds/image/Image'
import { MAX_GRADIENTS, MAX_STOPS, type Paint } from '../kinds/paint/Paint'
import { createSlideshow, type Slideshow } from '../kinds/slideshow/Slideshow'
import { DIRECTIONS, TRANSITION_STYLES, type Transition } from '../kinds/slideshow/transition'
import { newParticles } from '../particles/Particles'
import { STYLES } from '../particles/styles'
import type { Words } from '../copy/Words'
import { inventBackdrop, SAMPLE_SOURCE_ID } from '../testing/samples'
import { emitRegion } from './emitMarkup'
import { emitBackdropStyle, emitCopyStyle } from './emitStyle'

/* What budgets allow for markup and style of bases without a clip, against the real ones. */

const ID = 'k3f9a2'
const NONE: DeliveredMedia = { clips: [], posters: [], placeholder: null }
const sent = (text: string): number => gzipSync(text).byteLength
const styleOf = (document: BackdropDocument, media: DeliveredMedia): number =>
  sent(emitBackdropStyle(ID, document, media)) + sent(emitCopyStyle(ID, document, media))

const thousandths = fc.integer({ min: 0, max: 1000 }).map((value) => value / 1000)
const color = fc
  .integer({ min: 0, max: 0xffffff })
  .map((value) => `#${value.toString(16).padStart(6, '0')}`)
const paint: fc.Arbitrary<Paint> = fc.record({
  kind: fc.constant('paint'),
  color,
  gradients: fc.array(
    fc.record({
      shape: fc.constantFrom('linear', 'radial', 'conic'),
      angleDeg: fc.integer({ min: 0, max: 360 }),
      centre: fc.record({ x: thousandths, y: thousandths }),
      radius: thousandths.map((value) => 0.1 + value),
      space: fc.constantFrom('oklab', 'srgb'),
      opacity: fc.oneof(fc.constant(1), thousandths),
      stops: fc
        .array(fc.record({ at: thousandths, color }), { minLength: 2, maxLength: MAX_STOPS })
        .map((stops) => stops.sort((one, other) => one.at - other.at)),
    }),
    { maxLength: MAX_GRADIENTS },
  ),
  blend: fc.constantFrom('normal', 'overlay'),
  motion: fc.option(
    fc.record({
      moves: fc.constantFrom('angle', 'centre', 'stops'),
      amount: thousandths.map((value) => Math.max(0.05, value)),
      seconds: fc.integer({ min: 8, max: 60 }),
    }),
  ),
  dither: fc.boolean(),
})

describe('what a budget allows for the page', () => {
  it('is enough for the style of any paint, and not much more (seed 17)', () => {
    fc.assert(
      fc.property(paint, (base) => {
        const document = { ...inventBackdrop(), base }
        const { style, script } = pageParts(document)
        const real = styleOf(document, NONE)
        expect(real).toBeLessThanOrEqual(style)
        expect(style).toBeLessThan(real * 1.35)
        expect(script > 0).toBe(base.motion !== null && base.gradients.length > 0)
      }),
      { seed: 17, numRuns: 150 },
    )
  })
  it.each(['cover', 'contain', 'tile'] as const)(
    'is enough for an image with files for all screens in all formats and densities: %s',
    (placing) => {
      // Everything that adds a rule.
      const base: ImageBase = {
        ...createImage(SAMPLE_SOURCE_ID),
        placing,
        drift: FIRST_DRIFT,
        scrolling: 'fixed',
        opacity: 0.85,
      }
      const plain = inventBackdrop()
      const ownFocal = { phone: { x: 0.333, y: 0.125 }, laptop: { x: 0.875, y: 0.667 } }
      const document = { ...plain, base, fit: { ...plain.fit, ownFocal } }
      const names = fc.sample(fc.stringMatching(/^[0-9a-f]{10}$/), { numRuns: 18, seed: 5 })
      const posters = SCREEN_CLASSES.flatMap((screenClass, row) =>
        [1, 2].flatMap((density) =>
          (['avif', 'webp', 'jpeg'] as const).map((format, at) => ({
            screenClass,
            density,
            format,
            url: `https://media.example/backgrounds/front-page/media/image-${screenClass}-${1000 * (row + 1) * density}-${names[row * 6 + density * 3 - 3 + at]}.${format}`,
            width: 1000 * (row + 1) * density,
            height: 562 * (row + 1) * density,
            bytes: 1,
          })),
        ),
      )
      // As little compressible as a picture of 20 pixels' width.
      const placeholder = {
        colour: '#123456',
        dataUrl: `data:image/webp;base64,${fc.sample(fc.stringMatching(/^[A-Za-z0-9+/]{340}$/), { numRuns: 1, seed: 6 })[0]}`,
      }
      const media = { clips: [], posters, placeholder }
      const parts = pageParts(document)
      expect(sent(emitRegion(ID, document, media, 'fragment'))).toBeLessThanOrEqual(parts.markup)
      expect(styleOf(document, media)).toBeLessThanOrEqual(parts.style)
    },
  )
})

const transition: fc.Arbitrary<Transition> = fc.record({
  style: fc.constantFrom(...TRANSITION_STYLES),
  seconds: fc.integer({ min: 0, max: 50 }).map((tenths) => tenths / 10),
  easing: fc.constantFrom(...EASINGS),
  direction: fc.constantFrom(...DIRECTIONS),
  color,
  softness: thousandths,
  angleDeg: fc.integer({ min: 0, max: 360 }),
  seed: fc.integer({ min: 0, max: 1000 }),
})
const point = fc.record({ x: thousandths, y: thousandths })
const view = fc
  .record({ x: thousandths, y: thousandths, zoom: thousandths.map((value) => 1 + value) })
  .map(({ x, y, zoom }) => ({ x: x * (1 - 1 / zoom), y: y * (1 - 1 / zoom), zoom }))
/** Words that no two slides share, as texts for visitors are. */
const phrase = (maxLength: number): fc.Arbitrary<string> =>
  fc
    .array(fc.string({ minLength: 2, maxLength: 11 }), { maxLength: maxLength / 12 })
    .map((each) => each.join(' '))
const words: fc.Arbitrary<Words> = fc.record({
  heading: phrase(60),
  body: phrase(180),
  button: fc.record({ label: phrase(24), href: fc.constantFrom('', '/journeys', '#stops') }),
})
const decided = fc.record({
  holdSeconds: fc.option(fc.integer({ min: 5, max: 200 }).map((tenths) => tenths / 10)),
  transition: fc.option(transition),
  placing: fc.constantFrom('cover', 'contain', 'tile'),
  background: color,
  focal: fc.option(
    fc.record({
      focal: point,
      ownFocal: fc.record({ phone: fc.option(point), laptop: fc.option(point) }),
    }),
  ),
  pan: fc.option(fc.record({ from: view, to: view })),
  words: fc.option(words),
})
const slideshow: fc.Arbitrary<Slideshow> = fc
  .record({
    slides: fc.array(decided, { minLength: 2, maxLength: 24 }),
    transition,
    order: fc.constantFrom('given', 'shuffled', 'visit', 'day'),
    controls: fc.record({
      arrows: fc.boolean(),
      markers: fc.boolean(),
      place: fc.constantFrom('bottom-left', 'bottom-centre', 'bottom-right'),
    }),
  })
  .map(({ slides, ...fields }) => {
    const made = createSlideshow(slides.map(() => SAMPLE_SOURCE_ID))
    const own = made.slides.map((slide, index) => ({ ...slide, ...slides[index]! }))
    return { ...made, ...fields, slides: own }
  })

/** The files of a slideshow for all screens in all formats, with addresses as long as they get. */
const slideMedia = ({ slides }: Slideshow): DeliveredMedia => ({
  ...NONE,
  posters: SCREEN_CLASSES.toReversed().flatMap((screenClass, row) =>
    slides.flatMap((_, slide) =>
      (['avif', 'webp', 'jpeg'] as const).map((format, at) => ({
        screenClass,
        density: 1,
        slide,
        format,
        url: `media/k3f9a2-slide${slide + 1}-${screenClass}-${1920 - 640 * row}-${((slide * 9 + row * 3 + at) * 2654435761).toString(16).slice(-8)}.${format}`,
        width: 1920,
        height: 1080,
        bytes: 40_000 + at,
      })),
    ),
  ),
})

describe('what a budget allows for a slideshow', () => {
  it('is enough for its style and markup, and not far too much (seed 18)', () =>
    fc.assert(
      fc.property(slideshow, (base) => {
        const document = { ...inventBackdrop(), base }
        const media = slideMedia(base)
        const { style, markup } = pageParts(document)
        const realStyle = styleOf(document, media)
        const realMarkup = sent(emitRegion(ID, document, media, 'fragment'))
        expect(realStyle).toBeLessThanOrEqual(style)
        expect(realMarkup).toBeLessThanOrEqual(markup)
        expect(style).toBeLessThan(realStyle * 3)
        expect(markup).toBeLessThan(realMarkup * 3)
      }),
      { seed: 18, numRuns: 120 },
    ))
  it.each(STYLES)('is enough for what particles add: $id', ({ id, definition }) => {
    const bare = { ...inventBackdrop(), base: createImage(SAMPLE_SOURCE_ID) }
    const document = { ...bare, particles: newParticles(definition, id) }
    const markup = (of: BackdropDocument): number => sent(emitRegion(ID, of, NONE, 'fragment'))
    const [parts, without] = [pageParts(document), pageParts(bare)]
    const realMarkup = markup(document) - markup(bare)
    const allowed = parts.markup - without.markup
    expect(realMarkup).toBeLessThanOrEqual(allowed)
    expect(allowed).toBeLessThan(realMarkup * 1.6)
    expect(styleOf(document, NONE)).toBeLessThanOrEqual(parts.style)
  })
  it('is enough for sprites, which are hardly compressible', async () => {
    const bare = { ...inventBackdrop(), base: createImage(SAMPLE_SOURCE_ID) }
    const { definition } = STYLES[0]!
    for (const side of [24, 64]) {
      const noise = Buffer.from(
        Array.from({ length: side * side * 4 }, (_, at) => (at * at * 2_654_435_761) >>> 24),
      )
      const webp = await sharp(noise, { raw: { width: side, height: side, channels: 4 } })
        .webp({ quality: 40 })
        .toBuffer()
      const sprite = `data:image/webp;base64,${webp.toString('base64')}`
      const shapes = [{ sprite, weight: 1 }]
      const document = { ...bare, particles: newParticles({ ...definition, shapes }, null) }
      const real =
        sent(emitRegion(ID, document, NONE, 'fragment')) -
        sent(emitRegion(ID, bare, NONE, 'fragment'))
      const allowed = pageParts(document).markup - pageParts(bare).markup
      expect(real).toBeLessThanOrEqual(allowed)
      expect(allowed).toBeLessThan(real * 1.3)
    }
  })
})
