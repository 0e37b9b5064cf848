import { describe, expect, it } from 'vitest'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  type ClipRecipe,
  type PosterRecipe,
} from '../core/backdrop/recipe'
import { inventBackdrop, knownAs } from '../core/testing/samples'
import { JobClock, Pace } from './Pace'

const known = knownAs({ sha256: 'a'.repeat(64), width: 1280, height: 720 })
const recipe: ClipRecipe = {
  ...clipRecipes(inventBackdrop(), known)[0]!.recipe,
  encoder: 'x264 0.164.3095',
}

const poster: PosterRecipe = posterRecipes(inventBackdrop(), known)[0]!.recipe

/** A clock that is set by hand. */
function clockOf(pace: Pace, of: Parameters<Pace['learn']>[0] = recipe) {
  let seconds = 100
  const clock = new JobClock(pace, of, () => seconds)
  return { clock, wait: (by: number) => (seconds += by) }
}

describe('how far a job is', () => {
  it('only grows while its steps take what they are expected to, and ends at all', () => {
    const pace = new Pace()
    for (const step of ['frames', 'probe', 'pass'] as const) pace.learn(recipe, step, 10)
    const { clock, wait } = clockOf(pace)
    const told = [clock.at('frames', 0, 0).done]
    const steps = [
      ['frames', 0],
      ['probe', 0],
      ['pass', 0],
      ['pass', 1],
    ] as const
    for (const [step, pass] of steps)
      for (let tenth = 1; tenth <= 10; tenth++) {
        // A step is first heard of when some of it is done.
        if (tenth === 1) clock.at(step, 0, pass)
        wait(1)
        told.push(clock.at(step, tenth / 10, pass).done)
      }
    expect(told).toEqual([...told].sort((a, b) => a - b))
    expect(told[10]).toBeCloseTo(0.25)
    expect(told[20]).toBeCloseTo(0.5)
    expect(told.at(-1)).toBe(1)
  })

  it('tells what passes take of each encoder, in megapixels a second', () => {
    const pace = new Pace()
    expect(pace.speeds()).toEqual([])
    const { clock, wait } = clockOf(pace)
    clock.at('frames', 0, 0)
    wait(5)
    clock.at('pass', 0, 0)
    wait(20)
    clock.at('pass', 1, 0)
    clock.end()
    expect(pace.speeds()).toEqual([
      {
        encoder: recipe.encoder,
        megapixels: expect.closeTo(
          (recipe.width * recipe.height * recipe.sequence.frames) / 1e6 / 20,
        ) as number,
      },
    ])
  })

  it('tells the seconds that are left from this machine’s own speed', () => {
    const pace = new Pace()
    const { clock, wait } = clockOf(pace)
    clock.at('frames', 0, 0)
    wait(10)
    // Half of the frames took 10 s: the other half takes as long; later steps are guesses.
    const unknown = clock.at('frames', 0.5, 0).secondsLeft
    wait(10)
    clock.at('frames', 1, 0)
    clock.at('probe', 0, 0)
    wait(20)
    clock.at('probe', 1, 0)
    clock.at('pass', 0, 0)
    wait(40)
    clock.at('pass', 0.9, 0)
    clock.at('pass', 0, 1)
    wait(40)
    clock.at('pass', 1, 1)
    clock.end()
    expect(pace.expected(recipe, 'frames')).toBeCloseTo(20)
    expect(pace.expected(recipe, 'probe')).toBeCloseTo(20)
    expect(pace.expected(recipe, 'pass')).toBeCloseTo(40)
    // The next one of twice the size takes twice as long: frames, probe, two passes.
    const twice = { ...recipe, width: recipe.width * 2 }
    const next = clockOf(pace, twice)
    expect(next.clock.at('frames', 0, 0).secondsLeft).toBeCloseTo(2 * (20 + 20 + 80))
    expect(unknown).toBeGreaterThan(10)
  })

  it('learns of pictures by their format, although they tell nothing before they are done', () => {
    const pace = new Pace()
    const avif = { ...poster, format: 'avif' } as const
    const { clock, wait } = clockOf(pace, avif)
    const guessed = clock.at('pass', 0, 0).secondsLeft
    wait(4)
    expect(clock.at('pass', 0, 0).secondsLeft).toBeCloseTo(guessed - 4)
    wait(50)
    expect(clock.at('pass', 0, 0)).toEqual({ done: 1, secondsLeft: 0 })
    clock.end()
    expect(pace.expected(avif, 'pass')).toBeCloseTo(54)
    expect(pace.expected({ ...avif, format: 'jpeg' }, 'pass')).toBeLessThan(5)
    expect(pace.speeds()).toEqual([])
  })

  it('has less time left the longer a step tells nothing', () => {
    const pace = new Pace()
    const { clock, wait } = clockOf(pace)
    clock.at('frames', 0, 0)
    wait(10)
    const heard = clock.at('frames', 0.5, 0).secondsLeft
    wait(4)
    expect(clock.at('frames', 0.5, 0).secondsLeft).toBeCloseTo(heard - 4)
    wait(2)
    // Heard of again, it is known better: 16 s for eight tenths, 4 s more.
    const later = clock.at('frames', 0.8, 0).secondsLeft
    expect(later - clock.at('probe', 0, 0).secondsLeft).toBeCloseTo(4)
  })

  it('learns nothing of frames that are there already', () => {
    const pace = new Pace()
    const { clock, wait } = clockOf(pace)
    const before = pace.expected(recipe, 'frames')
    clock.at('frames', 0, 0)
    wait(0.1)
    clock.at('probe', 0, 0)
    expect(pace.expected(recipe, 'frames')).toBe(before)
  })

  it('grows its guess where a step takes longer than before', () => {
    const pace = new Pace()
    for (const step of ['frames', 'probe', 'pass'] as const) pace.learn(recipe, step, 10)
    const { clock, wait } = clockOf(pace)
    clock.at('pass', 0, 1)
    wait(10)
    expect(clock.at('pass', 0.1, 1).secondsLeft).toBeCloseTo(90)
  })

  it('expects no passes of probes, and none after the second', () => {
    const pace = new Pace()
    for (const step of ['frames', 'probe', 'pass'] as const) pace.learn(recipe, step, 10)
    const probe = clockOf(pace, probeOf(recipe))
    expect(probe.clock.at('frames', 0, 0).secondsLeft).toBeCloseTo(20)
    expect(probe.clock.at('probe', 0, 0).secondsLeft).toBeCloseTo(10)
    expect(clockOf(pace).clock.at('pass', 0, 2).secondsLeft).toBeCloseTo(10)
  })

  it('is learnt for each encoder by itself', () => {
    const pace = new Pace()
    pace.learn(recipe, 'pass', 40)
    const other = { ...recipe, encoder: 'svt-av1 1.4.1' }
    expect(pace.expected(other, 'pass')).toBe(new Pace().expected(other, 'pass'))
  })
})
