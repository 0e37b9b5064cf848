import { createImage } from '../kinds/image/Image'
import { createSlideshow, type Slideshow } from '../kinds/slideshow/Slideshow'
import { createPaint } from '../kinds/paint/Paint'
import { newParticles } from '../particles/Particles'
import { STYLES } from '../particles/styles'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { loopOf } from '../kinds/footage/footageSequence'
import { loopSeconds } from '../loop/framePlan'
import {
  asVersion4,
  asVersion5,
  asVersion6,
  asVersion7,
  asVersion8,
  asVersion9,
} from '../testing/olderDocuments'
import {
  FACTS,
  inventBackdrop,
  knownAs,
  reduced as reduce,
  SAMPLE_SOURCE_ID,
} from '../testing/samples'
import {
  backdropSchema,
  parseBackdrop,
  type BackdropDocument,
  type DocumentOf,
} from './BackdropDocument'
import { documentKeys } from './documentKeys'
import {
  applyChanges,
  differences,
  EMPTY_HISTORY,
  historySchema,
  MAX_HISTORY_CHARS,
  record,
  redo,
  undo,
  type History,
} from './history'
import {
  budgetLeaving,
  clipBudget,
  clipRecipes,
  classServing,
  containerOf,
  deliveredClasses,
  pageBytes,
  pictureSize,
  posterRecipes,
  probeOf,
  proofKey,
  proofRecipe,
  recipeKey,
  posterClasses,
} from './recipe'
import { labelOf, type BackdropAction } from './reduce'
import { usedSources } from './usedSources'
import { evenScrim, linearLayer } from '../scrim/Scrim'

const DOCUMENT = inventBackdrop()
const OTHER_ID = '7b1f8c1e-0000-4000-8000-00000000000b'
const SOURCE = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })

const withWords = (base: Slideshow): Slideshow => ({
  ...base,
  slides: base.slides.map((slide, index) =>
    index === 0
      ? { ...slide, words: { heading: 'By day', body: '', button: { label: '', href: '' } } }
      : slide,
  ),
})

/** One action of every kind, each of which changes the invented backdrop. */
const ACTIONS: { [T in BackdropAction['type']]: Extract<BackdropAction, { type: T }> } = {
  'material/swap': {
    type: 'material/swap',
    sourceId: '7b1f8c1e-0000-4000-8000-0000000000aa',
    facts: {
      ...FACTS,
      video: { ...FACTS.video, timescale: 25, durationTicks: 300, averageFps: 25 },
    },
  },
  'timing/cut': { type: 'timing/cut', cut: { timescale: 24, start: 48, end: 240 } },
  'timing/speed': { type: 'timing/speed', speed: 0.5 },
  'timing/repeat': { type: 'timing/repeat', repeat: 'once' },
  'timing/frame-rate': { type: 'timing/frame-rate', frameRate: { num: 25, den: 1 } },
  'timing/seam': { type: 'timing/seam', seam: { kind: 'blended', overlapSeconds: 0.5 } },
  'timing/found-loop': { type: 'timing/found-loop', cut: { timescale: 24, start: 60, end: 200 } },
  'timing/blend-frames': { type: 'timing/blend-frames', enabled: true },
  'timing/at-end': { type: 'timing/at-end', atEnd: 'fade' },
  'picture/set': {
    type: 'picture/set',
    picture: { crop: { x: 0.1, y: 0, width: 0.8, height: 1 }, quarterTurns: 1 },
  },
  'particles/set': {
    type: 'particles/set',
    particles: newParticles(STYLES[4]!.definition, STYLES[4]!.id),
  },
  'particles/define': {
    type: 'particles/define',
    definition: { perMegapixel: 77, opacity: { from: 0.1, to: 0.4 } },
  },
  'particles/show': { type: 'particles/show', show: { follows: 'half' } },
  'poster/picture': {
    type: 'poster/picture',
    picture: { kind: 'frame', ticks: 80, timescale: 24 },
  },
  'poster/avif': { type: 'poster/avif', enabled: false },
  'poster/max-bytes': { type: 'poster/max-bytes', screenClass: 'wide', bytes: 90_000 },
  'copy/write': { type: 'copy/write', field: 'heading', value: 'Night trains' },
  'copy/link': { type: 'copy/link', index: 1, value: 'Cabins' },
  'copy/links': { type: 'copy/links', links: ['Routes'] },
  'copy/type': { type: 'copy/type', set: { headingSize: 1.2 } },
  'copy/parts': { type: 'copy/parts', parts: { footer: 'At the end' } },
  'copy/place': {
    type: 'copy/place',
    screens: ['phone'],
    place: { across: 'end', down: 'top', align: 'end' },
  },
  'copy/button': { type: 'copy/button', button: { label: 'Find a berth' } },
  'copy/button-colors': {
    type: 'copy/button-colors',
    color: '#f2b872',
    states: { hover: '#ffcc88', focus: '#ffffff' },
  },
  'scrim/own': { type: 'scrim/own', scrim: evenScrim('#14101c', 0.7) },
  'scrim/set': { type: 'scrim/set', scrim: { layers: [linearLayer('#14101c', [0.7, 0], 90)] } },
  'tone/set': { type: 'tone/set', tone: { brightness: 0.8, form: 'filter' } },
  'fit/height': { type: 'fit/height', height: { unit: 'px', value: 640 } },
  'fit/focal': { type: 'fit/focal', focal: { x: 0.2, y: 0.8 } },
  'fit/place': { type: 'fit/place', place: 'below' },
  'handoff/set': { type: 'handoff/set', handoff: { baseUrl: '/backdrops/', headingLevel: 2 } },
  'behaviour/set': { type: 'behaviour/set', behaviour: { phone: 'poster' } },
  'weight/row': { type: 'weight/row', screenClass: 'phone', row: { budgetBytes: 600_000 } },
  'weight/format': { type: 'weight/format', screenClass: 'laptop', format: 'vp9', enabled: false },
  'weight/lock': { type: 'weight/lock', screenClass: 'wide', locked: true },
  'weight/renditions': {
    type: 'weight/renditions',
    rows: { phone: { width: 540 }, laptop: { width: 1280 }, wide: { width: 1600 } },
  },
  'base/set': { type: 'base/set', base: createPaint() },
  'image/swap': { type: 'image/swap', sourceId: '7b1f8c1e-0000-4000-8000-00000000000a' },
  'image/set': { type: 'image/set', image: { placing: 'tile', tileWidth: 64 } },
  'paint/set': { type: 'paint/set', paint: { dither: false } },
  'slides/add': { type: 'slides/add', sourceIds: [OTHER_ID], at: 1 },
  'slides/remove': { type: 'slides/remove', id: 2 },
  'slides/move': { type: 'slides/move', id: 3, to: 0 },
  'slides/first': { type: 'slides/first', id: 2 },
  'slides/words': { type: 'slides/words', id: 1, change: { heading: 'By night' } },
  'slides/swap': { type: 'slides/swap', id: 1, sourceId: OTHER_ID },
  'slides/take': { type: 'slides/take', sourceIds: [OTHER_ID, SAMPLE_SOURCE_ID], setId: OTHER_ID },
  'slides/set': { type: 'slides/set', id: 2, slide: { placing: 'contain', opacity: 0.8 } },
  'slides/transition': { type: 'slides/transition', id: 2, transition: { style: 'push' } },
  'slides/cycle': { type: 'slides/cycle', seconds: 30 },
  'slides/shared': { type: 'slides/shared', slides: { order: 'shuffled', holdSeconds: 6 } },
  'weight/set': {
    type: 'weight/set',
    weight: { goal: 'quality', targetSsim: 0.96, noiseReduction: 0.5 },
  },
}

/** What each kind of base changes by: what of footage changes it, others need their own base. */
const SLIDES = {
  ...DOCUMENT,
  base: withWords(createSlideshow([SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID, SAMPLE_SOURCE_ID])),
}
const SNOWING = { ...DOCUMENT, particles: newParticles(STYLES[0]!.definition, STYLES[0]!.id) }
const STARTS: Partial<Record<BackdropAction['type'], BackdropDocument>> = {
  ...Object.fromEntries(
    Object.keys(ACTIONS).flatMap((type) => (type.startsWith('slides/') ? [[type, SLIDES]] : [])),
  ),
  'image/swap': { ...DOCUMENT, base: createImage(OTHER_ID) },
  'image/set': { ...DOCUMENT, base: createImage(OTHER_ID) },
  'paint/set': { ...DOCUMENT, base: createPaint() },
  'particles/define': SNOWING,
  'particles/show': SNOWING,
}

describe.each(Object.values(ACTIONS))('action $type', (action) => {
  const start = STARTS[action.type] ?? DOCUMENT
  it('changes the document, keeps it valid, and has a name', () => {
    const next = reduce(start, action)
    expect(next).not.toBe(start)
    expect(backdropSchema.safeParse(next).success).toBe(true)
    expect(labelOf(action)).toMatch(/\w/)
  })
  it('gives the same object when done twice', () => {
    const next = reduce(start, action)
    // The same image may be a slide twice.
    if (action.type === 'slides/add') expect(reduce(next, action)).not.toBe(next)
    else expect(reduce(next, action)).toBe(next)
  })
  it('never changes what it was given', () => {
    const before = structuredClone(start)
    reduce(start, action)
    expect(start).toEqual(before)
  })
})

describe('rules of changes', () => {
  it('keeps at least one format for each screen', () => {
    const one = (['av1', 'h264'] as const).reduce(
      (document, format) =>
        reduce(document, { type: 'weight/format', screenClass: 'laptop', format, enabled: false }),
      DOCUMENT,
    )
    expect(one.weight.renditions.laptop.formats).toEqual({ av1: false, vp9: true, h264: false })
    expect(
      reduce(one, { type: 'weight/format', screenClass: 'laptop', format: 'vp9', enabled: false }),
    ).toBe(one)
  })
  it('keeps one row that everything plays', () => {
    const last = (['phone', 'laptop'] as const).reduce(
      (document, screenClass) =>
        reduce(document, { type: 'weight/format', screenClass, format: 'h264', enabled: false }),
      DOCUMENT,
    )
    expect(
      reduce(last, { type: 'weight/format', screenClass: 'wide', format: 'h264', enabled: false }),
    ).toBe(last)
    expect(reduce(last, { type: 'weight/row', screenClass: 'wide', row: { enabled: false } })).toBe(
      last,
    )
    expect(
      reduce(last, { type: 'weight/row', screenClass: 'phone', row: { enabled: false } }),
    ).not.toBe(last)
  })
  it('leaves a locked row alone, but for unlocking it', () => {
    const locked = reduce(DOCUMENT, ACTIONS['weight/lock'])
    expect(reduce(locked, { type: 'weight/row', screenClass: 'wide', row: { width: 800 } })).toBe(
      locked,
    )
    expect(
      reduce(locked, { type: 'weight/format', screenClass: 'wide', format: 'av1', enabled: false }),
    ).toBe(locked)
    const proposed = reduce(locked, ACTIONS['weight/renditions'])
    expect([proposed.weight.renditions.phone.width, proposed.weight.renditions.wide.width]).toEqual(
      [540, 1920],
    )
    expect(reduce(locked, { type: 'weight/lock', screenClass: 'wide', locked: false })).toEqual(
      DOCUMENT,
    )
  })
  it('keeps the cut in seconds when a clip is swapped, where it fits', () => {
    const cut = reduce(DOCUMENT, ACTIONS['timing/cut'])
    expect(reduce(cut, ACTIONS['material/swap']).base.timing.cut).toEqual({
      timescale: 25,
      start: 50,
      end: 250,
    })
  })
  it('drops with a clip what was decided of its pictures alone', () => {
    const shaped = [
      ACTIONS['picture/set'],
      ACTIONS['poster/picture'],
      ACTIONS['material/swap'],
    ].reduce(reduce, DOCUMENT)
    expect(shaped.base.picture).toEqual(DOCUMENT.base.picture)
    expect(shaped.poster.picture).toEqual({ kind: 'first' })
  })
  it('takes a found loop as one step: cut, straight seam, playing for ever', () => {
    const before = [ACTIONS['timing/seam'], ACTIONS['timing/repeat']].reduce(reduce, DOCUMENT)
    expect(reduce(before, ACTIONS['timing/found-loop']).base.timing).toMatchObject({
      cut: { start: 60, end: 200 },
      repeat: 'loop',
      seam: { kind: 'straight', overlapSeconds: 0.5 },
    })
  })
  it('keeps what is left of the cut from half a second on, when the other clip is shorter', () => {
    const kept = (start: number): unknown => {
      const cut = { timescale: 25, start, end: 330 }
      const { base } = reduce(
        reduce(DOCUMENT, { type: 'timing/cut', cut }),
        ACTIONS['material/swap'],
      )
      return base.timing.cut
    }
    expect(kept(287)).toEqual({ timescale: 25, start: 287, end: 300 })
    expect(kept(288)).toEqual({ timescale: 25, start: 0, end: 250 })
  })
  it('starts anew when the other clip is too short for the cut', () => {
    const late = reduce(DOCUMENT, {
      type: 'timing/cut',
      cut: { timescale: 24, start: 312, end: 336 },
    })
    expect(reduce(late, ACTIONS['material/swap']).base.timing.cut).toEqual({
      timescale: 25,
      start: 0,
      end: 250,
    })
  })
})

it('names a change of particles once, whatever it changes', () =>
  expect(
    labelOf({ type: 'particles/define', definition: { perMegapixel: 5, most: 9, seed: 1 } }),
  ).toBe('particles: count, new seed'))

describe('history', () => {
  const actions = fc.array(
    fc.record({
      action: fc.constantFrom(...Object.values(ACTIONS)),
      gesture: fc.constantFrom(null, 'drag', 'typing'),
    }),
    { maxLength: 25 },
  )
  const play = (steps: { action: BackdropAction; gesture: string | null }[]) =>
    steps.reduce(
      ({ document, history }, { action, gesture }) => {
        const next = reduce(document, action)
        return {
          document: next,
          history: record(history, labelOf(action), gesture, document, next),
        }
      },
      { document: DOCUMENT, history: EMPTY_HISTORY },
    )

  it('comes back to the start by undo and forth again by redo (seed 41)', () => {
    fc.assert(
      fc.property(actions, (steps) => {
        let state: { document: BackdropDocument; history: History } = play(steps)
        const end = state.document
        for (
          let back = undo(state.history, state.document);
          back;
          back = undo(state.history, state.document)
        )
          state = back
        expect(state.document).toEqual(DOCUMENT)
        for (
          let forth = redo(state.history, state.document);
          forth;
          forth = redo(state.history, state.document)
        )
          state = forth
        expect(state.document).toEqual(end)
      }),
      { seed: 41 },
    )
  })
  it('makes one step of one gesture, with the value before it', () => {
    const drags = [0.2, 0.4, 0.6].map((strength) => ({
      action: { type: 'scrim/set' as const, scrim: evenScrim('#14101c', strength) },
      gesture: 'one',
    }))
    const { document, history } = play(drags)
    expect(history.past).toHaveLength(1)
    expect(undo(history, document)!.document).toEqual(DOCUMENT)
  })
  it('drops a gesture that ends where it began', () => {
    const { history } = play(
      [0.9, DOCUMENT.scrim.layers[0]!.strength].map((strength) => ({
        action: { type: 'scrim/set' as const, scrim: evenScrim('#14101c', strength) },
        gesture: 'one',
      })),
    )
    expect(history.past).toHaveLength(0)
  })
  it('forgets what could be redone once something new is done', () => {
    const { document, history } = play([{ action: ACTIONS['timing/speed'], gesture: null }])
    const back = undo(history, document)!
    const next = reduce(back.document, ACTIONS['fit/focal'])
    expect(record(back.history, 'focal', null, back.document, next).future).toEqual([])
  })
  it('survives being stored as JSON', () => {
    const { document, history } = play(
      Object.values(ACTIONS).map((action) => ({ action, gesture: null })),
    )
    const stored = JSON.parse(JSON.stringify(history)) as History
    expect(undo(stored, document)!.document).toEqual(undo(history, document)!.document)
  })
  it('keeps no more than two hundred steps', () => {
    const many = Array.from({ length: 250 }, (_, index) => ({
      action: { type: 'scrim/set' as const, scrim: evenScrim('#14101c', (index % 100) / 100) },
      gesture: null,
    }))
    expect(play(many).history.past).toHaveLength(200)
  })
  it('keeps the last steps that together are not too long to be saved, and always the last', () => {
    const sprites = (of: string, side: number) => ({
      particles: { shapes: Array.from({ length: 4 }, () => of.repeat(side)) },
    })
    const steps = (count: number, side: number): History =>
      Array.from({ length: count }, (_, index) => index).reduce(
        (history, index) =>
          record(
            history,
            'shapes',
            null,
            sprites(String.fromCharCode(97 + (index % 20)), side),
            sprites(String.fromCharCode(98 + (index % 20)), side),
          ),
        EMPTY_HISTORY,
      )
    const { past } = steps(60, 10_000)
    expect(JSON.stringify(past).length).toBeLessThan(MAX_HISTORY_CHARS * 1.05)
    expect(past.length).toBeGreaterThan(8)
    expect(JSON.stringify(past.at(-1)!.changes)).toContain('tttt')
    expect(steps(3, 400_000).past).toHaveLength(1)
  })
  it('finds nothing different in equal values, and puts absent ones back', () => {
    expect(differences({ a: [1, { b: 2 }] }, { a: [1, { b: 2 }] })).toEqual([])
    expect(applyChanges({ b: 1 }, differences({ a: 1 }, { b: 1 }), 'back')).toEqual({ a: 1 })
  })
  it('changes a choice between kinds as one value, which survives being stored', () => {
    const { document, history } = play([{ action: ACTIONS['poster/picture'], gesture: null }])
    expect(historySchema.parse(JSON.parse(JSON.stringify(history)))).toEqual(history)
    expect(undo(history, document)!.document.poster.picture).toEqual({ kind: 'first' })
  })
  it('has nothing to undo or redo at first', () =>
    expect([undo(EMPTY_HISTORY, DOCUMENT), redo(EMPTY_HISTORY, DOCUMENT)]).toEqual([null, null]))
})

/** Documents before version 5 do not know the clip's rate. */
const upgradedFrom4 = (document: DocumentOf<'footage'>): BackdropDocument => ({
  ...document,
  base: { ...document.base, material: { ...document.base.material, frameRate: null } },
})

describe('stored documents', () => {
  it('reads the present version as it is', () =>
    expect(parseBackdrop(DOCUMENT).data).toEqual(DOCUMENT))
  const version4 = asVersion4(DOCUMENT)
  const { weight: _weight, ...others } = version4
  const weight2 = {
    widths: { phone: 640, laptop: 1280, wide: 1920 },
    formats: { vp9: true, h264: true },
    budgets: { phone: 1_000_000, laptop: 1_500_000, wide: 4_000_000 },
  }
  it('upgrades version 2, which had the same formats for all screens', () => {
    const { weight } = parseBackdrop({
      ...others,
      version: 2,
      weight: { ...weight2, formats: { vp9: false, h264: true } },
    }).data!
    expect(weight).toMatchObject({
      goal: 'budget',
      noiseReduction: 0,
      breakpoints: { phone: 640, laptop: 1440 },
    })
    expect(weight.renditions.laptop).toEqual({
      enabled: true,
      width: 1280,
      crop: 'whole',
      frameRate: null,
      copyBlur: 0,
      formats: { av1: false, vp9: false, h264: true },
      budgetBytes: 1_500_000,
      locked: false,
    })
    expect(
      parseBackdrop({
        ...others,
        version: 2,
        weight: { ...weight2, formats: { vp9: true, h264: false } },
      }).success,
    ).toBe(true)
  })
  it('upgrades version 6, which had one markup for every place and every site', () =>
    expect(parseBackdrop(asVersion6(DOCUMENT)).data).toEqual(DOCUMENT))
  it.each([
    '',
    '/',
    '/media/hero/',
    './',
    '../shared/',
    'https://cdn.example/x/',
    '//cdn.example/',
  ])('take %j for the address of a folder', (baseUrl) =>
    expect(parseBackdrop({ ...DOCUMENT, handoff: { ...DOCUMENT.handoff, baseUrl } }).success).toBe(
      true,
    ),
  )
  it.each([
    'media',
    '/media',
    'javascript:/',
    '/a b/',
    '/a,b/',
    '/"><script>/',
    'ftp://x/',
    'x/',
    '/a?b=/',
    '/a#b/',
    'https:///',
    '.../',
  ])('refuse %j for the address of a folder', (baseUrl) =>
    expect(parseBackdrop({ ...DOCUMENT, handoff: { ...DOCUMENT.handoff, baseUrl } }).success).toBe(
      false,
    ),
  )
  it('upgrades version 5, which had no matte and another name for the blur behind the copy', () => {
    const blurred = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'phone',
      row: { copyBlur: 0.4 },
    })
    expect(parseBackdrop(asVersion5(blurred)).data).toEqual(blurred)
  })
  it('repairs a brand of version 5 that is longer than a brand may be', () => {
    const old = asVersion5({ ...DOCUMENT, copy: { ...DOCUMENT.copy, brand: 'x'.repeat(90) } })
    expect(parseBackdrop(old).data!.copy).toEqual({ ...DOCUMENT.copy, brand: 'x'.repeat(60) })
  })
  it('upgrades version 8, which had one focal point for all screens', () =>
    expect(parseBackdrop(asVersion8(DOCUMENT)).data).toEqual(DOCUMENT))
  it('gives a version 9 words for the controls of slideshows', () =>
    expect(parseBackdrop(asVersion9(DOCUMENT)).data).toEqual(DOCUMENT))
  it('upgrades version 7, which had the decisions of footage beside the shared ones', () => {
    const document = ['picture/set', 'timing/seam', 'timing/cut', 'poster/picture']
      .map((type) => ACTIONS[type as keyof typeof ACTIONS])
      .reduce(reduce, DOCUMENT)
    expect(parseBackdrop(asVersion7(document)).data).toEqual(document)
  })
  it('upgrades version 4, which had the same decisions under other names', () => {
    const document: DocumentOf<'footage'> = {
      ...DOCUMENT,
      base: {
        ...DOCUMENT.base,
        timing: { ...DOCUMENT.base.timing, seam: { kind: 'ping-pong', overlapSeconds: 0.8 } },
      },
      behaviour: { ...DOCUMENT.behaviour, phone: 'poster', dataSaver: 'play' },
    }
    expect(parseBackdrop(asVersion4(document)).data).toEqual(upgradedFrom4(document))
  })
  it('upgrades version 3, which left the ground behind the copy as it was', () => {
    const { ladder } = version4.weight
    const older = (row: object): object => ({ ...row, soften: undefined })
    const upgraded = parseBackdrop(
      JSON.parse(
        JSON.stringify({
          ...version4,
          version: 3,
          weight: {
            ...version4.weight,
            ladder: {
              phone: older(ladder['phone']!),
              laptop: older(ladder['laptop']!),
              wide: older(ladder['wide']!),
            },
          },
        }),
      ),
    )
    expect(upgraded.data).toEqual(upgradedFrom4(DOCUMENT))
  })
  it('upgrades version 0, which had one budget for all screens', () => {
    const { budgets: _, ...weight } = weight2
    const old = { ...others, version: 0, weight: { ...weight, budgetBytes: 1_500_000 } }
    expect(
      Object.values(parseBackdrop(old).data!.weight.renditions).map(
        ({ budgetBytes: budget }) => budget,
      ),
    ).toEqual([1_000_000, 1_500_000, 4_000_000])
  })
  it('upgrades version 1, which knew straight seams and whole pictures only', () => {
    const { seam: _seam, blendFrames: _blend, atEnd: _end, ...timing } = DOCUMENT.base.timing
    const { picture: _picture, still: _still, weight: _older, ...rest } = version4
    const { weight } = DOCUMENT
    expect(parseBackdrop({ ...rest, version: 1, timing, weight: weight2 }).data).toEqual({
      ...upgradedFrom4(DOCUMENT),
      weight: { ...weight, renditions: expect.anything() as never },
    })
  })
  it('tell every source they stand on', () => {
    const poster = {
      kind: 'source' as const,
      sourceId: '7b1f8c1e-0000-4000-8000-000000000009',
      sha256: 'd'.repeat(64),
      mime: 'image/jpeg',
      bytes: 20_000,
    }
    expect(usedSources(DOCUMENT)).toEqual([
      { sourceId: DOCUMENT.base.material.sourceId, sha256: null },
    ])
    expect(usedSources(reduce(DOCUMENT, { type: 'poster/picture', picture: poster }))).toEqual([
      { sourceId: DOCUMENT.base.material.sourceId, sha256: null },
      { sourceId: poster.sourceId, sha256: poster.sha256 },
    ])
  })
  const withTiming = (timing: object): unknown => ({
    ...DOCUMENT,
    base: { ...DOCUMENT.base, timing: { ...DOCUMENT.base.timing, ...timing } },
  })
  const broken: [string, unknown][] = [
    ['nothing', null],
    ['a text', 'hello'],
    ['a version from the future', { ...DOCUMENT, version: 99 }],
    ['an end before the start', withTiming({ cut: { timescale: 24, start: 5, end: 5 } })],
    ['a speed out of range', withTiming({ speed: 9 })],
    [
      'a link that runs code',
      {
        ...DOCUMENT,
        copy: { ...DOCUMENT.copy, button: { label: 'x', href: 'javascript:alert(1)' } },
      },
    ],
    ['a colour by name', { ...DOCUMENT, copy: { ...DOCUMENT.copy, color: 'red' } }],
    [
      'no format at all',
      {
        ...DOCUMENT,
        weight: {
          ...DOCUMENT.weight,
          renditions: {
            ...DOCUMENT.weight.renditions,
            phone: {
              ...DOCUMENT.weight.renditions.phone,
              formats: { av1: false, vp9: false, h264: false },
            },
          },
        },
      },
    ],
    [
      'a crop that leaves the picture',
      {
        ...DOCUMENT,
        base: {
          ...DOCUMENT.base,
          picture: { ...DOCUMENT.base.picture, crop: { x: 0.5, y: 0, width: 0.6, height: 1 } },
        },
      },
    ],
    [
      'a crop of nothing',
      {
        ...DOCUMENT,
        base: {
          ...DOCUMENT.base,
          picture: { ...DOCUMENT.base.picture, crop: { x: 0.5, y: 0, width: 0, height: 1 } },
        },
      },
    ],
    [
      'five quarter turns',
      {
        ...DOCUMENT,
        base: { ...DOCUMENT.base, picture: { ...DOCUMENT.base.picture, quarterTurns: 5 } },
      },
    ],
    [
      'a poster image without content',
      { ...DOCUMENT, poster: { ...DOCUMENT.poster, picture: { kind: 'source', sourceId: 'x' } } },
    ],
    ['a focal point outside', { ...DOCUMENT, fit: { ...DOCUMENT.fit, focal: { x: 1.5, y: 0 } } }],
  ]
  it.each(broken)('refuses %s', (_, stored) => expect(parseBackdrop(stored).success).toBe(false))
})

describe('recipes', () => {
  const keys = (document: BackdropDocument): string[] => [
    ...clipRecipes(document, SOURCE).map(({ recipe }) => recipeKey(recipe)),
    ...posterRecipes(document, SOURCE).map(({ recipe }) => recipeKey(recipe)),
  ]
  const posterKeys = (document: BackdropDocument): string[] =>
    posterRecipes(document, SOURCE).map(({ recipe }) => recipeKey(recipe))
  it.each(['copy/write', 'copy/links', 'scrim/set'] as const)(
    'are not touched by %s: nothing is encoded again',
    (type) => expect(keys(reduce(DOCUMENT, ACTIONS[type]))).toEqual(keys(DOCUMENT)),
  )
  it.each(['timing/cut', 'timing/speed', 'timing/frame-rate'] as const)(
    'change for every clip with %s',
    (type) => {
      const before = new Set(clipRecipes(DOCUMENT, SOURCE).map(({ recipe }) => recipeKey(recipe)))
      expect(
        clipRecipes(reduce(DOCUMENT, ACTIONS[type]), SOURCE).some(({ recipe }) =>
          before.has(recipeKey(recipe)),
        ),
      ).toBe(false)
    },
  )
  it('change only for the screen whose budget changed, and its probes serve any budget', () => {
    const cheaper = reduce(DOCUMENT, ACTIONS['weight/row'])
    const changed = keys(cheaper).filter((key) => !keys(DOCUMENT).includes(key))
    expect(changed).toHaveLength(3)
    expect(changed.every((key) => key.includes('756x1080'))).toBe(true)
    const probes = (document: BackdropDocument): string[] =>
      clipRecipes(document, SOURCE).map(({ recipe }) => recipeKey(probeOf(recipe)))
    expect(probes(cheaper)).toEqual(probes(DOCUMENT))
    expect(probes(reduce(DOCUMENT, ACTIONS['weight/set']))).not.toEqual(probes(DOCUMENT))
  })
  it('change with the focal point for the screens whose picture is cropped round it', () => {
    const changed = keys(reduce(DOCUMENT, ACTIONS['fit/focal'])).filter(
      (key) => !keys(DOCUMENT).includes(key),
    )
    expect(changed.length).toBeGreaterThan(0)
    expect(changed.every((key) => key.includes('756x1080'))).toBe(true)
  })
  it('leave to the clip what poster, script and style have left of a budget', () => {
    expect(clipBudget(DOCUMENT, 'laptop')).toBe(2_500_000 - 120_000 - 5_000)
    expect(clipRecipes(DOCUMENT, SOURCE)[0]!.recipe.goal).toEqual({
      kind: 'budget',
      bytes: 4_000_000 - 200_000 - 5_000,
    })
    expect(clipRecipes(reduce(DOCUMENT, ACTIONS['weight/set']), SOURCE)[0]!.recipe.goal).toEqual({
      kind: 'quality',
      ssim: 0.96,
    })
  })
  it('leave room for the clip where a budget is small: the poster gets less', () => {
    const small = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'phone',
      row: { budgetBytes: 40_000 },
    })
    const [poster] = posterRecipes(small, SOURCE).filter((poster) => poster.screenClass === 'phone')
    expect(poster!.recipe.maxBytes).toBe(14_000)
    expect(clipBudget(small, 'phone') + poster!.recipe.maxBytes + pageBytes(small)).toBe(40_000)
    expect(posterKeys(small).filter((key) => !posterKeys(DOCUMENT).includes(key))).toHaveLength(3)
  })
  it('find the budget that leaves so many bytes to a clip (seed 61)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 12_000, max: 9_000_000 }),
        fc.constantFrom('phone' as const, 'laptop' as const, 'wide' as const),
        (clipBytes, screenClass) => {
          const changed = reduce(DOCUMENT, {
            type: 'weight/row',
            screenClass,
            row: { budgetBytes: budgetLeaving(DOCUMENT, screenClass, clipBytes) },
          })
          expect(Math.abs(clipBudget(changed, screenClass) - clipBytes)).toBeLessThanOrEqual(2)
        },
      ),
      { seed: 61 },
    )
  })
  it('of one picture are made apart for other budgets or formats, and once for the same', () => {
    const small = knownAs({ sha256: 'a'.repeat(64), width: 640, height: 360 })
    expect(deliveredClasses(DOCUMENT, small)).toEqual(['phone', 'laptop', 'wide'])
    const same = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { budgetBytes: 4_000_000 },
    })
    expect(
      deliveredClasses(
        reduce(same, { type: 'poster/max-bytes', screenClass: 'laptop', bytes: 200_000 }),
        small,
      ),
    ).toEqual(['phone', 'wide'])
    expect(
      deliveredClasses(
        reduce(DOCUMENT, { type: 'weight/set', weight: { goal: 'quality' } }),
        small,
      ),
    ).toEqual(['phone', 'wide'])
  })
  it('have one that everything plays, however rows are switched and phones get the poster', () => {
    const without = (['laptop', 'wide'] as const).reduce(
      (document, screenClass) =>
        reduce(document, { type: 'weight/format', screenClass, format: 'h264', enabled: false }),
      DOCUMENT,
    )
    const families = (document: BackdropDocument): string[] =>
      clipRecipes(document, SOURCE).map(
        ({ screenClass, recipe }) => `${screenClass} ${recipe.family}`,
      )
    expect(families(without).filter((each) => each.endsWith('h264'))).toEqual(['phone h264'])
    expect(
      families(reduce(without, ACTIONS['behaviour/set'])).filter((each) => each.endsWith('h264')),
    ).toEqual(['laptop h264'])
  })
  it('may have a frame rate of their own for a screen', () => {
    const slow = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'phone',
      row: { frameRate: { num: 20, den: 1 } },
    })
    expect(
      new Set(
        clipRecipes(slow, SOURCE).map(
          ({ screenClass, recipe }) => `${screenClass} ${recipe.sequence.frames}`,
        ),
      ),
    ).toEqual(new Set(['wide 240', 'laptop 240', 'phone 200']))
  })
  it('leave a switched-off screen to its neighbours', () => {
    const off = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { enabled: false },
    })
    expect(deliveredClasses(off, SOURCE)).toEqual(['phone', 'wide'])
    expect(posterClasses(off, SOURCE)).toEqual(['phone', 'wide'])
  })
  it('keep the poster when only the end of the cut moves', () => {
    const longer = reduce(DOCUMENT, {
      type: 'timing/cut',
      cut: { ...DOCUMENT.base.timing.cut, end: 200 },
    })
    expect(posterKeys(longer)).toEqual(posterKeys(DOCUMENT))
    // A blended seam begins with a frame near the end: there the poster follows.
    const blended = reduce(DOCUMENT, ACTIONS['timing/seam'])
    expect(
      posterKeys(
        reduce(blended, { type: 'timing/cut', cut: { ...DOCUMENT.base.timing.cut, end: 200 } }),
      ),
    ).not.toEqual(posterKeys(blended))
  })
  it.each(['timing/seam', 'picture/set', 'timing/blend-frames'] as const)(
    'change for every clip with %s, too',
    (type) => {
      const before = new Set(clipRecipes(DOCUMENT, SOURCE).map(({ recipe }) => recipeKey(recipe)))
      expect(
        clipRecipes(reduce(DOCUMENT, ACTIONS[type]), SOURCE).some(({ recipe }) =>
          before.has(recipeKey(recipe)),
        ),
      ).toBe(false)
    },
  )
  it('change for the posters alone with what the poster shows', () => {
    const other = reduce(DOCUMENT, ACTIONS['poster/picture'])
    expect(clipRecipes(other, SOURCE)).toEqual(clipRecipes(DOCUMENT, SOURCE))
    expect(posterKeys(other).some((key) => posterKeys(DOCUMENT).includes(key))).toBe(false)
  })
  it('make posters for every screen in three formats, the lightest first', () => {
    expect(
      posterRecipes(DOCUMENT, SOURCE).map(
        ({ screenClass, recipe }) => `${screenClass} ${recipe.format} ${recipe.width}`,
      ),
    ).toEqual([
      'wide avif 1920',
      'wide webp 1920',
      'wide jpeg 1920',
      'laptop avif 1422',
      'laptop webp 1422',
      'laptop jpeg 1422',
      'phone avif 756',
      'phone webp 756',
      'phone jpeg 756',
    ])
    expect(posterRecipes(reduce(DOCUMENT, ACTIONS['poster/avif']), SOURCE)).toHaveLength(6)
  })
  it('keep the phone’s poster where it gets no clip', () =>
    expect(posterClasses(reduce(DOCUMENT, ACTIONS['behaviour/set']), SOURCE)).toEqual([
      'phone',
      'laptop',
      'wide',
    ]))
  it('are of the size that a crop and a turn leave', () => {
    const turned = reduce(DOCUMENT, ACTIONS['picture/set'])
    expect(pictureSize(turned, SOURCE)).toEqual({ width: 1080, height: 1536 })
    expect(proofRecipe(turned, SOURCE)).toMatchObject({ width: 640, height: 910 })
  })
  it('have no seam where the clip plays once', () => {
    const once = reduce(reduce(DOCUMENT, ACTIONS['timing/seam']), ACTIONS['timing/repeat'])
    expect(loopOf(once.base).seam.kind).toBe('straight')
    expect(loopSeconds(loopOf(once.base))).toBe(10)
  })
  it('put whatever loops into MP4, and VP9 that plays once into WebM', () => {
    expect([
      containerOf({ family: 'vp9', sequence: { loops: true } }),
      containerOf({ family: 'h264', sequence: { loops: true } }),
      containerOf({ family: 'vp9', sequence: { loops: false } }),
      containerOf({ family: 'h264', sequence: { loops: false } }),
    ]).toEqual(['mp4', 'mp4', 'webm', 'mp4'])
  })
  it('are all named with what they are made with: trace, proof, probes', () => {
    const keys = documentKeys(DOCUMENT, SOURCE)
    const clips = clipRecipes(DOCUMENT, SOURCE).map(({ recipe }) => recipe)
    expect(new Set(keys)).toEqual(
      new Set([
        recipeKey({ kind: 'trace', sourceSha256: 'a'.repeat(64) }),
        proofKey(DOCUMENT, SOURCE),
        ...[...clips, ...clips.map(probeOf)].map(recipeKey),
        ...posterRecipes(DOCUMENT, SOURCE).map(({ recipe }) => recipeKey(recipe)),
      ]),
    )
    expect(documentKeys(DOCUMENT, new Map())).toEqual([])
  })
  it('tell the trace of a clip by its content alone', () =>
    expect(recipeKey({ kind: 'trace', sourceSha256: 'f'.repeat(64) })).toContain('f'.repeat(64)))
  it('list wide screens first and the finest format for its bytes first', () => {
    expect(
      clipRecipes(DOCUMENT, SOURCE).map(
        ({ screenClass, recipe }) => `${screenClass} ${recipe.family} ${recipe.width}`,
      ),
    ).toEqual([
      'wide av1 1920',
      'wide vp9 1920',
      'wide h264 1920',
      'laptop av1 1422',
      'laptop vp9 1422',
      'laptop h264 1422',
      'phone av1 756',
      'phone vp9 756',
      'phone h264 756',
    ])
  })
  it('never enlarge a small source', () => {
    const tiny = knownAs({ sha256: 'a'.repeat(64), width: 600, height: 338 })
    expect(deliveredClasses(DOCUMENT, tiny)).toEqual(['phone', 'laptop', 'wide'])
    expect(new Set(clipRecipes(DOCUMENT, tiny).map(({ recipe }) => recipe.width))).toEqual(
      new Set([600, 236]),
    )
  })
  it('leave the phone out when it gets the poster', () =>
    expect(deliveredClasses(reduce(DOCUMENT, ACTIONS['behaviour/set']), SOURCE)).toEqual([
      'laptop',
      'wide',
    ]))
  it('serve a screen by its class, by the next wider one, or else by the widest there is', () => {
    expect(classServing('laptop', ['phone', 'laptop', 'wide'])).toBe('laptop')
    expect(classServing('laptop', ['phone', 'wide'])).toBe('wide')
    expect(classServing('wide', ['phone'])).toBe('phone')
    expect(classServing('wide', [])).toBeNull()
  })
  it('make a proof that is small and has no budget', () =>
    expect(proofRecipe(DOCUMENT, SOURCE)).toMatchObject({
      kind: 'proof',
      family: 'h264',
      width: 640,
      goal: null,
    }))
})
