import { describe, expect, it } from 'vitest'
import { sequenceSchema, type Base } from '../kinds'
import { createImage } from '../kinds/image/Image'
import { createPaint, FIRST_MOTION } from '../kinds/paint/Paint'
import { frameUnder, particleSeconds, type ParticleSequence } from '../kinds/particleSequence'
import { sequenceKey, sequenceSeconds } from '../kinds/Sequence'
import { createSlideshow } from '../kinds/slideshow/Slideshow'
import { newParticles, type Particles } from '../particles/Particles'
import { STYLES, styleOf } from '../particles/styles'
import { asVersion14 } from '../testing/olderDocuments'
import { inventBackdrop, knownAs, SAMPLE_SOURCE_ID } from '../testing/samples'
import { parseBackdrop, type BackdropDocument } from './BackdropDocument'
import {
  clipRate,
  drawnLive,
  isRendered,
  liveParticlesOf,
  motionOf,
  particlesOf,
  picturesOf,
  rendersClips,
  sequenceOf,
} from './delivered'
import { clipRecipes, pageBytes, posterRecipes, proofRecipe, recipeKey } from './recipe'

const KNOWN = knownAs({
  sha256: 'a'.repeat(64),
  width: 1920,
  height: 1080,
  image: { mime: 'image/jpeg', bytes: 400_000, alpha: false },
})
const SNOW = styleOf('quiet-snowfall')!.definition
const FOOTAGE = inventBackdrop().base

function over(
  base: Base,
  particles: Partial<Particles> = {},
  more: Partial<BackdropDocument> = {},
): BackdropDocument {
  return {
    ...inventBackdrop(),
    base,
    particles: { ...newParticles(SNOW, null), form: 'rendered', ...particles },
    ...more,
  }
}
const framesOf = (document: BackdropDocument, options = {}): ParticleSequence => {
  const sequence = sequenceOf(document, KNOWN, options)
  if (sequence?.kind !== 'particles') throw new Error('there are no particles in it')
  return sequence
}
/** Footage whose loop takes so many seconds. */
function loopOf(seconds: number, repeat: 'loop' | 'once' = 'loop'): Base {
  if (FOOTAGE.kind !== 'footage') throw new Error('the sample is footage')
  const { timing } = FOOTAGE
  const { timescale, start } = timing.cut
  const cut = { timescale, start, end: start + seconds * timescale }
  const seam = { kind: 'straight', overlapSeconds: 0 } as const
  return { ...FOOTAGE, timing: { ...timing, cut, repeat, speed: 1, seam } }
}

describe('particles rendered with their base', () => {
  it('are clips of any base that stands still or is a clip itself', () => {
    const slides = createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID])
    for (const base of [
      FOOTAGE,
      { ...slides, delivery: 'clip' } as const,
      createImage(SAMPLE_SOURCE_ID),
      createPaint(),
    ]) {
      const document = over(base)
      expect(rendersClips(document), base.kind).toBe(true)
      expect(clipRecipes(document, KNOWN).length, base.kind).toBeGreaterThan(0)
      expect(posterRecipes(document, KNOWN).length, base.kind).toBeGreaterThan(0)
      expect(liveParticlesOf(document), base.kind).toBeNull()
      for (const { recipe } of clipRecipes(document, KNOWN))
        expect(recipe.sequence.kind).toBe('particles')
    }
  })
  it.each<[string, Base]>([
    ['slides that are delivered one by one', createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID])],
    ['an image that does not fill', { ...createImage(SAMPLE_SOURCE_ID), placing: 'contain' }],
    ['an image that stays in place', { ...createImage(SAMPLE_SOURCE_ID), scrolling: 'fixed' }],
    ['colours that move by style', { ...createPaint(), motion: FIRST_MOTION }],
  ])('stay live over %s', (_, base) => {
    const document = over(base)
    expect(isRendered(document)).toBe(false)
    expect(liveParticlesOf(document)).not.toBeNull()
    expect(sequenceOf(document, KNOWN)?.kind).not.toBe('particles')
  })
  it('take one period over a still, at their rate, and have no pulse at its end', () => {
    const document = over(createImage(SAMPLE_SOURCE_ID), { frameRate: 60 })
    const sequence = framesOf(document)
    expect(sequence.frames).toBe(Math.round(SNOW.period * 60))
    expect(clipRate(document)).toEqual({ num: 60, den: 1 })
    expect(sequenceSeconds(sequence)).toBeCloseTo(sequence.definition.period, 9)
    expect(particleSeconds(sequence, sequence.frames)).toBeCloseTo(sequence.definition.period, 9)
  })
  it.each([0.4, 1.5, 3, 10, 59])(
    'divide a loop of %s s, whatever their own period is',
    (seconds) => {
      for (const { definition } of STYLES)
        for (const follows of ['own', 'whole', 'half', 'third'] as const) {
          const document = over(loopOf(seconds), { definition, follows })
          const sequence = framesOf(document)
          const turns = sequenceSeconds(sequence) / sequence.definition.period
          expect(turns).toBeCloseTo(Math.round(turns), 6)
          expect(sequence.definition.period).toBeGreaterThanOrEqual(2 - 1e-6)
          expect(sequence.frames % sequence.under.frames).toBe(0)
          expect(frameUnder(sequence, sequence.frames)).toBe(0)
          // What is drawn before a clip is made has the same period.
          expect(particlesOf(document)!.period).toBeCloseTo(sequence.definition.period, 1)
          expect(motionOf(document)!.turnSeconds).toBeCloseTo(sequenceSeconds(sequence), 1)
        }
    },
  )
  it('keep their period over what plays once', () => {
    const sequence = framesOf(over(loopOf(5, 'once'), { follows: 'own' }))
    expect(sequence.loops).toBe(false)
    expect(sequence.definition.period).toBe(SNOW.period)
    expect(sequence.frames).toBe(sequence.under.frames)
  })
  it('are as large as on the screens that a file is made for', () => {
    const document = over(createImage(SAMPLE_SOURCE_ID), {}, { fit: inventBackdrop().fit })
    const areas = (['phone', 'laptop', 'wide'] as const).map(
      (screenClass) => framesOf(document, { screenClass }).area,
    )
    for (const { width, height } of areas) expect(width / height).toBeCloseTo(16 / 9, 2)
    expect(areas[2]!.width).toBe(1920)
    // The whole picture covers a phone: only its middle is seen there.
    expect(areas[0]!.width).toBeGreaterThan(412)
  })
  it('over a paint have the shape of the screen', () => {
    const { area, size } = framesOf(over(createPaint()), { screenClass: 'phone' })
    expect(area.width).toBe(412)
    expect(size.width / size.height).toBeCloseTo(area.width / area.height, 2)
  })
  it('are other files exactly when what is seen of them is another', () => {
    const key = (document: BackdropDocument) =>
      recipeKey(clipRecipes(document, KNOWN).at(-1)!.recipe)
    const image = createImage(SAMPLE_SOURCE_ID)
    const own = key(over(image))
    expect(key(over(image, { definition: { ...SNOW, name: 'Another name' } }))).toBe(own)
    expect(key(over(image, { definition: { ...SNOW, pointer: null } }))).toBe(own)
    for (const changed of [
      { definition: { ...SNOW, seed: SNOW.seed + 1 } },
      { definition: { ...SNOW, period: SNOW.period + 1 } },
      { frameRate: 60 as const },
    ])
      expect(key(over(image, changed))).not.toBe(own)
  })
  it('cross the wire and are the same', () => {
    const sequence = framesOf(over(FOOTAGE))
    const back = sequenceSchema.parse(JSON.parse(JSON.stringify(sequence)))
    expect(back).toEqual(sequence)
    expect(sequenceKey(back)).toBe(sequenceKey(sequence))
  })
  it('are drawn over the proof of the base until their clip is made', () => {
    const document = over(FOOTAGE)
    expect(proofRecipe(document, KNOWN)!.sequence.kind).toBe('footage')
    expect(proofRecipe(over(createPaint()), KNOWN)).toBeNull()
    expect(drawnLive(document).particles!.form).toBe('live')
    expect(drawnLive(drawnLive(document))).toEqual(drawnLive(document))
  })
  it('need no script of their own, and a poster that is their first picture', () => {
    const rendered = over(createImage(SAMPLE_SOURCE_ID))
    expect(pageBytes(rendered)).toBeLessThan(pageBytes(drawnLive(rendered)))
    expect(picturesOf(rendered)).toMatchObject({ chosen: false, densities: [1] })
    for (const { recipe } of posterRecipes(rendered, KNOWN))
      expect(recipe).toMatchObject({ picture: { kind: 'first' }, sequence: { kind: 'particles' } })
  })
  it('were all drawn by the script in documents of version 12', () => {
    const { form: _, ...particles } = newParticles(SNOW, 'quiet-snowfall')
    const read = parseBackdrop({ ...asVersion14(inventBackdrop()), version: 12, particles })
    expect(read.data?.particles).toEqual(newParticles(SNOW, 'quiet-snowfall'))
    expect(
      parseBackdrop({ ...asVersion14(inventBackdrop()), version: 12, particles: null }).success,
    ).toBe(true)
  })
})
