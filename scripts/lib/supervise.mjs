import { spawn } from 'node:child_process'
import { ROOT, say } from './run.mjs'
import { ensureDatabase } from './setup.mjs'

/**
 * The server says by this code that it cannot start with these settings: starting again would not
 * help.
 */
const EXIT_UNUSABLE = 2
/** So many ends one after another, each soon after its start, and Telon gives up. */
const MAX_QUICK_ENDS = 6
const QUICK_MS = 10_000

/**
 * Runs the built server and starts it again when it ends by itself; resolves to the exit code when
 * it is to stop.
 */
export async function supervise(url) {
  let child = null
  let stopping = false
  for (const signal of ['SIGINT', 'SIGTERM']) {
    process.on(signal, () => {
      stopping = true
      child?.kill(signal)
    })
  }
  for (let quickEnds = 0; ;) {
    const start = Date.now()
    const code = await new Promise((resolve) => {
      child = spawn(process.execPath, ['dist/server/serve.js'], {
        cwd: ROOT,
        stdio: 'inherit',
        env: { NODE_ENV: 'production', ...process.env, DATABASE_URL: url },
      })
      child.on('exit', (exitCode, signal) => resolve(signal ? `signal ${signal}` : exitCode))
    })
    if (stopping || code === 0) return 0
    if (code === EXIT_UNUSABLE) return EXIT_UNUSABLE
    quickEnds = Date.now() - start < QUICK_MS ? quickEnds + 1 : 0
    if (quickEnds >= MAX_QUICK_ENDS) {
      say(
        `The server ended ${quickEnds} times soon after its start (last: ${code}). What it printed above says why.`,
      )
      return 1
    }
    const waitMs = 250 * 2 ** quickEnds
    say(`The server ended by itself (${code}). Starting it again in ${waitMs} ms …`)
    await new Promise((resolve) => setTimeout(resolve, waitMs))
    if (stopping) return 0
    // The database may have ended with it.
    await ensureDatabase().catch((error) => say(error.message))
  }
}
