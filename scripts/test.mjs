import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join, relative } from 'node:path'
import { attach, ROOT, say, STATE } from './lib/run.mjs'
import {
  ensureBuild,
  ensureChromium,
  ensureDatabase,
  ensureModules,
  tryEncoders,
  tryFirefox,
  tryHeadlessShell,
} from './lib/setup.mjs'

// The same set-up as `npm start`, then everything that can be checked; the last line counts.
let passed = 0
let failed = 0
/** What has failed, and what has passed at its second attempt only: told again at the end. */
const failures = []
const repeated = []

/** Type check, lint and format: one after another, each counted. */
async function check() {
  for (const [name, ...command] of [
    ['Type check', 'npx', 'tsc', '--noEmit'],
    ['Lint', 'npx', 'eslint', '.', '--max-warnings', '0'],
    ['Format', 'npx', 'prettier', '--check', '.', '--log-level', 'warn'],
  ]) {
    say(`${name} …`)
    if ((await attach(command[0], command.slice(1))) === 0) passed += 1
    else {
      failed += 1
      failures.push(name)
    }
  }
}

/** Runs the tests of some projects (all without any) and counts what they report. */
async function test(name, projects, url, more = []) {
  const report = join(STATE, `test-report-${name}.json`)
  rmSync(report, { force: true })
  const code = await attach(
    'npx',
    [
      'vitest',
      'run',
      '--reporter=default',
      '--reporter=json',
      `--outputFile.json=${report}`,
      ...projects.flatMap((project) => ['--project', project]),
      ...more,
    ],
    { DATABASE_URL: url },
  )
  const counts = JSON.parse(readFileSync(report, 'utf8'))
  passed += counts.numPassedTests
  failed += counts.numFailedTests
  if (counts.numFailedTests === 0 && code !== 0) {
    failed += 1
    failures.push(`${name}: a file or its set-up failed`)
  }
  for (const file of counts.testResults)
    for (const { status, fullName, failureMessages } of file.assertionResults) {
      const reason = failureMessages?.[0]?.split('\n')[0]
      const line = `${relative(ROOT, file.name)}: ${fullName}: ${reason}`
      if (status === 'failed') failures.push(line)
      else if (status === 'passed' && reason) repeated.push(line)
    }
}

/** A long log is read from its end. */
function tell(title, lines) {
  if (lines.length > 0) console.log(`${title}:\n${lines.map((line) => `  ${line}`).join('\n')}`)
}

try {
  ensureModules()
  ensureChromium()
  tryHeadlessShell()
  tryFirefox()
  tryEncoders()
  const url = await ensureDatabase()
  ensureBuild()
  mkdirSync(STATE, { recursive: true })
  const chosen = process.argv.slice(2)
  if (chosen.length > 0) {
    await check()
    await test('chosen', [], url, chosen)
  } else {
    // Many integration tests wait for lost connections: type check and lint run beside them. The
    // browser tests keep two cores busy by themselves, and what is measured in real time comes
    // last, with the machine to itself.
    await Promise.all([check(), test('plain', ['unit', 'integration'], url)])
    await test('browser', ['browser'], url)
    await test('timed', ['timed'], url)
  }
} catch (error) {
  console.error(error.message)
  failed += 1
  failures.push(error.message)
}
tell('Passed at the second attempt', repeated)
tell('Failed', failures)
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed > 0 ? 1 : 0)
