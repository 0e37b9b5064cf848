import { describe, expect, it } from 'vitest'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  recipeKey,
  type ProbeRecipe,
  type Recipe,
  type ClipRecipe,
} from '../../core/backdrop/recipe'
import { inventBackdrop, knownAs } from '../../core/testing/samples'
import { effortOf, progressOf } from './effort'
import type { Job } from './workStore'

const FROM = knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 })
const DOCUMENT = inventBackdrop()
const CLIPS = clipRecipes(DOCUMENT, FROM).map(({ recipe }) => recipe)
const POSTERS = posterRecipes(DOCUMENT, FROM).map(({ recipe }) => recipe)
const ALL: readonly Recipe[] = [...POSTERS, ...CLIPS]
const job = (recipe: Recipe | ProbeRecipe, rest: Partial<Job> = {}): Job => ({
  key: recipeKey(recipe),
  recipe,
  state: 'queued',
  done: 0,
  pass: 0,
  startedAt: null,
  message: null,
  ...rest,
})

const lasting = (recipe: ClipRecipe, share: number): ClipRecipe => ({
  ...recipe,
  sequence: { ...recipe.sequence, frames: Math.round(recipe.sequence.frames * share) },
})

describe('the effort of a file', () => {
  it('grows with its pixels, its frames and its format’s thirst', () => {
    const of = (family: string, width: number): number =>
      effortOf(CLIPS.find((recipe) => recipe.family === family && recipe.width === width)!)
    expect(of('av1', 1920)).toBeGreaterThan(of('h264', 1920))
    expect(of('av1', 1920)).toBeGreaterThan(of('av1', CLIPS.at(-1)!.width))
    expect(effortOf(lasting(CLIPS[0]!, 0.5))).toBeLessThan(effortOf(CLIPS[0]!) * 0.6)
  })
  it('is that of all its short encodes for a probe, never more than five times the loop', () => {
    const [clip] = CLIPS
    expect(effortOf(probeOf(clip!))).toBeLessThan(effortOf(clip!))
    const short = lasting(clip!, 12 / clip!.sequence.frames)
    expect(effortOf(probeOf(short))).toBeCloseTo(5 * effortOf(short), 0)
  })
  it('of a poster is small beside a clip’s, though it is encoded many times over', () => {
    const poster = POSTERS.find(
      ({ format, width }) => format === 'avif' && width === CLIPS[0]!.width,
    )!
    expect(effortOf(poster)).toBeGreaterThan(10 * poster.width * poster.height)
    expect(effortOf(poster)).toBeLessThan(effortOf(CLIPS[0]!) / 4)
  })
})

describe('how far the making of files is', () => {
  it('begins at nothing, and ends at all', () => {
    expect(
      progressOf(
        ALL.map((recipe) => job(recipe)),
        ALL,
        null,
        0,
      ).share,
    ).toBe(0)
    expect(progressOf([], ALL, 1e8, 0)).toEqual({ share: 1, secondsLeft: 0 })
  })
  it('is never below nothing, though probes come on top of the files', () => {
    expect(
      progressOf(
        [...ALL, ...CLIPS.map(probeOf)].map((recipe) => job(recipe)),
        ALL,
        null,
        0,
      ).share,
    ).toBe(0)
  })
  it('counts what is done of the file under way', () => {
    const [first, ...rest] = CLIPS
    const before = progressOf([job(first!), ...rest.map((recipe) => job(recipe))], ALL, 1e8, 0)
    const half = progressOf(
      [job(first!, { state: 'running', done: 0.5 }), ...rest.map((recipe) => job(recipe))],
      ALL,
      1e8,
      0,
    )
    expect(half.share).toBeGreaterThan(before.share)
    expect(before.secondsLeft - half.secondsLeft).toBeCloseTo(effortOf(first!) / 2 / 1e8, 6)
  })
  it('does not know the time left before the machine has shown its pace', () => {
    expect(
      progressOf(
        [job(CLIPS[0]!, { state: 'running', done: 0.1, startedAt: 1000 })],
        ALL,
        null,
        3000,
      ).secondsLeft,
    ).toBeNaN()
  })
  it('goes by what the machine did before until the file under way has told enough, then by that', () => {
    const at = (done: number): number =>
      progressOf(
        [job(CLIPS[0]!, { state: 'running', done, startedAt: 1000 })],
        ALL,
        effortOf(CLIPS[0]!) / 100,
        11_000,
      ).secondsLeft
    expect(at(0.2)).toBeCloseTo(80, 6)
    // Half in ten seconds: ten more.
    expect(at(0.5)).toBeCloseTo(10, 6)
  })
})
