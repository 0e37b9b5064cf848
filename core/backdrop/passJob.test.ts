import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inventBackdrop, knownAs } from '../testing/samples'
import { containerOverhead } from '../weight/containerOverhead'
import { dataBudget } from '../weight/passes'
import type { ProbeFacts } from '../weight/ProbeFacts'
import { deliveredRepeats, passJob } from './passJob'
import { clipRecipes } from './recipe'

const { recipe } = clipRecipes(
  inventBackdrop(),
  knownAs({ sha256: 'a'.repeat(64), width: 1920, height: 1080 }),
)[0]!
const ONCE = { ...recipe, sequence: { ...recipe.sequence, loops: false } }
const PROBE: ProbeFacts = {
  kind: 'probe',
  steering: 'quantizer',
  bounds: { finest: 15, coarsest: 255 },
  points: [{ setting: 100, keyBytes: 9000, frameBytes: 900, ssim: 0.97, psnr: 41 }],
  anchorEvery: 10,
  parts: [1],
  frames: 240,
  seconds: 1,
}
const FRAMES = PROBE.frames

describe('what a budget leaves to the frames', () => {
  it('fits into it with its container, and would not with more (seed 61)', () => {
    const { overhead } = passJob(recipe, { kind: 'budget', bytes: 1 }, PROBE)
    fc.assert(
      fc.property(fc.integer({ min: 12_000, max: 5_000_000 }), (budget) => {
        const { bytes, basis } = dataBudget({ overhead }, budget)
        expect(bytes + overhead(basis)).toBe(budget)
        expect(bytes).toBeGreaterThanOrEqual(basis)
        expect(basis + 2 + overhead(basis + 2)).toBeGreaterThan(budget)
      }),
      { seed: 61, numRuns: 200 },
    )
  })
  it('gets the index that was planned when it is about filled: never over for a step of the index (seed 62)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 20_000, max: 600_000 }),
        fc.double({ min: 0.96, max: 1, noNaN: true }),
        (bytes, share) => {
          const wanted = { ...recipe, goal: { kind: 'budget' as const, bytes } }
          const data = Math.floor(
            dataBudget(passJob(recipe, wanted.goal, PROBE), bytes).bytes * share,
          )
          const file =
            data + containerOverhead('mp4', FRAMES, deliveredRepeats(wanted, FRAMES, data))
          expect(file).toBeLessThanOrEqual(bytes)
          expect(file / bytes).toBeGreaterThan(share - 0.0002)
        },
      ),
      { seed: 62, numRuns: 200 },
    )
  })
  it('gets an index of its own size where it came to much less', () => {
    const wanted = { ...recipe, goal: { kind: 'budget' as const, bytes: 900_000 } }
    expect(deliveredRepeats(wanted, FRAMES, 40_000)).toBeLessThan(
      deliveredRepeats(wanted, FRAMES, 860_000),
    )
    expect(deliveredRepeats({ ...wanted, sequence: ONCE.sequence }, FRAMES, 860_000)).toBe(1)
  })
})

describe('the passes of a clip', () => {
  it('go towards the join of a loop at its end, and at its first frame', () => {
    const { ramp } = passJob(recipe, { kind: 'budget', bytes: 1 }, PROBE)
    expect([0, 1, 120, 227, 239].map((k) => ramp!(k))).toEqual([1, 0, 0, 0, 1])
    expect(ramp!(234)).toBeGreaterThan(0)
    expect(ramp!(234)).toBeLessThan(ramp!(237))
    expect(passJob(ONCE, { kind: 'budget', bytes: 1 }, PROBE).ramp).toBeNull()
  })
})
