import { describe, expect, it } from 'vitest'
import { exercise, fuzz, mutate, type FuzzMeter } from '../testing/fuzz'
import { fuzzSamples } from '../testing/fuzzSamples'
import { seededNumbers } from '../testing/samples'

/* The short form of `npm run fuzz`: 100,000 mutants in all. */

const MUTANTS = 100_000
const SEED = 20_261_123
// Far above what any takes: a parser that hangs is found, a busy machine is not.
const LIMIT_MS = 1000
const LIMIT_BYTES = 64 * 1024 * 1024
const meter: FuzzMeter = {
  nowMs: () => performance.now(),
  heldBytes: () => {
    const { heapUsed, arrayBuffers } = process.memoryUsage()
    return heapUsed + arrayBuffers
  },
}
const samples = fuzzSamples()

describe('damaged and hostile files', () => {
  it.each(samples.map((sample) => sample.name))('are read when whole: %s', async (name) => {
    expect(await exercise(samples.find((sample) => sample.name === name)!.bytes)).toMatch(
      /^(image|clip)/,
    )
  })

  it.each(samples.map((sample, index) => [sample.name, index] as const))(
    'end in a value or a coded error, quickly and in little memory: mutants of %s',
    async (_, index) => {
      const count = Math.ceil(MUTANTS / samples.length)
      const report = await fuzz(samples[index]!, SEED + index, count, LIMIT_MS, LIMIT_BYTES, meter)
      expect(report.mutants).toBe(count)
      // Mutants that all ended alike never reached the parser's depths.
      expect(
        Object.keys(report.outcomes).length,
        JSON.stringify(report.outcomes),
      ).toBeGreaterThanOrEqual(samples[index]!.name === 'SVG' ? 2 : 4)
    },
    300_000,
  )

  it('are the same each time for the same seed', () => {
    const [one, other] = [
      mutate(samples[0]!.bytes, seededNumbers(5)),
      mutate(samples[0]!.bytes, seededNumbers(5)),
    ]
    expect(one).toEqual(other)
    expect(one).not.toEqual(samples[0]!.bytes)
  })
})
