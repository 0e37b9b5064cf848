import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { request as requestHttp } from 'node:http'
import { request as requestHttps } from 'node:https'
import { createInterface } from 'node:readline'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { inProject } from '../node/projectRoot'
import { TestClient } from './testing/TestClient'
import { makeDatabase } from './testing/testServer'

/* The built server in processes of its own, as `npm start` runs it. */

let database: Awaited<ReturnType<typeof makeDatabase>>
beforeAll(async () => {
  database = await makeDatabase()
})
afterAll(() => database.drop())

interface Run {
  readonly child: ChildProcess
  readonly output: string[]
  /** The next address that is printed. */
  address(): Promise<string>
  /** The exit code, once it has ended. */
  readonly ended: Promise<number | null>
}

const runs: Run[] = []
function run(args: readonly string[], env: Record<string, string> = {}): Run {
  const child = spawn(process.execPath, args, {
    cwd: inProject('.'),
    env: { ...process.env, PORT: '0', DATABASE_URL: database.url, ...env },
  })
  const output: string[] = []
  const addresses: string[] = []
  let wake = (): void => undefined
  for (const stream of [child.stdout, child.stderr]) {
    createInterface({ input: stream! }).on('line', (line) => {
      output.push(line)
      const found = /https?:\/\/\S+/.exec(line)
      if (found && line.startsWith('Telon is at')) addresses.push(found[0])
      wake()
    })
  }
  const ended = once(child, 'exit').then(([code]) => {
    wake()
    return code as number | null
  })
  const started: Run = {
    child,
    output,
    ended,
    async address() {
      while (addresses.length === 0) {
        if (child.exitCode !== null) throw new Error(`it ended: ${output.join('\n')}`)
        await new Promise<void>((resolve) => (wake = resolve))
      }
      return addresses.shift()!
    },
  }
  runs.push(started)
  return started
}
afterEach(async () => {
  for (const { child, ended } of runs.splice(0)) {
    child.kill('SIGTERM')
    await ended
  }
})

const SERVER = 'dist/server/serve.js'
/** What `npm start` does once everything is installed and built. */
const SUPERVISOR = [
  '--input-type=module',
  '--eval',
  `import { supervise } from './scripts/lib/supervise.mjs'; process.exit(await supervise(process.env.DATABASE_URL))`,
]
const healthOf = async (url: string): Promise<number> => (await fetch(`${url}/api/health`)).status

describe('npm start', () => {
  it('starts the server again after a crash, and stops it when it is told to', async () => {
    const supervisor = run(SUPERVISOR)
    expect(await healthOf(await supervisor.address())).toBe(200)
    const pids = execFileSync('pgrep', ['-P', String(supervisor.child.pid), '-f', SERVER])
      .toString()
      .trim()
      .split('\n')
    expect(pids).toHaveLength(1)
    process.kill(Number(pids[0]), 'SIGKILL')
    expect(await healthOf(await supervisor.address())).toBe(200)
    supervisor.child.kill('SIGTERM')
    expect(await supervisor.ended).toBe(0)
  })
})

describe('the built server', () => {
  it('lets a request that is under way end before it stops', async () => {
    const server = run([SERVER])
    const url = await server.address()
    const body = JSON.stringify({ name: 'Sent slowly' })
    const sent = requestHttp(`${url}/api/projects`, {
      method: 'POST',
      headers: { Origin: url, 'Content-Type': 'application/json', 'Content-Length': body.length },
    })
    const answered = once(sent, 'response') as Promise<[{ statusCode: number; resume: () => void }]>
    answered.catch(() => undefined)
    sent.write(body.slice(0, 5))
    await new Promise((resolve) => setTimeout(resolve, 300))
    // What came later is answered, so it has come.
    await healthOf(url)
    server.child.kill('SIGTERM')
    const takesMore = () => healthOf(url).then(Boolean, () => false)
    await expect.poll(takesMore, { timeout: 10_000 }).toBe(false)
    sent.end(body.slice(5))
    const [answer] = await answered
    answer.resume()
    expect(answer.statusCode).toBe(200)
    expect(await server.ended).toBe(0)
  })

  it('serves https with a certificate and its key', async () => {
    const server = run([SERVER], {
      TELON_TLS_CERT: 'server/testing/localhost.cert.pem',
      TELON_TLS_KEY: 'server/testing/localhost.key.pem',
      TELON_PASSWORD: 'a long password',
    })
    const url = await server.address()
    expect(url).toMatch(/^https:/)
    const sent = requestHttps(`${url}/api/session`, {
      method: 'POST',
      rejectUnauthorized: false,
      headers: { Origin: url, 'Content-Type': 'application/json' },
    })
    const answered = once(sent, 'response')
    sent.end(JSON.stringify({ password: 'a long password' }))
    const [answer] = (await answered) as [
      { statusCode: number; headers: Record<string, string[]>; resume: () => void },
    ]
    answer.resume()
    expect(answer.statusCode).toBeLessThan(300)
    expect(answer.headers['set-cookie']![0]).toMatch(/; ?secure/i)
  })

  it.each([
    ['HOST', { HOST: '0.0.0.0' }, /Set TELON_PASSWORD/],
    [
      'the certificate',
      { TELON_TLS_CERT: '/none.pem', TELON_TLS_KEY: '/none.pem' },
      /TELON_TLS_CERT.*none\.pem/,
    ],
    ['PORT', { PORT: 'many' }, /PORT/],
  ])('says what is wrong with %s and is not started again', async (_name, env, told) => {
    const supervisor = run(SUPERVISOR, env as Record<string, string>)
    expect(await supervisor.ended).toBe(2)
    expect(supervisor.output.join('\n')).toMatch(told)
    expect(supervisor.output.join('\n')).not.toMatch(/ at .*:\d+:\d+/)
  })

  it('tells its version, by which an older tab knows that it is old', async () => {
    const url = await run([SERVER]).address()
    const answer = await new TestClient({ url }).fetch('/api/health')
    expect(answer.headers.get('telon-version')).toMatch(/^\S+$/)
  })
})
