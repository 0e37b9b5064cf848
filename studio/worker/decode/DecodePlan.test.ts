import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DecodePlan, type Starts } from './DecodePlan'

interface Clip {
  readonly count: number
  readonly keys: readonly number[]
  /** Key frames that need the clip's beginning. */
  readonly dependent: ReadonlySet<number>
  readonly damaged: ReadonlySet<number>
  /** How many samples late the decoder reports a failure. */
  readonly lag: number
}

const clip = (change: Partial<Clip> = {}): Clip => ({
  count: 60,
  keys: [0, 20, 40],
  dependent: new Set(),
  damaged: new Set(),
  lag: 0,
  ...change,
})

const startsOf = ({ keys }: Clip): Starts => ({
  first: keys[0]!,
  before: async (sample) => [...keys].reverse().find((key) => key <= sample) ?? keys[0]!,
  after: async (sample) => keys.find((key) => key > sample) ?? null,
})

/** Decodes as a plan says, with a decoder that fails as the clip is made. */
async function decoded(of: Clip, first = 0, last = of.count - 1) {
  const plan = await DecodePlan.start(startsOf(of), first, last)
  const out = new Set<number>()
  let runs = 0
  while (plan.current) {
    if (++runs > 10 * of.keys.length + 20) throw new Error('the plan does not end')
    const { from, until } = plan.current
    const end = Math.min(of.count, until, last + 1)
    const bad = of.dependent.has(from)
      ? from
      : Array.from({ length: Math.max(0, end - from) }, (_, at) => from + at).find((sample) =>
          of.damaged.has(sample),
        )
    // What the decoder still holds when it fails is lost: as much as it reports late.
    const given = bad === undefined ? end : Math.max(from, bad - of.lag)
    for (let sample = from; sample < given; sample++) out.add(sample)
    if (bad === undefined) await plan.succeeded()
    else await plan.failed(Math.min(end - 1, bad + of.lag), given > from)
  }
  return { out: [...out].sort((a, b) => a - b), runs }
}
const range = (from: number, end: number): number[] =>
  Array.from({ length: end - from }, (_, at) => from + at)

describe('a plan for a decoder', () => {
  it('decodes a sound clip in one run, from the key frame before', async () => {
    expect(await decoded(clip(), 25, 50)).toEqual({ out: range(20, 51), runs: 1 })
  })
  it('starts earlier where a key frame does not decode alone', async () => {
    expect(await decoded(clip({ dependent: new Set([40]) }), 45, 59)).toEqual({
      out: range(20, 60),
      runs: 2,
    })
    const all = clip({ keys: [0, 10, 20, 30, 40, 50], dependent: new Set([10, 20, 30, 40, 50]) })
    expect((await decoded(all, 55, 59)).out).toEqual(range(0, 60))
  })
  it.each([0, 1, 3])('keeps what lies around damage, reported %i samples late', async (lag) => {
    const { out } = await decoded(clip({ damaged: new Set([30]), lag }))
    expect(out).toEqual([...range(0, 30), ...range(40, 60)])
  })
  it('continues behind key frames that are damaged, one after another', async () => {
    const { out } = await decoded(clip({ keys: [0, 10, 20, 30], damaged: new Set([10, 20]) }))
    expect(out).toEqual([...range(0, 10), ...range(30, 60)])
  })
  it('gives nothing of a clip whose every sample is damaged', async () => {
    expect((await decoded(clip({ damaged: new Set(range(0, 60)) }))).out).toEqual([])
  })
  it('ends for any clip, and decodes every group that is sound (seed 41)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.integer({ min: 1, max: 59 }), { maxLength: 12 }),
        fc.uniqueArray(fc.integer({ min: 0, max: 59 }), { maxLength: 20 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 59 }), { maxLength: 12 }),
        fc.integer({ min: 0, max: 3 }),
        async (later, damaged, dependent, lag) => {
          const keys = [0, ...later.sort((a, b) => a - b)]
          const of = clip({ keys, damaged: new Set(damaged), dependent: new Set(dependent), lag })
          const { out } = await decoded(of)
          keys.forEach((key, at) => {
            const group = range(key, keys[at + 1] ?? 60)
            const isSound = group.every((sample) => !of.damaged.has(sample))
            // With one group's damage behind it a failure is reported in this one: then it is lost.
            const isNear = lag > 0 && range(key - lag, key).some((sample) => of.damaged.has(sample))
            if (isSound && !isNear && !of.dependent.has(key))
              expect(out).toEqual(expect.arrayContaining(group))
          })
        },
      ),
      { seed: 41, numRuns: 500 },
    )
  })
})
