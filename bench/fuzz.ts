import { readFileSync } from 'node:fs'
import { fuzz, type FuzzMeter, type FuzzSample } from '../core/testing/fuzz'
import { fuzzSamples } from '../core/testing/fuzzSamples'
import { SCENARIO } from '../demo/scenario'

/*
 * `npm run fuzz [-- MUTANTS [SEED]]`: damages every sample and the demonstration's files, and
 * reports how each mutant ended.
 */

const total = Number(process.argv[2] ?? 1_000_000)
const seed = Number(process.argv[3] ?? 1)
if (!Number.isInteger(total) || total < 1 || !Number.isInteger(seed)) {
  process.stderr.write('npm run fuzz -- MUTANTS SEED: two whole numbers\n')
  process.exit(2)
}
const meter: FuzzMeter = {
  nowMs: () => performance.now(),
  heldBytes: () => {
    const { heapUsed, arrayBuffers } = process.memoryUsage()
    return heapUsed + arrayBuffers
  },
}
const drawn = [...SCENARIO.clips, ...SCENARIO.pictures].map((name): FuzzSample => ({
  name,
  bytes: new Uint8Array(readFileSync(new URL(`../demo/files/${name}`, import.meta.url))),
}))
// Real files are a thousand times larger and are copied for each mutant: they get a twentieth of
// the rounds.
const small = fuzzSamples()
const share = (sample: FuzzSample): number =>
  Math.max(1, Math.round(total / small.length / (drawn.includes(sample) ? 20 : 1)))
/**
 * Milliseconds a mutant may take: real files hold a hundred thousand samples, small ones dozens.
 */
const limitOf = (sample: FuzzSample): number => (drawn.includes(sample) ? 500 : 50)
let mutants = 0
for (const sample of [...small, ...drawn]) {
  const report = await fuzz(sample, seed, share(sample), limitOf(sample), 64 * 1024 * 1024, meter)
  mutants += report.mutants
  const outcomes = Object.entries(report.outcomes)
    .sort((a, b) => b[1] - a[1])
    .map(([name, count]) => `${name} ${count}`)
    .join(', ')
  console.log(
    `${report.name}: ${report.mutants} mutants, slowest ${report.slowestMs.toFixed(1)} ms, most ${report.maxMegabytes.toFixed(1)} MB; ${outcomes}`,
  )
}
console.log(`${mutants} mutants, seed ${seed}: every one ended in a value or a coded error`)
