import { describe, expect, it } from 'vitest'
import type { Rendition, Source } from '../../core/api/wire'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  proofRecipe,
  recipeKey,
  type Recipe,
} from '../../core/backdrop/recipe'
import { type BackdropAction } from '../../core/backdrop/reduce'
import { createImage, FIRST_DRIFT } from '../../core/kinds/image/Image'
import { createPaint, FIRST_MOTION } from '../../core/kinds/paint/Paint'
import { findingsOf } from '../../core/material/findings'
import {
  FACTS,
  inventBackdrop,
  inventRendition,
  knownAs,
  SAMPLE_CLIP,
  SAMPLE_IMAGE_FACTS,
  reduced as reduce,
} from '../../core/testing/samples'
import type { ProbeFacts } from '../../core/weight/ProbeFacts'
import type { Balance } from '../rooms/Balance'
import { loadedSources } from '../state/loadedSources'
import { readoutOf, ROOM_NAMES } from './rooms'

const FROM = knownAs({ sha256: SAMPLE_CLIP.sha256, width: 1920, height: 1080 })

const CALM = { deltaE: 0.1, worstDeltaE: 0.4 }
const LIVELY = { deltaE: 3, worstDeltaE: 9 }

/** A rendered file. */
function made(recipe: Recipe, bytes: number, ratio: number | null = 1): [string, Rendition] {
  return [
    recipeKey(recipe),
    inventRendition(recipe, bytes, {
      seam: { ratio, ...(ratio === null ? CALM : LIVELY), straightRatio: ratio },
    }),
  ]
}

function balance(actions: BackdropAction[] = [], rest: Partial<Balance> = {}): Balance {
  const document = actions.reduce(reduce, inventBackdrop())
  // The server has answered: what is not made is known not to be.
  return {
    document,
    sources: loadedSources([SAMPLE_CLIP]),
    made: {},
    absent: { 'any key': true },
    lookProblem: null,
    jobs: [],
    proof: null,
    contrast: null,
    worst: null,
    needed: 3,
    ...rest,
  }
}

/** Every file of the backdrop, each clip of so many bytes. */
function allMade(clipBytes: number, actions: BackdropAction[] = []): Balance {
  const { document } = balance(actions)
  const files = [
    ...clipRecipes(document, FROM).map(({ recipe }) => made(recipe, clipBytes)),
    ...posterRecipes(document, FROM).map(({ recipe }) => made(recipe, 30_000)),
  ]
  const distinct = files.map(([key, rendition], index) => [
    key,
    { ...rendition, sha256: String(index).padStart(64, '0') },
  ])
  return balance(actions, { made: Object.fromEntries(distinct) as Balance['made'] })
}

describe('material', () => {
  it('is settled for a wide clip', () =>
    expect(readoutOf('material', balance())).toEqual({
      figure: '1080',
      unit: 'p',
      note: 'dusk.mov, 24 fps',
      standing: 'settled',
    }))
  it('asks to look at one that laptops stretch', () => {
    const facts = { ...FACTS, video: { ...FACTS.video, displayWidth: 640, displayHeight: 360 } }
    expect(
      readoutOf(
        'material',
        balance([], {
          sources: loadedSources([{ ...SAMPLE_CLIP, facts, findings: findingsOf(facts, null) }]),
        }),
      ),
    ).toMatchObject({ figure: '360', note: 'Only 640 pixels wide', standing: 'look' })
  })
  it('tells only of what lies within the cut', () => {
    const card = {
      code: 'title-card',
      weight: 'look',
      figure: 1.8,
      fromMs: 0,
      toMs: 1800,
      place: null,
      repair: 'trim',
    } as const
    const later = { ...card, code: 'black-end', fromMs: 13_000, toMs: 14_000 } as const
    expect(
      readoutOf(
        'material',
        balance([], { sources: loadedSources([{ ...SAMPLE_CLIP, findings: [card] }]) }),
      ).note,
    ).toBe('Title card up to 1.80 s')
    expect(
      readoutOf(
        'material',
        balance([], { sources: loadedSources([{ ...SAMPLE_CLIP, findings: [later] }]) }),
      ).standing,
    ).toBe('settled')
  })
})

describe('timing', () => {
  const withSeam = (ratio: number | null): Balance =>
    balance([], {
      made: Object.fromEntries([made(proofRecipe(inventBackdrop(), FROM)!, 1, ratio)]),
    })
  it('says that the seam is being measured until it is', () =>
    expect(readoutOf('timing', balance())).toMatchObject({ figure: '10.0', standing: 'busy' }))
  it.each([
    [0.9, 'settled', 'seam 0.9'],
    [2, 'settled', 'seam 2.0'],
    [2.1, 'look', 'seam 2.1, a visible jump'],
    [null, 'settled', 'hardly moves: no visible seam'],
  ])('with a seam of %j it is %s', (ratio, standing, note) => {
    expect(readoutOf('timing', withSeam(ratio))).toMatchObject({ standing, note })
  })
  it('has no seam when it plays once', () => {
    expect(readoutOf('timing', balance([{ type: 'timing/repeat', repeat: 'once' }]))).toMatchObject(
      { standing: 'settled', note: 'plays once, holds its last frame' },
    )
  })
  it('fades to the poster when that is the end', () => {
    expect(
      readoutOf(
        'timing',
        balance([
          { type: 'timing/repeat', repeat: 'once' },
          { type: 'timing/at-end', atEnd: 'fade' },
        ]),
      ).note,
    ).toBe('plays once, fades to the poster')
  })
  it('counts what the seam takes and adds', () => {
    expect(
      readoutOf(
        'timing',
        balance([{ type: 'timing/seam', seam: { kind: 'blended', overlapSeconds: 1 } }]),
      ).figure,
    ).toBe('9.0')
    expect(
      readoutOf('timing', balance([{ type: 'timing/seam', seam: { kind: 'ping-pong' } }])).figure,
    ).toBe('19.9')
  })
  it('follows the speed', () =>
    expect(readoutOf('timing', balance([{ type: 'timing/speed', speed: 2 }])).figure).toBe('5.0'))
})

describe('legibility', () => {
  it.each([
    [null, 3, '–', 'busy'],
    [2.94, 3, '2.9', 'fix'],
    [3, 3, '3.0', 'settled'],
    [4.4, 4.5, '4.4', 'fix'],
  ])('with %j where %d is needed reads %s and is %s', (contrast, needed, figure, standing) => {
    expect(readoutOf('legibility', balance([], { contrast, needed }))).toMatchObject({
      figure,
      standing,
    })
  })
})

describe('fit', () => {
  it('tells what a phone keeps', () =>
    expect(readoutOf('fit', balance())).toEqual({
      figure: '100',
      unit: 'svh',
      note: 'phone shows 26 %',
      standing: 'settled',
    }))
  it('asks to look when next to nothing is kept', () => {
    expect(
      readoutOf('fit', balance([{ type: 'fit/height', height: { unit: 'svh', value: 150 } }])),
    ).toMatchObject({ standing: 'look' })
  })
})

describe('behaviour', () => {
  const set = (behaviour: Extract<BackdropAction, { type: 'behaviour/set' }>['behaviour']) =>
    readoutOf('behaviour', balance([{ type: 'behaviour/set', behaviour }]))
  it('is settled by default, and counts the posters', () =>
    expect(set({})).toMatchObject({ figure: '5', standing: 'settled' }))
  it('must be repaired when visitors cannot pause it', () =>
    expect(set({ pauseControl: false })).toMatchObject({ standing: 'fix' }))
  it('asks to look when it moves under reduced motion', () =>
    expect(set({ reducedMotion: 'play' })).toMatchObject({ figure: '4', standing: 'look' }))
})

describe('weight', () => {
  it('shows no figure before anything is made', () =>
    expect(readoutOf('weight', balance())).toMatchObject({
      figure: '–',
      unit: 'of 2.50 MB',
      standing: 'look',
    }))
  it('shows what a first visit takes, poster, script and style along, against the budget', () =>
    expect(readoutOf('weight', allMade(900_000))).toEqual({
      figure: '0.94',
      unit: 'of 2.50 MB',
      note: 'phone 0.94 of 1.00',
      standing: 'settled',
    }))
  it('must be repaired when any screen is over its budget', () =>
    expect(readoutOf('weight', allMade(970_000))).toMatchObject({ standing: 'fix' }))
  it('says which screen has no files of the present decisions yet, instead of a figure of nothing', () => {
    const before = allMade(900_000)
    const changed = (screenClass: 'phone' | 'wide'): Balance => ({
      ...before,
      document: reduce(before.document, {
        type: 'weight/row',
        screenClass,
        row: { budgetBytes: 700_000 },
      }),
    })
    expect(readoutOf('weight', changed('phone'))).toMatchObject({
      figure: '0.94',
      note: 'phone not rendered yet',
      standing: 'look',
    })
    expect(readoutOf('weight', changed('wide'))).toMatchObject({
      figure: '0.94',
      note: 'wide not rendered yet',
      standing: 'look',
    })
  })
  it('must be repaired where a budget is below what an encoder can do', () => {
    const before = allMade(900_000)
    const document = reduce(before.document, {
      type: 'weight/row',
      screenClass: 'phone',
      row: { budgetBytes: 60_000 },
    })
    const probes = clipRecipes(document, FROM)
      .filter(({ screenClass }) => screenClass === 'phone')
      .map(({ recipe }) => {
        const probe = inventRendition(recipe, 100)
        const points = [61, 255].map((setting, index) => ({
          setting,
          keyBytes: 4000,
          frameBytes: index === 0 ? 5000 : 500,
          ssim: 0.99 - index / 10,
          psnr: 46 - 16 * index,
        }))
        return [
          recipeKey(probeOf(recipe)),
          {
            ...probe,
            facts: {
              kind: 'probe',
              steering: 'quantizer',
              bounds: { finest: 15, coarsest: 255 },
              points,
              anchorEvery: null,
              parts: [],
              frames: 240,
              seconds: 1,
            } satisfies ProbeFacts,
          },
        ] as const
      })
    expect(
      readoutOf('weight', {
        ...before,
        document,
        made: { ...before.made, ...Object.fromEntries(probes) },
      }),
    ).toMatchObject({ note: 'Phone: too little for AV1', standing: 'fix' })
  })
  it('goes stale with the cut', () => {
    const before = allMade(900_000)
    const document = reduce(before.document, { type: 'timing/speed', speed: 0.5 })
    expect(readoutOf('weight', { ...before, document })).toMatchObject({
      figure: '–',
      note: 'not rendered for this cut',
    })
  })
  it('says that phones get the poster', () =>
    expect(
      readoutOf(
        'weight',
        allMade(900_000, [{ type: 'behaviour/set', behaviour: { phone: 'poster' } }]),
      ).note,
    ).toBe('phone shows the poster'))
})

describe('copy that cannot be read', () => {
  const worst = { ratio: 2.4, needed: 4.5, where: 'text, at 8.0 s, tablet' }
  it('is told with its text, time and screen, and is a check under Handoff', () => {
    expect(readoutOf('legibility', balance([], { worst }))).toEqual({
      figure: '2.4',
      unit: ': 1',
      note: 'text, at 8.0 s, tablet; needs 4.5',
      standing: 'fix',
    })
    expect(readoutOf('handoff', { ...allMade(1), worst })).toEqual({
      figure: '1',
      unit: 'check',
      note: 'copy cannot be read: text, at 8.0 s, tablet',
      standing: 'look',
    })
  })
  it('is none where it has what it needs as it is told', () => {
    const enough = { ...worst, ratio: 4.496 }
    expect(readoutOf('legibility', balance([], { worst: enough })).standing).toBe('settled')
    expect(readoutOf('handoff', { ...allMade(1), worst: enough }).unit).toBe('files')
  })
})

describe('handoff', () => {
  it('counts what is still to be made', () =>
    expect(readoutOf('handoff', balance())).toMatchObject({
      figure: '18',
      unit: 'to render',
      standing: 'look',
    }))
  it('is ready when every file is made', () =>
    expect(readoutOf('handoff', allMade(1))).toMatchObject({
      figure: '31',
      unit: 'files',
      standing: 'settled',
    }))
  it('counts equal files once, as the folder has them', () => {
    const { made: all } = allMade(1)
    const same = Object.entries(all).map(([key, each]) => [
      key,
      { ...each, sha256: 'a'.repeat(64) },
    ])
    expect(
      readoutOf('handoff', balance([], { made: Object.fromEntries(same) as Balance['made'] }))
        .figure,
    ).toBe('14')
  })
  it('is busy while files are made', () => {
    const recipe = proofRecipe(inventBackdrop(), FROM)!
    const job = {
      key: recipeKey(recipe),
      recipe,
      state: 'running' as const,
      done: 0.5,
      pass: 0,
      startedAt: 0,
      message: null,
    }
    expect(readoutOf('handoff', balance([], { jobs: [job] })).standing).toBe('busy')
    expect(readoutOf('weight', balance([], { jobs: [job] })).standing).toBe('busy')
  })
})

it('every readout has a figure, a note and a standing', () => {
  for (const name of ROOM_NAMES) {
    const readout = readoutOf(name, balance())
    expect(
      [readout.figure, readout.note, readout.standing].every((text) => text.length > 0),
      name,
    ).toBe(true)
  }
})

describe('while the server has not said which files are made', () => {
  it.each(['weight', 'handoff'] as const)(
    '%s says that it is asking, not that nothing is made',
    (name) => {
      for (const unsure of [{ absent: {} }, { lookProblem: 'The server does not answer.' }]) {
        expect(readoutOf(name, balance([], unsure))).toMatchObject({
          note: 'checking which files exist',
          standing: 'busy',
        })
      }
    },
  )
})

/** The sample source as an image. */
const SAMPLE_IMAGE: Source = {
  ...SAMPLE_CLIP,
  name: 'snow.jpg',
  facts: SAMPLE_IMAGE_FACTS,
}

describe('readouts of bases without a clip', () => {
  const still = (actions: BackdropAction[] = [], rest: Partial<Balance> = {}): Balance =>
    balance([{ type: 'base/set', base: createImage(SAMPLE_CLIP.id) }, ...actions], {
      sources: loadedSources([SAMPLE_IMAGE]),
      ...rest,
    })
  const painted = (...actions: BackdropAction[]): Balance =>
    balance([{ type: 'base/set', base: createPaint() }, ...actions], { sources: loadedSources([]) })
  const all = (of: Balance): string[] =>
    ROOM_NAMES.filter((name) => name !== 'legibility').map((name) => {
      const { figure, unit, note } = readoutOf(name, of)
      return `${name}: ${figure} ${unit}, ${note}`
    })

  it('say what applies, and show no dashes', () => {
    expect(all(still())).toEqual([
      'material: 2400 × 1350 px, snow.jpg',
      'timing: still , no pan and zoom',
      'fit: 100 svh, phone shows 26 %',
      'behaviour: still , nothing of it moves',
      'weight: none , pictures not rendered yet',
      'handoff: 15 to render, of 15 media files',
    ])
    expect(all(painted())).toEqual([
      'material: 2 colours, no steps to be seen',
      'timing: still , no motion',
      'fit: 100 svh, fits every screen',
      'behaviour: still , nothing of it moves',
      'weight: 3.6 kB, page alone, nothing to load',
      'handoff: 8 files, ready to download',
    ])
  })
  it('tell how they move, and that visitors must be able to pause it', () => {
    const motion = { type: 'paint/set', paint: { motion: FIRST_MOTION } } as const
    const free = { type: 'behaviour/set', behaviour: { pauseControl: false } } as const
    expect(readoutOf('timing', painted(motion))).toMatchObject({ figure: '24' })
    expect(readoutOf('behaviour', painted(motion))).toMatchObject({
      figure: '2',
      standing: 'settled',
    })
    expect(readoutOf('behaviour', painted(motion, free)).standing).toBe('fix')
    expect(readoutOf('behaviour', painted(free)).standing).toBe('settled')
    const pan = { type: 'image/set', image: { drift: FIRST_DRIFT } } as const
    expect(readoutOf('timing', still([pan]))).toMatchObject({
      figure: '40',
      note: 'zooms by 1.20 ×',
    })
  })
  it('weigh the heaviest picture, once all are rendered', () => {
    const from = still()
    const files = posterRecipes(from.document, from.sources.known).map(({ recipe }, index) => {
      const [key, rendition] = made(recipe, 30_000 + index)
      return [key, { ...rendition, sha256: String(index).padStart(64, '0') }] as const
    })
    const whole = still([], { made: Object.fromEntries(files) })
    expect(readoutOf('weight', whole)).toMatchObject({
      figure: '33',
      unit: 'kB of 2.50 MB',
      standing: 'settled',
    })
    expect(readoutOf('handoff', whole)).toMatchObject({ figure: '23', note: 'ready to download' })
  })
  it('ask for dither where steps are seen', () => {
    const plain = { type: 'paint/set', paint: { dither: false } } as const
    expect(readoutOf('material', painted(plain))).toMatchObject({ standing: 'look' })
  })
})
