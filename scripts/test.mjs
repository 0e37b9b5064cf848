import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { attach, say, STATE } from './lib/run.mjs'
import {
  ensureBuild,
  ensureChromium,
  ensureDatabase,
  ensureModules,
  tryHeadlessShell,
} from './lib/setup.mjs'

// The same set-up as `npm start`, then everything that can be checked; the last line counts.
let passed = 0
let failed = 0
try {
  ensureModules()
  ensureChromium()
  tryHeadlessShell()
  const url = await ensureDatabase()
  ensureBuild()
  for (const [name, ...command] of [
    ['Type check', 'npx', 'tsc', '--noEmit'],
    ['Lint', 'npx', 'eslint', '.', '--max-warnings', '0'],
    ['Format', 'npx', 'prettier', '--check', '.', '--log-level', 'warn'],
  ]) {
    say(`${name} …`)
    if ((await attach(command[0], command.slice(1))) === 0) passed += 1
    else failed += 1
  }
  mkdirSync(STATE, { recursive: true })
  const report = join(STATE, 'test-report.json')
  rmSync(report, { force: true })
  const code = await attach(
    'npx',
    [
      'vitest',
      'run',
      '--reporter=default',
      '--reporter=json',
      `--outputFile.json=${report}`,
      ...process.argv.slice(2),
    ],
    { DATABASE_URL: url },
  )
  const counts = JSON.parse(readFileSync(report, 'utf8'))
  passed += counts.numPassedTests
  failed += counts.numFailedTests + (counts.numFailedTests === 0 && code !== 0 ? 1 : 0)
} catch (error) {
  console.error(error.message)
  failed += 1
}
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed > 0 ? 1 : 0)
