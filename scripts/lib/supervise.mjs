import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { createInterface } from 'node:readline'
import { ROOT, say } from './run.mjs'
import { ensureDatabase } from './setup.mjs'

/**
 * A process says by this code that it cannot run with these settings: starting again would not
 * help.
 */
const EXIT_UNUSABLE = 2
/** So many ends one after another, each soon after its start, and a process is given up. */
const MAX_QUICK_ENDS = 6
const QUICK_MS = 10_000

/** A process that is started again when it ends by itself. */
class Kept {
  #child = null
  #stopping = false

  /** `start` gives the running child; `onEnd` is asked before another one is started. */
  constructor(name, start, onEnd = async () => undefined) {
    this.name = name
    this.start = start
    this.onEnd = onEnd
  }

  /** Resolves to the exit code when it is stopped, or cannot be kept running. */
  async run() {
    for (let quickEnds = 0; ;) {
      const startedAt = Date.now()
      const code = await new Promise((resolve) => {
        this.#child = this.start()
        this.#child.on('exit', (exitCode, signal) =>
          resolve(signal ? `signal ${signal}` : exitCode),
        )
      })
      if (this.#stopping || code === 0) return 0
      if (code === EXIT_UNUSABLE) return EXIT_UNUSABLE
      quickEnds = Date.now() - startedAt < QUICK_MS ? quickEnds + 1 : 0
      if (quickEnds >= MAX_QUICK_ENDS) {
        say(
          `${this.name} ended ${quickEnds} times soon after its start (last: ${code}). What it printed above says why.`,
        )
        return 1
      }
      const waitMs = 250 * 2 ** quickEnds
      say(`${this.name} ended by itself (${code}). Starting it again in ${waitMs} ms …`)
      await new Promise((resolve) => setTimeout(resolve, waitMs))
      if (this.#stopping) return 0
      await this.onEnd()
    }
  }

  stop(signal = 'SIGTERM') {
    this.#stopping = true
    this.#child?.kill(signal)
  }
}

/**
 * Runs the built server, and a render worker beside it; starts each again when it ends by itself.
 * Resolves to the server's exit code when it is to stop. TELON_WORKERS=0: no render worker.
 */
export async function supervise(url) {
  // Made anew each time, and known to these processes only.
  const token = process.env.TELON_WORKER_TOKEN ?? `tln_${randomBytes(32).toString('base64url')}`
  const env = { NODE_ENV: 'production', ...process.env, TELON_WORKER_TOKEN: token }
  const worker = new RenderWorkerBeside(env)
  const server = new Kept(
    'The server',
    () => {
      const child = spawn(process.execPath, ['dist/server/serve.js'], {
        cwd: ROOT,
        stdio: ['inherit', 'pipe', 'inherit'],
        env: { ...env, DATABASE_URL: url },
      })
      createInterface({ input: child.stdout }).on('line', (line) => {
        console.log(line)
        const [, address] = /^Telon is at (https?:\/\/\S+)$/.exec(line) ?? []
        if (address) worker.serve(address)
      })
      return child
    },
    // The database may have ended with it.
    () => ensureDatabase().catch((error) => say(error.message)),
  )
  for (const signal of ['SIGINT', 'SIGTERM']) {
    process.on(signal, () => {
      worker.stop()
      server.stop(signal)
    })
  }
  const code = await server.run()
  await worker.end()
  return code
}

/**
 * Runs a render worker of another machine's server, and starts it again when it ends by itself.
 * Resolves to its exit code when it is to stop, or is refused.
 */
export async function keepRenderWorker(server, token) {
  const env = { ...withoutSecrets(process.env), NODE_ENV: 'production', TELON_SERVER: server }
  const kept = new Kept('The render worker', () =>
    spawnWorker({ ...env, TELON_WORKER_TOKEN: token }),
  )
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => kept.stop(signal))
  return kept.run()
}

const spawnWorker = (env) =>
  spawn(process.execPath, ['dist/server/renderWorker.js'], { cwd: ROOT, stdio: 'inherit', env })

/** The render worker of a server, which may come back under another address. */
class RenderWorkerBeside {
  #env
  #address = null
  #kept = null
  #ended = Promise.resolve()

  constructor(env) {
    this.#env = env
  }

  serve(address) {
    if (this.#env.TELON_WORKERS === '0' || address === this.#address) return
    this.stop()
    this.#address = address
    this.#kept = new Kept('The render worker', () =>
      spawnWorker({ ...withoutSecrets(this.#env), ...reachable(address) }),
    )
    this.#ended = Promise.all([this.#ended, this.#kept.run()])
  }

  stop() {
    this.#kept?.stop()
  }

  async end() {
    this.stop()
    await this.#ended
  }
}

/** A render worker talks to the server only. */
function withoutSecrets({ DATABASE_URL: _url, TELON_PASSWORD: _password, ...env }) {
  return env
}

/** The server's address as a process of the same machine reaches it. */
function reachable(address) {
  const url = new URL(address)
  if (url.hostname === '0.0.0.0' || url.hostname === '[::]') url.hostname = '127.0.0.1'
  return {
    TELON_SERVER: url.href,
    // The certificate is for the name that visitors use; nothing leaves this machine.
    ...(url.protocol === 'https:'
      ? { NODE_TLS_REJECT_UNAUTHORIZED: '0', NODE_NO_WARNINGS: '1' }
      : {}),
  }
}
