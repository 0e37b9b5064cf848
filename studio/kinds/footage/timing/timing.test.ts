import { describe, expect, it } from 'vitest'
import type {} from '../../../../core/api/wire'
import { clipRecipes, recipeKey } from '../../../../core/backdrop/recipe'
import { moveEdge } from '../../../../core/picture/pictureShape'
import {
  inventBackdrop,
  inventRendition,
  knownAs,
  SAMPLE_CLIP,
  reduced as reduce,
} from '../../../../core/testing/samples'
import { lengthCosts } from './lengthCosts'
import { seamMeaning } from './seamMeaning'

const FROM = knownAs({ sha256: SAMPLE_CLIP.sha256, width: 1920, height: 1080 })

describe('what a length costs', () => {
  const document = inventBackdrop()
  const made = (bytes: (family: string) => number) =>
    Object.fromEntries(
      clipRecipes(document, FROM)
        .filter(({ screenClass }) => screenClass === 'laptop')
        .map(({ recipe }) => [recipeKey(recipe), inventRendition(recipe, bytes(recipe.family))]),
    )
  it('is told by the heaviest format that is made, for each second', () => {
    // 240 frames at 24 a second: ten seconds.
    expect(
      lengthCosts(
        document,
        SAMPLE_CLIP,
        made((family) => (family === 'h264' ? 1_500_000 : 900_000)),
      ),
    ).toEqual([{ label: 'Laptop', bytesPerSecond: 150_000, budgetBytes: 2_375_000 }])
  })
  it('holds for another cut of the same clip, too', () => {
    const shorter = reduce(document, {
      type: 'timing/cut',
      cut: { timescale: 24, start: 0, end: 96 },
    })
    expect(
      lengthCosts(
        shorter,
        SAMPLE_CLIP,
        made(() => 1_200_000),
      ),
    ).toEqual([{ label: 'Laptop', bytesPerSecond: 120_000, budgetBytes: 2_375_000 }])
  })
  it('says nothing before anything is made, nor from a clip of another size or source', () => {
    expect(lengthCosts(document, SAMPLE_CLIP, {})).toEqual([])
    const wider = reduce(document, {
      type: 'weight/row',
      screenClass: 'laptop',
      row: { width: 1440 },
    })
    expect(
      lengthCosts(
        wider,
        SAMPLE_CLIP,
        made(() => 1_000_000),
      ),
    ).toEqual([])
    expect(
      lengthCosts(
        document,
        { ...SAMPLE_CLIP, sha256: 'e'.repeat(64) },
        made(() => 1_000_000),
      ),
    ).toEqual([])
  })
})

describe('the edges of a crop', () => {
  const crop = { x: 0.1, y: 0.2, width: 0.6, height: 0.5 }
  it.each([
    ['left', 0.3, { x: 0.3, y: 0.2, width: 0.4, height: 0.5 }],
    ['right', 0.9, { x: 0.1, y: 0.2, width: 0.8, height: 0.5 }],
    ['top', 0, { x: 0.1, y: 0, width: 0.6, height: 0.7 }],
    ['bottom', 1, { x: 0.1, y: 0.2, width: 0.6, height: 0.8 }],
  ] as const)('move one by one: %s to %d', (side, to, moved) =>
    expect(moveEdge(crop, side, to)).toEqual(moved),
  )
  it.each([
    ['left', 2, 0.65],
    ['right', -1, 0.1],
    ['top', 5, 0.65],
    ['bottom', 0, 0.2],
  ] as const)('never pass the opposite one: %s to %d', (side, to, at) => {
    const moved = moveEdge(crop, side, to)
    expect(side === 'left' || side === 'right' ? moved.x : moved.y).toBeCloseTo(at, 9)
    expect(Math.min(moved.width, moved.height)).toBeGreaterThanOrEqual(0.05 - 1e-9)
  })
  it.each([
    ['left', -3],
    ['top', -1],
    ['right', 9],
    ['bottom', 2],
  ] as const)('stay in the picture: %s to %d', (side, to) => {
    const { x, y, width, height } = moveEdge(crop, side, to)
    expect([x >= 0, y >= 0, x + width <= 1, y + height <= 1]).toEqual([true, true, true, true])
  })
})

describe('what a seam figure means', () => {
  it.each([
    [null, 'settled', /no visible seam/],
    [0.3, 'settled', /invisible/],
    [1.2, 'settled', /invisible/],
    [1.21, 'settled', /barely visible/],
    [2, 'settled', /barely visible/],
    [2.01, 'look', /2\.0 times an ordinary step: a visible jump/],
  ] as const)('%j is %s', (ratio, standing, words) => {
    const figures = { ratio, deltaE: ratio ?? 0, worstDeltaE: ratio === null ? 0 : 9 }
    expect(seamMeaning(figures)).toEqual({
      standing,
      words: expect.stringMatching(words) as string,
    })
  })
})
