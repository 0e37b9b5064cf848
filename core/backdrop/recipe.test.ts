import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { SCREEN_CLASSES, type ScreenClass } from '../fit/screens'
import { inventBackdrop, knownAs, reduced as reduce } from '../testing/samples'
import { FAMILIES } from '../weight/families'
import type { BackdropDocument } from './BackdropDocument'
import { sequenceOf } from './delivered'
import {
  classServing,
  clipBudget,
  clipRecipes,
  deliveredClasses,
  pageBytes,
  pictureSize,
  posterRecipes,
  probeOf,
  recipeKey,
  renditionOf,
  posterMaxBytes,
} from './recipe'
import { type BackdropAction } from './reduce'
import { evenScrim } from '../scrim/Scrim'

/* What holds of the files of any document, whatever a designer did to its ladder. */

const screenClass = fc.constantFrom(...SCREEN_CLASSES)
const share = (low: number, high: number) => fc.double({ min: low, max: high, noNaN: true })
const side = fc.integer({ min: 8, max: 2200 })
const SOURCES = fc
  .record({ sha256: fc.constant('a'.repeat(64)), width: side, height: side })
  .map((source) => knownAs(source))
const ACTION: fc.Arbitrary<BackdropAction> = fc.oneof(
  fc.record({
    type: fc.constant('weight/row' as const),
    screenClass,
    row: fc.record(
      {
        budgetBytes: fc.integer({ min: 20_000, max: 9_000_000 }),
        width: fc.integer({ min: 160, max: 3840 }),
        enabled: fc.boolean(),
        crop: fc.constantFrom('screen' as const, 'whole' as const),
        copyBlur: fc.constantFrom(0, 0.4, 1),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({
    type: fc.constant('weight/format' as const),
    screenClass,
    format: fc.constantFrom(...FAMILIES),
    enabled: fc.boolean(),
  }),
  fc.record({ type: fc.constant('weight/lock' as const), screenClass, locked: fc.boolean() }),
  fc.record({
    type: fc.constant('weight/set' as const),
    weight: fc.record(
      {
        goal: fc.constantFrom('budget' as const, 'quality' as const),
        targetSsim: share(0.85, 0.995),
        noiseReduction: share(0, 1),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({
    type: fc.constant('fit/focal' as const),
    focal: fc.record({ x: share(0, 1), y: share(0, 1) }),
  }),
  fc.record({
    type: fc.constant('behaviour/set' as const),
    behaviour: fc.record({ phone: fc.constantFrom('play' as const, 'poster' as const) }),
  }),
)
const ACTIONS = fc.array(ACTION, { maxLength: 12 })
const play = (
  actions: readonly BackdropAction[],
  from: BackdropDocument = inventBackdrop(),
): BackdropDocument => actions.reduce(reduce, from)

describe('the files of any ladder', () => {
  it('are even, never larger than the picture, and of its shape (seed 91)', () => {
    fc.assert(
      fc.property(ACTIONS, SOURCES, (actions, source) => {
        const document = play(actions)
        const picture = pictureSize(document, source)
        for (const each of SCREEN_CLASSES) {
          const { width, height, part } = renditionOf(document, source, each)
          expect([width % 2, height % 2]).toEqual([0, 0])
          expect(width).toBeLessThanOrEqual(Math.max(2, picture.width + 1))
          expect(height).toBeLessThanOrEqual(Math.max(2, picture.height + 1))
          const shown = sequenceOf(document, source, { part })!.size
          // Even sides are off by one sample at most.
          if (Math.min(width, height) > 16)
            expect(
              Math.abs(width * shown.height - height * shown.width) /
                Math.max(shown.width, shown.height),
              `${width} × ${height} of ${shown.width} × ${shown.height}`,
            ).toBeLessThanOrEqual(2.5)
        }
      }),
      { seed: 91, numRuns: 300 },
    )
  })
  it('have a key each on their screen, which a reload finds again (seed 92)', () => {
    fc.assert(
      fc.property(ACTIONS, SOURCES, (actions, source) => {
        const document = play(actions)
        // Screens of one picture in other formats may share a file.
        const keysOf = (now: BackdropDocument): string[] =>
          [...clipRecipes(now, source), ...posterRecipes(now, source)].map(
            ({ screenClass: each, recipe }) => `${each} ${recipeKey(recipe)}`,
          )
        const keys = keysOf(document)
        expect(new Set(keys).size).toBe(keys.length)
        expect(keysOf(JSON.parse(JSON.stringify(document)) as BackdropDocument)).toEqual(keys)
      }),
      { seed: 92, numRuns: 200 },
    )
  })
  it('fit into their budget together, and leave the larger part to the clip (seed 93)', () => {
    fc.assert(
      fc.property(ACTIONS, screenClass, (actions, each) => {
        const document = play(actions)
        const { budgetBytes: budget } = document.weight.renditions[each]
        expect(
          clipBudget(document, each) + posterMaxBytes(document, each) + pageBytes(document),
        ).toBe(budget)
        expect(clipBudget(document, each)).toBeGreaterThanOrEqual(
          (budget - pageBytes(document)) * 0.6 - 1,
        )
        expect(posterMaxBytes(document, each)).toBeGreaterThan(0)
      }),
      { seed: 93, numRuns: 200 },
    )
  })
  it('serve every screen, and have an H.264 among them (seed 94)', () => {
    fc.assert(
      fc.property(ACTIONS, SOURCES, (actions, source) => {
        const document = play(actions)
        const delivered = deliveredClasses(document, source)
        const clips = clipRecipes(document, source)
        expect([...new Set(clips.map((clip) => clip.screenClass))].reverse()).toEqual(delivered)
        if (delivered.length > 0) {
          expect(clips.some(({ recipe }) => recipe.family === 'h264')).toBe(true)
          for (const each of SCREEN_CLASSES)
            expect(delivered).toContain(classServing(each, delivered))
        }
        expect(posterRecipes(document, source).length).toBeGreaterThan(0)
      }),
      { seed: 94, numRuns: 200 },
    )
  })
  it('are all made for one goal: bytes, or a likeness (seed 95)', () => {
    fc.assert(
      fc.property(ACTIONS, SOURCES, (actions, source) => {
        const document = play(actions)
        for (const { screenClass: each, recipe } of clipRecipes(document, source)) {
          if (document.weight.goal === 'quality')
            expect(recipe.goal).toEqual({ kind: 'quality', ssim: document.weight.targetSsim })
          else expect(recipe.goal).toEqual({ kind: 'budget', bytes: clipBudget(document, each) })
        }
      }),
      { seed: 95, numRuns: 100 },
    )
  })
})

describe('what makes files anew', () => {
  const SOURCE = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
  const keysOf = (document: BackdropDocument, each: ScreenClass): string[] =>
    [...clipRecipes(document, SOURCE), ...posterRecipes(document, SOURCE)]
      .filter((file) => file.screenClass === each)
      .map(({ recipe }) => recipeKey(recipe))
  it('is an encoder, with its version, of the formats that it makes', () => {
    const before = inventBackdrop()
    const encoders = { av1: null, vp9: null, h264: 'x264 0.164.3095', pictures: 'sharp 0.35.5' }
    const after = reduce(before, { type: 'weight/set', weight: { encoders } })
    const [old, made] = [keysOf(before, 'wide'), keysOf(after, 'wide')]
    expect(made.filter((key) => key.includes(':x264-0.164.3095:h264:'))).toHaveLength(1)
    expect(made.filter((key) => key.includes(':sharp-0.35.5:'))).toHaveLength(3)
    // What the browser makes keeps its key: nothing is rendered again.
    expect(made.filter((key) => old.includes(key))).toHaveLength(2)
    expect(keysOf(reduce(after, { type: 'weight/set', weight: before.weight }), 'wide')).toEqual(
      old,
    )
  })
  it('is never a row that is locked (seed 96)', () => {
    fc.assert(
      fc.property(ACTIONS, screenClass, ACTIONS, (before, each, after) => {
        const locked = reduce(play(before), {
          type: 'weight/lock',
          screenClass: each,
          locked: true,
        })
        const { renditions: rows } = play(
          after.filter(({ type }) => type !== 'weight/lock'),
          locked,
        ).weight
        expect(rows[each]).toEqual(locked.weight.renditions[each])
      }),
      { seed: 96, numRuns: 200 },
    )
  })
  it('is not another budget, as far as probes go (seed 97)', () => {
    fc.assert(
      fc.property(ACTIONS, fc.integer({ min: 20_000, max: 9_000_000 }), (actions, budget) => {
        const document = play(actions)
        const probes = (now: BackdropDocument): Set<string> =>
          new Set(clipRecipes(now, SOURCE).map(({ recipe }) => recipeKey(probeOf(recipe))))
        const all = SCREEN_CLASSES.reduce(
          (now, each) =>
            reduce(now, { type: 'weight/row', screenClass: each, row: { budgetBytes: budget } }),
          document,
        )
        // Equal budgets may make two files one: no probe comes on top.
        for (const probe of probes(all)) expect(probes(document)).toContain(probe)
      }),
      { seed: 97, numRuns: 150 },
    )
  })
  it('is a word of the copy only on screens whose ground is blurred behind it', () => {
    const soft = reduce(inventBackdrop(), {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { copyBlur: 0.6 },
    })
    const written = reduce(soft, {
      type: 'copy/write',
      field: 'heading',
      value:
        'A heading that is far longer than the one before it, and runs over several lines of any window',
    })
    expect(keysOf(written, 'phone')).toEqual(keysOf(soft, 'phone'))
    expect(keysOf(written, 'wide')).toEqual(keysOf(soft, 'wide'))
    expect(keysOf(written, 'laptop')).not.toEqual(keysOf(soft, 'laptop'))
  })
  it('is blurred on the other side behind words that run from right to left', () => {
    const soft = reduce(inventBackdrop(), {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { copyBlur: 0.6 },
    })
    const boxIn = (lang: string) =>
      renditionOf({ ...soft, handoff: { ...soft.handoff, lang } }, SOURCE, 'laptop').copyBlur!.box
    const [left, right] = [boxIn('en'), boxIn('ar')]
    expect(left.x + left.width / 2).toBeLessThan(0.5)
    expect(right.x).toBeCloseTo(1 - left.x - left.width, 5)
    expect(right.y).toBe(left.y)
    expect(right.width).toBeCloseTo(left.width, 5)
  })
  it('is neither scrim nor behaviour: files know nothing of them', () => {
    const document = inventBackdrop()
    const after = play(
      [
        { type: 'scrim/set', scrim: evenScrim('#14101c', 0.9) },
        {
          type: 'behaviour/set',
          behaviour: { pauseControl: false, reducedMotion: 'play', dataSaver: 'play' },
        },
      ],
      document,
    )
    for (const each of SCREEN_CLASSES) expect(keysOf(after, each)).toEqual(keysOf(document, each))
  })
})
