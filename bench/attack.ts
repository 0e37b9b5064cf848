import { seedDemo } from '../demo/seedDemo'
import { startTestServer } from '../server/testing/testServer'
import { attack } from '../server/attack/attack'

/*
 * `npm run attack [-- REQUESTS SEED]`: attacks a server of its own on a database of its own. Ends
 * with 1 on any fault.
 */

const [requests = '3000', seed = String(Date.now() % 1_000_000)] = process.argv.slice(2)
process.env['LOG_LEVEL'] ??= 'error'
const server = await startTestServer({ prepare: seedDemo })
const start = performance.now()
const report = await attack({ url: server.url, seed: Number(seed), requests: Number(requests) })
await server.stop()
const seconds = ((performance.now() - start) / 1000).toFixed(1)
console.log(`${report.requests} hostile requests in ${seconds} s, seed ${seed}`)
for (const [status, count] of [...report.statuses].sort(([a], [b]) => a - b))
  console.log(`  ${status === 0 ? 'connection ended' : status}: ${count}`)
for (const failure of report.failures) console.error(failure)
console.log(report.failures.length === 0 ? 'no fault' : `${report.failures.length} faults`)
process.exit(report.failures.length === 0 ? 0 : 1)
