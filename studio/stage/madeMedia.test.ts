import { describe, expect, it } from 'vitest'
import type { ClipSource, Rendition } from '../../core/api/wire'
import { clipRecipes, posterRecipes, recipeKey } from '../../core/backdrop/recipe'
import { reduce } from '../../core/backdrop/reduce'
import { FACTS, inventBackdrop, inventRendition } from '../../core/testing/samples'
import { deliveredMedia } from '../deck/deliveredMedia'
import { madeClip, madePosters } from './madeMedia'

const DOCUMENT = inventBackdrop()
const FROM = { sha256: 'a'.repeat(64), width: 1920, height: 1080 }
const SOURCE: ClipSource = {
  id: '7b1f8c1e-0000-4000-8000-000000000001',
  projectId: '7b1f8c1e-0000-4000-8000-000000000002',
  name: 'dusk.mov',
  sha256: FROM.sha256,
  facts: FACTS,
  createdAt: '2026-11-23T08:00:00.000Z',
  usedBy: [],
  analysis: null,
  findings: [],
  strip: null,
}
const [clip] = clipRecipes(DOCUMENT, FROM)
const posters = posterRecipes(DOCUMENT, FROM)

describe('media that are made', () => {
  it('stand on the stage under the address of their bytes', () => {
    const rendition = inventRendition(clip!.recipe, 5000)
    expect(madeClip(rendition, clip!.screenClass, clip!.recipe)).toMatchObject({
      screenClass: clip!.screenClass,
      family: clip!.recipe.family,
      bytes: 5000,
      url: expect.stringContaining(rendition.sha256) as string,
    })
  })
  it('are none where nothing is made, or what is made is no clip', () => {
    expect(madeClip(undefined, 'wide', clip!.recipe)).toBeNull()
    expect(madeClip(inventRendition(posters[0]!.recipe, 100), 'wide', clip!.recipe)).toBeNull()
  })
  it('bring the placeholder of the first poster that is there', () => {
    const made = new Map(
      posters
        .slice(1)
        .map(({ recipe }, index): [string, Rendition] => [
          recipeKey(recipe),
          inventRendition(recipe, 1000 + index),
        ]),
    )
    const { posters: shown, placeholder } = madePosters(posters, (key) => made.get(key))
    expect(shown.map(({ bytes }) => bytes)).toEqual(
      posters.slice(1).map((_, index) => 1000 + index),
    )
    const first = made.get(recipeKey(posters[1]!.recipe))!
    expect(placeholder).toEqual(
      first.facts.kind === 'poster' ? first.facts.placeholder : 'no poster',
    )
    expect(madePosters(posters, () => undefined)).toEqual({ posters: [], placeholder: null })
  })
})

describe('media of the folder', () => {
  it('are named as the folder names them, made or not', () => {
    const key = recipeKey(clip!.recipe)
    const media = deliveredMedia(DOCUMENT, SOURCE, { [key]: inventRendition(clip!.recipe, 7000) })
    expect(media.clips).toHaveLength(clipRecipes(DOCUMENT, FROM).length)
    expect(media.clips.filter(({ bytes }) => bytes > 0)).toHaveLength(1)
    expect(media.clips.filter(({ codec }) => codec === 'not rendered yet')).toHaveLength(
      media.clips.length - 1,
    )
    const urls = [...media.clips, ...media.posters].map(({ url }) => url)
    expect(new Set(urls).size).toBe(urls.length)
    for (const url of urls) expect(url).toMatch(/^media\/[a-z0-9.-]+$/)
  })
  it('lack the clips of a class that is switched off', () => {
    const narrow = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'wide',
      row: { enabled: false },
    })
    expect(
      deliveredMedia(narrow, SOURCE, {}).clips.some(({ screenClass }) => screenClass === 'wide'),
    ).toBe(false)
  })
})
