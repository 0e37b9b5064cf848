import { describe, expect, it } from 'vitest'
import { knownSource } from '../../core/api/knownSource'
import type { ClipSource, Rendition } from '../../core/api/wire'
import { clipRecipes, probeOf, recipeKey } from '../../core/backdrop/recipe'
import type { Sources } from '../../core/kinds/Kind'
import {
  FACTS,
  inventBackdrop,
  SAMPLE_SOURCE_ID,
  reduced as reduce,
} from '../../core/testing/samples'
import { missingWork } from './workStore'

const SOURCE = {
  id: SAMPLE_SOURCE_ID,
  sha256: 'a'.repeat(64),
  facts: FACTS,
} as unknown as ClipSource
const known = (source: ClipSource): Sources => new Map([[source.id, knownSource(source)]])
const DOCUMENT = inventBackdrop()
const madeOf = (keys: readonly string[]): Record<string, Rendition> =>
  Object.fromEntries(keys.map((key) => [key, { key } as Rendition]))
const clips = clipRecipes(DOCUMENT, known(SOURCE)).map(({ recipe }) => recipe)

describe('what is left to be made', () => {
  it('begins with the posters, and has each clip behind its probe', () => {
    const kinds = missingWork(DOCUMENT, known(SOURCE), {}).map(({ kind }) => kind)
    expect(kinds.indexOf('probe')).toBe(kinds.lastIndexOf('poster') + 1)
    expect(kinds.slice(kinds.indexOf('probe'))).toEqual(clips.flatMap(() => ['probe', 'clip']))
  })
  it('leaves out what is made, and the probe of what is made', () => {
    const left = missingWork(
      DOCUMENT,
      known(SOURCE),
      madeOf([recipeKey(clips[0]!), recipeKey(probeOf(clips[1]!))]),
    )
      .filter(({ kind }) => kind !== 'poster')
      .map(recipeKey)
    expect(left).not.toContain(recipeKey(clips[0]!))
    expect(left).not.toContain(recipeKey(probeOf(clips[0]!)))
    expect(left.slice(0, 1)).toEqual([recipeKey(clips[1]!)])
  })
  it('probes a picture once, whatever budgets it is made for', () => {
    // A small clip gives laptops and wide screens the same picture.
    const small = {
      ...SOURCE,
      facts: { ...FACTS, video: { ...FACTS.video, displayWidth: 640, displayHeight: 360 } },
    }
    const whole = (['laptop', 'wide'] as const).reduce(
      (document, screenClass) =>
        reduce(document, { type: 'weight/row', screenClass, row: { crop: 'whole', width: 640 } }),
      DOCUMENT,
    )
    const keys = missingWork(whole, known(small), {}).map(recipeKey)
    expect(new Set(keys).size).toBe(keys.length)
    const pictures = clipRecipes(whole, known(small))
    expect(pictures.length).toBeGreaterThan(
      new Set(pictures.map(({ recipe }) => recipeKey(probeOf(recipe)))).size,
    )
  })
})
