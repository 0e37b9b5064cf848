import { describe, expect, it } from 'vitest'
import type { Rendition } from '../../../core/api/wire'
import { posterRecipes, recipeKey } from '../../../core/backdrop/recipe'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import type { KnownSource } from '../../../core/kinds/Kind'
import { createSlideshow } from '../../../core/kinds/slideshow/Slideshow'
import { inventBackdrop } from '../../../core/testing/samples'
import { scenesOf } from './slideContrasts'
import { slideSums, weighedSlides } from './slideWeights'
import { worstOf } from './WatchSlides'

const ids = ['a', 'b', 'c']
const document: DocumentOf<'slideshow'> = { ...inventBackdrop(), base: createSlideshow(ids) }
const known = new Map<string, KnownSource>(
  ids.map((id, index) => [
    id,
    {
      sha256: String(index).padStart(64, '0'),
      width: 1920,
      height: 1080,
      image: { mime: 'image/jpeg', bytes: 1, alpha: false },
    },
  ]),
)
/** All files, the third slide the worst. */
const made = Object.fromEntries(
  posterRecipes(document, known).map(({ slide, recipe }) => {
    const rendition = {
      key: recipeKey(recipe),
      sha256: 'f'.repeat(64),
      bytes: 1000 * (slide! + 1),
      facts: {
        kind: 'poster',
        type: `image/${recipe.format}`,
        width: recipe.width,
        height: recipe.height,
        ssim: 0.99 - slide! / 100,
        swapDeltaE: 0,
        swapWorst: 0,
        placeholder: { dataUrl: 'data:image/webp;base64,AA', colour: '#000000' },
      },
    } as Rendition
    return [rendition.key, rendition]
  }),
)

describe('what slides weigh', () => {
  it('is summed for the first visit and the cycle, with the worst likeness', () => {
    const sums = slideSums(document, weighedSlides(document, known, made))
    const [one] = sums
    expect(one!.cycle - one!.first).toBe(3000)
    expect(one!.worstSsim).toBeCloseTo(0.97, 6)
    expect(one!.cycleBudget).toBe(document.base.cycleBytes[one!.screenClass])
  })
  it('is not summed while a slide is missing', () => {
    const [, ...others] = Object.entries(made)
    const all = slideSums(document, weighedSlides(document, known, made))
    const left = slideSums(document, weighedSlides(document, known, Object.fromEntries(others)))
    expect(left).toHaveLength(all.length - 1)
  })
})

describe('what is measured of legibility', () => {
  it('is every slide alone and the middle of the transition after it', () => {
    const { full, middle } = scenesOf(document, 2)
    expect(full.map(({ slide }) => slide)).toEqual([2])
    expect(middle.map(({ slide }) => slide)).toEqual([2, 0])
    expect(middle[1]!.look.opacity).toBeCloseTo(0.5, 6)
  })
  it('is one picture where a transition takes no time', () => {
    const cut = {
      ...document,
      base: { ...document.base, transition: { ...document.base.transition, seconds: 0 } },
    }
    const { full, middle } = scenesOf(cut, 0)
    expect(middle).toEqual(full)
  })
  it('names the worst place', () => {
    expect(worstOf([])).toBeNull()
    expect(
      worstOf([
        { id: 1, full: 5, middle: 4 },
        { id: 2, full: 6, middle: 2.5 },
      ]),
    ).toEqual({ ratio: 2.5, where: 'after slide 2' })
  })
})
