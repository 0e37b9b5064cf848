import { describe, expect, it } from 'vitest'
import type { Rendition } from '../../../core/api/wire'
import { clipRecipes, probeOf, recipeKey } from '../../../core/backdrop/recipe'
import {
  inventBackdrop,
  inventRendition,
  knownAs,
  SAMPLE_CLIP,
  reduced as reduce,
} from '../../../core/testing/samples'
import type { ProbeFacts } from '../../../core/weight/ProbeFacts'
import { loadedSources } from '../../state/loadedSources'
import { overFloors } from './overFloors'

const SOURCES = loadedSources([SAMPLE_CLIP])
const FROM = knownAs({ sha256: SAMPLE_CLIP.sha256, width: 1920, height: 1080 })
const DOCUMENT = inventBackdrop()

/** A probe of each clip of a screen whose coarsest setting takes so many bytes a frame. */
function probed(frameBytes: number, steering: ProbeFacts['steering']): Record<string, Rendition> {
  const points = (steering === 'quantizer' ? [61, 255] : [6_000_000, 60_000]).map(
    (setting, index) => ({
      setting,
      keyBytes: frameBytes * 4,
      frameBytes: frameBytes * (index === 0 ? 10 : 1),
      ssim: index === 0 ? 0.99 : 0.8,
      psnr: index === 0 ? 46 : 30,
    }),
  )
  return Object.fromEntries(
    clipRecipes(DOCUMENT, FROM).map(({ recipe }) => {
      const key = recipeKey(probeOf(recipe))
      return [
        key,
        {
          key,
          sha256: 'c'.repeat(64),
          bytes: 100,
          facts: {
            kind: 'probe',
            steering,
            bounds: { finest: 15, coarsest: 255 },
            points,
            anchorEvery: null,
            parts: [],
            frames: 240,
            seconds: 1,
          },
        },
      ]
    }),
  )
}

describe('budgets below what an encoder can do', () => {
  it('are told for each format, with the fewest bytes of the file', () => {
    const found = overFloors(DOCUMENT, SOURCES, probed(5000, 'quantizer'))
    expect(found.map(({ screenClass, family }) => `${screenClass} ${family}`)).toEqual([
      'phone av1',
      'phone vp9',
      'phone h264',
    ])
    // 239 frames and a key frame of four times their bytes, and the index.
    expect(found[0]!.floor).toBeGreaterThan(243 * 5000)
    expect(found[0]!.floor).toBeLessThan(243 * 5000 * 1.1)
    expect(found[0]!.budgetBytes).toBe(1_000_000 - 60_000 - 5_000)
  })
  it('are none where the clip is light, nothing was probed, or a likeness is held', () => {
    expect(overFloors(DOCUMENT, SOURCES, probed(500, 'quantizer'))).toEqual([])
    expect(overFloors(DOCUMENT, SOURCES, {})).toEqual([])
    expect(
      overFloors(
        reduce(DOCUMENT, { type: 'weight/set', weight: { goal: 'quality' } }),
        SOURCES,
        probed(5000, 'quantizer'),
      ),
    ).toEqual([])
  })
  it('are not claimed of a file that was made within its budget all the same', () => {
    const first = clipRecipes(DOCUMENT, FROM).find(({ screenClass }) => screenClass === 'phone')
    const within = inventRendition(first!.recipe, 900_000)
    expect(
      overFloors(DOCUMENT, SOURCES, {
        ...probed(5000, 'quantizer'),
        [recipeKey(first!.recipe)]: within,
      }),
    ).toHaveLength(2)
  })
  it('are told by the file itself once it is made: the probe saw a little of it', () => {
    const phone = clipRecipes(DOCUMENT, FROM).find(
      ({ screenClass, recipe }) => screenClass === 'phone' && recipe.family === 'av1',
    )!
    const over = inventRendition(phone.recipe, 1_900_000)
    expect(
      overFloors(DOCUMENT, SOURCES, {
        ...probed(5000, 'quantizer'),
        [recipeKey(phone.recipe)]: over,
      })[0],
    ).toMatchObject({ family: 'av1', floor: 1_900_000 })
  })
  it('are not claimed of an encoder that still followed its lowest rate', () => {
    // 60 kbit/s are 312 bytes a frame.
    expect(overFloors(DOCUMENT, SOURCES, probed(300, 'rate'))).toEqual([])
    expect(overFloors(DOCUMENT, SOURCES, probed(5000, 'rate'))).toHaveLength(3)
  })
})
