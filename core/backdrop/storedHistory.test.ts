import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  asVersion10,
  asVersion11,
  asVersion14,
  asVersion15,
  asVersion16,
  asVersion17,
  asVersion18,
  asVersion4,
  asVersion5,
  asVersion6,
  asVersion7,
  asVersion8,
  asVersion9,
} from '../testing/olderDocuments'
import { createSlideshow, type Slideshow } from '../kinds/slideshow/Slideshow'
import { inventBackdrop, asFootage, SAMPLE_SOURCE_ID } from '../testing/samples'
import { DOCUMENT_VERSION, parseBackdrop, type BackdropDocument } from './BackdropDocument'
import {
  applyChanges,
  differences,
  EMPTY_HISTORY,
  record,
  redo,
  undo,
  type History,
} from './history'
import { readStored } from './storedHistory'
import { evenScrim } from '../scrim/Scrim'

const DOCUMENT = inventBackdrop()

/** Documents as each version wrote them, with the same decisions. */
const OLD: Readonly<Record<number, Record<string, unknown>>> = (() => {
  const version4 = asVersion4(DOCUMENT)
  const { weight, timing: _timing, picture, still, ...rest } = version4
  const { timing } = DOCUMENT.base
  const { ladder, limits } = weight
  const row = (name: string) => ladder[name]!
  const budgets = {
    phone: row('phone')['budget'],
    laptop: row('laptop')['budget'],
    wide: row('wide')['budget'],
  }
  const widths = {
    phone: row('phone')['width'],
    laptop: row('laptop')['width'],
    wide: row('wide')['width'],
  }
  const formats = { h264: true, vp9: true }
  const straight = {
    cut: timing.cut,
    speed: timing.speed,
    repeat: timing.repeat,
    frameRate: timing.frameRate,
  }
  const bare = (screenClass: string): object => {
    const { soften: _, ...kept } = row(screenClass)
    return kept
  }
  return {
    0: {
      ...rest,
      version: 0,
      timing: straight,
      weight: { budgetBytes: 2_500_000, widths, formats },
    },
    1: { ...rest, version: 1, timing: straight, weight: { budgets, widths, formats } },
    2: { ...rest, version: 2, timing, picture, still, weight: { budgets, widths, formats } },
    3: {
      ...rest,
      version: 3,
      timing,
      picture,
      still,
      weight: {
        ladder: { phone: bare('phone'), laptop: bare('laptop'), wide: bare('wide') },
        limits,
        goal: 'budget',
        ssim: 0.97,
        denoise: 0,
      },
    },
    4: version4,
    5: asVersion5(DOCUMENT),
    6: asVersion6(DOCUMENT),
    7: asVersion7(DOCUMENT),
    8: asVersion8(DOCUMENT),
    9: asVersion9(DOCUMENT),
    10: asVersion10(DOCUMENT),
    11: asVersion11(DOCUMENT),
    14: asVersion14(DOCUMENT),
    15: asVersion15(DOCUMENT),
    16: asVersion16(DOCUMENT),
    17: asVersion17(DOCUMENT),
    18: asVersion18(DOCUMENT),
  }
})()

/** A history as an older version kept it: the same steps, without the version of its documents. */
const unversioned = ({ past, future }: History): unknown => ({ past, future })

/** Sets values at paths, one step each, as an older reducer would have. */
function edit(
  document: unknown,
  edits: readonly (readonly [string, unknown])[],
): { document: unknown; history: unknown } {
  const past = edits.map(([path, to], index) => {
    const before = edits
      .slice(0, index)
      .reduce<unknown>((value, [at, set]) => setAt(value, at, set), document)
    return { label: path, gesture: null, changes: differences(before, setAt(before, path, to)) }
  })
  return {
    document: edits.reduce<unknown>((value, [path, to]) => setAt(value, path, to), document),
    history: { past, future: [] },
  }
}
const setAt = (document: unknown, path: string, to: unknown): unknown =>
  applyChanges(document, [{ path: path.split('.'), from: undefined, to }], 'forward')

describe.each(Object.keys(OLD).map(Number))('a backdrop stored under version %i', (version) => {
  const old = OLD[version]!
  it('opens as a document of today', () => {
    const { document, history } = readStored(old, unversioned(EMPTY_HISTORY))
    expect(document.version).toBe(DOCUMENT_VERSION)
    expect(history).toEqual(EMPTY_HISTORY)
  })
  it('is led by undo and redo to what its steps meant, and stays valid on the way', () => {
    // Since version 8 footage's own decisions are those of the base.
    const speedAt = version < 8 ? 'timing.speed' : 'base.timing.speed'
    // Until version 14 a scrim was one layer.
    const scrimAt = version < 15 ? 'scrim.strength' : 'scrim.layers'
    const layers =
      version < 16
        ? asVersion15(DOCUMENT).scrim.layers
        : version < 18
          ? asVersion17(DOCUMENT).scrim.layers
          : DOCUMENT.scrim.layers
    const [layer] = layers
    const stored = edit(old, [
      ['copy.heading', 'Night trains'],
      [scrimAt, version < 15 ? 0.7 : [{ ...layer!, strength: 0.7 }]],
      [speedAt, 0.5],
    ])
    const opened = readStored(stored.document, stored.history)
    expect(opened.history.past.map((step) => step.label)).toEqual([
      'copy.heading',
      scrimAt,
      speedAt,
    ])
    let here = opened
    for (const [heading, strength, speed] of [
      ['Night trains', 0.7, 1],
      ['Night trains', 0.35, 1],
      [DOCUMENT.copy.heading, 0.35, 1],
    ] as const) {
      here = undo(here.history, here.document)!
      expect([
        here.document.copy.heading,
        here.document.scrim.layers[0]!.strength,
        asFootage(here.document).base.timing.speed,
      ]).toEqual([heading, strength, speed])
      expect(parseBackdrop(here.document).success).toBe(true)
    }
    expect(undo(here.history, here.document)).toBeNull()
    for (let step = 0; step < 3; step++) here = redo(here.history, here.document)!
    expect(here.document).toEqual(opened.document)
  })
})

describe('steps of version 10', () => {
  const slideshow = {
    ...DOCUMENT,
    base: createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID]),
  }
  it('of a slideshow lead through slides that have the words of the backdrop', () => {
    const old = asVersion10(slideshow)
    const { slides } = old.base as Slideshow
    const stored = edit(old, [['base.slides', slides.with(1, { ...slides[1]!, opacity: 0.5 })]])
    const opened = readStored(stored.document, stored.history)
    const opacities = ({ document }: { document: BackdropDocument }): unknown =>
      (document.base as Slideshow).slides.map(({ opacity, words }) => [opacity, words])
    expect(opacities(opened)).toEqual([
      [1, null],
      [0.5, null],
      [1, null],
    ])
    const undone = undo(opened.history, opened.document)!
    expect(opacities(undone)).toEqual([
      [1, null],
      [1, null],
      [1, null],
    ])
    expect(undone.document).toEqual(slideshow)
  })
})

describe('steps of an older version', () => {
  it('that changed a budget change the budget of today', () => {
    const stored = edit(OLD[2], [['weight.budgets.laptop', 900_000]])
    const opened = readStored(stored.document, stored.history)
    expect(opened.document.weight.renditions.laptop.budgetBytes).toBe(900_000)
    const undone = undo(opened.history, opened.document)!
    expect(undone.document.weight.renditions.laptop.budgetBytes).toBe(2_500_000)
  })
  it('can be redone, too', () => {
    const stored = edit(OLD[2], [['weight.budgets.laptop', 900_000]])
    const { past } = stored.history as History
    const opened = readStored(OLD[2], { past: [], future: past })
    expect(
      redo(opened.history, opened.document)!.document.weight.renditions.laptop.budgetBytes,
    ).toBe(900_000)
  })
  it('end where they speak of a shape that the document has left: it was upgraded before its history was', () => {
    const old = edit(OLD[2], [
      ['copy.heading', 'First'],
      ['weight.budgets.laptop', 900_000],
    ])
    const upgraded = readStored(old.document, { past: [], future: [] }).document
    const later = record(EMPTY_HISTORY, 'heading', null, upgraded, {
      ...upgraded,
      copy: { ...upgraded.copy, heading: 'Later' },
    })
    const mixed = { past: [...(old.history as History).past, ...later.past], future: [] }
    const opened = readStored({ ...upgraded, copy: { ...upgraded.copy, heading: 'Later' } }, mixed)
    expect(opened.history.past.map((step) => step.label)).toEqual(['heading'])
    const undone = undo(opened.history, opened.document)!
    expect([
      undone.document.copy.heading,
      undone.document.weight.renditions.laptop.budgetBytes,
    ]).toEqual(['First', 900_000])
    expect(undo(undone.history, undone.document)).toBeNull()
  })
  it('that are damaged are dropped, and the document opens all the same', () => {
    for (const history of [
      null,
      'x',
      { past: 'x', future: [] },
      { past: [{}], future: [] },
      {
        version: 99,
        past: [{ label: 'x', gesture: null, changes: [{ path: ['nothing'], from: 1, to: 2 }] }],
        future: [],
      },
    ]) {
      expect(readStored(DOCUMENT, history)).toEqual({ document: DOCUMENT, history: EMPTY_HISTORY })
    }
  })
})

it('gives a history of today as it is', () => {
  const history = record(EMPTY_HISTORY, 'x', null, DOCUMENT, {
    ...DOCUMENT,
    scrim: evenScrim('#14101c', 0.9),
  })
  expect(readStored(DOCUMENT, history).history).toEqual(history)
})

it('refuses a document of no known shape', () =>
  expect(() => readStored({ version: 77 }, EMPTY_HISTORY)).toThrow())

it('leads through the same documents as the old steps did, upgraded, whatever they were', () => {
  const change = fc.oneof(
    fc.tuple(
      fc.constant('scrim.strength'),
      fc.integer({ min: 0, max: 10 }).map((value) => value / 10),
    ),
    fc.tuple(fc.constant('weight.budgets.phone'), fc.integer({ min: 20_000, max: 3_000_000 })),
    fc.tuple(fc.constant('weight.widths.wide'), fc.integer({ min: 160, max: 3840 })),
    fc.tuple(fc.constant('copy.heading'), fc.string({ maxLength: 20 })),
  )
  fc.assert(
    fc.property(fc.array(change, { maxLength: 12 }), (edits) => {
      const stored = edit(OLD[2], edits)
      const opened = readStored(stored.document, stored.history)
      let raw = stored.document
      let here: { document: BackdropDocument; history: History } = opened
      const states = new Set([JSON.stringify(here.document)])
      for (
        let next = undo(here.history, here.document);
        next;
        next = undo(here.history, here.document)
      ) {
        here = next
        states.add(JSON.stringify(here.document))
      }
      for (const step of [...(stored.history as History).past].reverse()) {
        raw = applyChanges(raw, step.changes, 'back')
        const upgraded = parseBackdrop(raw)
        expect(states.has(JSON.stringify(upgraded.success && upgraded.data))).toBe(true)
      }
    }),
    { seed: 20_261_127, numRuns: 60 },
  )
})
