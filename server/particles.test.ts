import { afterEach, describe, expect, it } from 'vitest'
import type { SlowRuns, TrySlowMachines } from '../core/api/slowMachines'
import { STYLES } from '../core/particles/styles'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

const PATH = '/api/particles/slow-machines'
const ORDER = { definition: STYLES[0]!.definition, width: 800, height: 450, frameRate: 30 }
const RUNS: SlowRuns = {
  runs: [{ factor: 4, asked: 90, drawn: 90, milliseconds: 7.5, framesPerSecond: 30 }],
}

let server: TestServer
const begin = async (trySlow?: TrySlowMachines): Promise<TestClient> => {
  server = await startTestServer(trySlow ? { trySlow } : {})
  return new TestClient(server)
}
afterEach(() => server.stop())

describe('particles on slowed machines', () => {
  it('are tried with what was asked for', async () => {
    const asked: unknown[] = []
    const client = await begin(async (order) => {
      asked.push(order)
      return RUNS
    })
    const answer = await client.call('POST', PATH, ORDER)
    expect([answer.status, answer.body]).toEqual([200, RUNS])
    expect(asked).toEqual([ORDER])
  })
  it('are refused where the definition is none, and where there is no browser', async () => {
    const client = await begin()
    const wrong = await client.call('POST', PATH, { ...ORDER, frameRate: 45 })
    expect([wrong.status, codeOf(wrong)]).toEqual([400, 'request/invalid'])
    const none = await client.call('POST', PATH, ORDER)
    expect([none.status, codeOf(none)]).toEqual([501, 'particles/no-browser'])
  })
  it('are tried one after another, and no longer than somebody waits', async () => {
    let ended = 0
    const client = await begin(
      (_, signal) =>
        new Promise((_resolve, reject) =>
          signal.addEventListener('abort', () => {
            ended++
            reject(new Error('ended'))
          }),
        ),
    )
    const abort = new AbortController()
    const first = fetch(new URL(PATH, server.url), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: server.url },
      body: JSON.stringify(ORDER),
      signal: abort.signal,
    }).catch(() => 'dropped')
    await expect
      .poll(async () => codeOf(await client.call('POST', PATH, ORDER, {})), { timeout: 5000 })
      .toBe('particles/busy')
    abort.abort()
    expect(await first).toBe('dropped')
    await expect.poll(() => ended).toBe(1)
    // The next one may begin.
    const next = fetch(new URL(PATH, server.url), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: server.url },
      body: JSON.stringify(ORDER),
      signal: AbortSignal.timeout(500),
    }).catch(() => 'dropped')
    await next
    await expect.poll(() => ended).toBe(2)
  })
  it('tell of a browser that fails, and let others try', async () => {
    let tries = 0
    const client = await begin(async () => {
      tries++
      if (tries === 1) throw new Error('it did not start')
      return RUNS
    })
    expect(codeOf(await client.call('POST', PATH, ORDER))).toBe('particles/no-browser')
    expect((await client.call('POST', PATH, ORDER)).status).toBe(200)
  })
})
