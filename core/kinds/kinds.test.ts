import { describe, expect, it } from 'vitest'
import { clipRecipes, posterRecipes, proofRecipe, recipeKey } from '../backdrop/recipe'
import { type BackdropAction } from '../backdrop/reduce'
import { usedSources } from '../backdrop/usedSources'
import { inventBackdrop, knownAs, SAMPLE_SOURCE_ID, reduced as reduce } from '../testing/samples'
import {
  baseSchema,
  kindOf,
  KINDS,
  reduceBase,
  sequenceSchema,
  type Base,
  type BaseAction,
} from '.'
import { createImage } from './image/Image'
import { createPaint } from './paint/Paint'
import { createSlideshow } from './slideshow/Slideshow'
import { plainSequence, type FootageSequence } from './footage/footageSequence'
import { sequenceKey, sequenceSeconds } from './Sequence'
import { evenScrim } from '../scrim/Scrim'

const SHA = 'a'.repeat(64)
const KNOWN = knownAs({
  sha256: SHA,
  width: 1920,
  height: 1080,
  image: { mime: 'image/jpeg', bytes: 400_000, alpha: false },
})
const after = (...actions: BackdropAction[]) => actions.reduce(reduce, inventBackdrop())

/** One base of every kind: a kind without one fails the first test. */
const BASES: Readonly<Record<keyof typeof KINDS, Base>> = {
  footage: inventBackdrop().base,
  slideshow: createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID]),
  image: createImage(SAMPLE_SOURCE_ID),
  paint: createPaint(),
}

describe.each(Object.keys(KINDS) as (keyof typeof KINDS)[])('the kind %s', (name) => {
  const base = BASES[name]
  const kind = kindOf(base)
  const known = kind.sequence(base, KNOWN)!
  it('takes its own base back from JSON', () => {
    expect(base.kind).toBe(name)
    expect(baseSchema.parse(JSON.parse(JSON.stringify(base)))).toEqual(base)
  })
  it('names its sources, each of which the document uses', () => {
    const document = { ...inventBackdrop(), base }
    expect(usedSources(document)).toEqual(kind.sources(base))
  })
  it('has a sequence of frames at a rate, of even shape, from its sources', () => {
    expect(known.frames).toBeGreaterThan(0)
    expect(sequenceSeconds(known)).toBeGreaterThan(0)
    expect(known.inputs).toEqual(
      kind.sources(base).map(({ sourceId }) => KNOWN.get(sourceId)!.sha256),
    )
  })
  it('has none where a source that it needs is not known', () =>
    expect(kind.sequence(base, new Map()) === null).toBe(kind.sources(base).length > 0))
  it('computes again what follows from the rest when a sequence crosses the wire', () => {
    const sent = JSON.parse(JSON.stringify(known)) as FootageSequence
    expect(sequenceSchema.parse(sent)).toEqual(known)
    const forged = { ...sent, frames: 1, inputs: ['x'], keys: { ...sent.keys, frames: 'other' } }
    expect(sequenceSchema.parse(forged)).toEqual(known)
  })
  it('has one frame where no clip is made of it, and moves by style or not at all', () => {
    if (kind.clips(base)) return expect(kind.motion(base)).not.toBeNull()
    // What style moves slide by slide has frames of its whole cycle.
    if (kind.slides?.(base, KNOWN)) return expect(known.frames).toBeGreaterThan(1)
    expect([known.frames, kind.motion(base)]).toEqual([1, null])
  })
  it('writes layers that a folder can be made of, and describes itself for the manifest', () => {
    const layers = kind.layers(base, { clips: [], posters: [], placeholder: null })
    expect(layers.length).toBeGreaterThan(0)
    expect(kind.describe(base, []).kind).toBe(name)
  })
  it('takes no action of another kind', () => {
    const others: BaseAction[] = [
      { type: 'timing/speed', speed: 3 },
      { type: 'slides/cycle', seconds: 44 },
      { type: 'image/set', image: { opacity: 0.25 } },
      { type: 'paint/set', paint: { color: '#abcdef' } },
    ]
    const taken = others.filter((action) => reduceBase(base, action) !== base)
    expect(taken.map(({ type }) => type.split('/')[0])).toEqual([
      { footage: 'timing', slideshow: 'slides', image: 'image', paint: 'paint' }[name],
    ])
  })
})

describe('sequences of footage', () => {
  it('show a part of the picture, and another rate, as other sequences', () => {
    const { base } = inventBackdrop()
    const known = kindOf(base).sequence(base, KNOWN)!
    const part = kindOf(base).sequence(base, KNOWN, {
      part: { x: 0, y: 0, width: 0.5, height: 1 },
    })!
    expect(part.size.width).toBe(known.size.width / 2)
    expect(sequenceKey(part)).not.toBe(sequenceKey(known))
    const slow = kindOf(base).sequence(base, KNOWN, { frameRate: { num: 12, den: 1 } })!
    expect(slow.frames).toBe(known.frames / 2)
    expect(kindOf(base).sequence(base, KNOWN, { frameRate: null })).toEqual(known)
  })
})

describe('the keys of footage', () => {
  const { document, ids } = {
    document: after(
      { type: 'timing/seam', seam: { kind: 'blended', overlapSeconds: 0.6 } },
      {
        type: 'picture/set',
        picture: {
          crop: { x: 0.1, y: 0.2, width: 0.7, height: 0.6 },
          quarterTurns: 1,
          mirrored: true,
          matte: '#ff0000',
        },
      },
    ),
    ids: `${SHA}:648x1344:matte#ff0000:0.1,0.2,0.7,0.6,turn1,mirrored`,
  }
  // Files that were rendered before sequences existed stay valid: their keys are the same.
  it('are those that files were rendered under before', () => {
    expect(recipeKey(proofRecipe(inventBackdrop(), KNOWN)!)).toBe(
      `proof.4:${SHA}:640x360:h264:0-240@24:x1:24/1of24/1:straight:loop:quick`,
    )
    expect(clipRecipes(document, KNOWN).map(({ recipe }) => recipeKey(recipe))).toContain(
      `clip.9:${ids}:h264:0-240@24:x1:24/1of24/1:blend14:loop:3795000`,
    )
    expect(posterRecipes(document, KNOWN).map(({ recipe }) => recipeKey(recipe))).toContain(
      `poster.4:${ids}:jpeg:9.41667sx1:24/1of24/1:first:200000`,
    )
  })
  it('differ with every decision that frames depend on, and with nothing else', () => {
    const keyAfter = (...actions: BackdropAction[]): string =>
      sequenceKey(kindOf(document.base).sequence(after(...actions).base, KNOWN)!)
    const plain = keyAfter()
    for (const action of [
      { type: 'timing/speed', speed: 2 },
      { type: 'timing/repeat', repeat: 'once' },
      { type: 'timing/blend-frames', enabled: true },
      { type: 'timing/seam', seam: { kind: 'ping-pong' } },
      { type: 'picture/set', picture: { mirrored: true } },
    ] as const)
      expect(keyAfter(action), action.type).not.toBe(plain)
    expect(keyAfter({ type: 'timing/at-end', atEnd: 'fade' })).toBe(plain)
    expect(keyAfter({ type: 'scrim/set', scrim: evenScrim('#14101c', 0.9) })).toBe(plain)
  })
})

describe('the wire', () => {
  const plain = plainSequence({
    sourceSha256: SHA,
    size: { width: 1280, height: 720 },
    cut: { timescale: 25, start: 0, end: 50 },
    frameRate: { num: 25, den: 1 },
    loops: true,
  })
  it.each([
    ['another kind', { ...plain, kind: 'painting' }],
    [
      'an end before the start',
      { ...plain, loop: { ...plain.loop, cut: { timescale: 25, start: 9, end: 3 } } },
    ],
    ['a digest that is none', { ...plain, sourceSha256: 'x' }],
    [
      'a crop outside',
      { ...plain, shape: { ...plain.shape, crop: { x: 2, y: 0, width: 1, height: 1 } } },
    ],
    ['no size', { ...plain, size: { width: 0, height: 0 } }],
  ])('refuses a sequence with %s', (_, sequence) =>
    expect(sequenceSchema.safeParse(sequence).success).toBe(false),
  )
})

describe('what was found', () => {
  const whole = { fromMs: null, toMs: null, figure: 0, repair: null }
  it('leaves out notes, and what a crop has removed', () => {
    const place = { x: 0, y: 0.1, width: 1, height: 0.8 }
    const bars = { ...whole, code: 'bars', weight: 'fix', place } as const
    const note = { ...whole, code: 'high-frame-rate', weight: 'note', place: null }
    const findings = [bars, note] as never
    const known = knownAs({ sha256: SHA, width: 1920, height: 1080, findings })
    const { base } = inventBackdrop()
    expect(kindOf(base).checks(base, known)).toEqual([bars])
    const cropped = after({ type: 'picture/set', picture: { crop: place } }).base
    expect(kindOf(cropped).checks(cropped, known)).toEqual([])
  })
  it('is told of the part that is used, and of nothing cropped away', () => {
    const finding = (fromMs: number, toMs: number) =>
      ({ code: 'card', weight: 'fix', fromMs, toMs, place: null }) as never
    const known = knownAs({
      sha256: SHA,
      width: 1920,
      height: 1080,
      findings: [finding(0, 1500), finding(11_000, 12_000)],
    })
    const { base } = inventBackdrop()
    expect(kindOf(base).checks(base, known)).toEqual([finding(0, 1500)])
    const later = after({ type: 'timing/cut', cut: { timescale: 24, start: 48, end: 240 } }).base
    expect(kindOf(later).checks(later, known)).toEqual([])
    expect(
      kindOf(base).checks(base, new Map([[SAMPLE_SOURCE_ID, KNOWN.get(SAMPLE_SOURCE_ID)!]])),
    ).toEqual([])
  })
})
