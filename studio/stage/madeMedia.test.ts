import { describe, expect, it } from 'vitest'
import type { Rendition } from '../../core/api/wire'
import { clipRecipes, posterRecipes, recipeKey } from '../../core/backdrop/recipe'
import {
  inventBackdrop,
  inventRendition,
  knownAs,
  SAMPLE_CLIP,
  reduced as reduce,
} from '../../core/testing/samples'
import { deliveredMedia } from '../rooms/handoff/deliveredMedia'
import { loadedSources } from '../state/loadedSources'
import { madeClip, madePosters } from './madeMedia'

const DOCUMENT = inventBackdrop()
const FROM = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
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

const BACKDROP = '7B1F8C1E-0000-4000-8000-0000000000aa'

describe('media of the folder', () => {
  it('are named as the folder names them, made or not', () => {
    const key = recipeKey(clip!.recipe)
    const { media, files } = deliveredMedia(BACKDROP, DOCUMENT, loadedSources([SAMPLE_CLIP]), {
      [key]: inventRendition(clip!.recipe, 7000),
    })
    expect(media.clips).toHaveLength(clipRecipes(DOCUMENT, FROM).length)
    expect(media.clips.filter(({ bytes }) => bytes > 0)).toHaveLength(1)
    expect(media.clips.filter(({ codec }) => codec === 'not rendered yet')).toHaveLength(
      media.clips.length - 1,
    )
    const urls = [...media.clips, ...media.posters].map(({ url }) => url)
    expect(new Set(urls).size).toBe(urls.length)
    for (const url of urls) expect(url).toMatch(/^media\/7b1f8c-[a-z0-9.…-]+$/)
    expect(files.filter(({ sha256 }) => sha256 !== null).map(({ bytes }) => bytes)).toEqual([7000])
  })
  it('lack the clips of a class that is switched off', () => {
    const narrow = reduce(DOCUMENT, {
      type: 'weight/row',
      screenClass: 'wide',
      row: { enabled: false },
    })
    expect(
      deliveredMedia(BACKDROP, narrow, loadedSources([SAMPLE_CLIP]), {}).media.clips.some(
        ({ screenClass }) => screenClass === 'wide',
      ),
    ).toBe(false)
  })
})
