import { afterAll, beforeAll, describe, expect, it } from 'vitest'
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
let client: TestClient
/** What a try does: each test says it. */
let tryOne: TrySlowMachines
beforeAll(async () => {
  server = await startTestServer({ trySlow: (order, signal) => tryOne(order, signal) })
  client = new TestClient(server)
})
afterAll(() => server.stop())

/** Asks for a try, and leaves when the signal says so. */
const ask = (signal: AbortSignal): Promise<unknown> =>
  client
    .fetch(PATH, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(ORDER),
      signal,
    })
    .catch(() => 'dropped')

describe('particles on slowed machines', () => {
  it('are tried with what was asked for', async () => {
    const asked: unknown[] = []
    tryOne = async (order) => {
      asked.push(order)
      return RUNS
    }
    const answer = await client.call('POST', PATH, ORDER)
    expect([answer.status, answer.body]).toEqual([200, RUNS])
    expect(asked).toEqual([ORDER])
  })
  it('are remembered for what costs as much, until it is tried again', async () => {
    const find = (fields: object, frameRate: 30 | 60 = 30) =>
      server.stores.triedParticles.find({
        definition: { ...ORDER.definition, ...fields },
        frameRate,
      })
    tryOne = async () => RUNS
    await client.call('POST', PATH, ORDER)
    expect(await find({ seed: 99 })).toEqual({ width: 800, height: 450, runs: RUNS.runs })
    expect(await find({ most: 3 })).toBeNull()
    expect(await find({}, 60)).toBeNull()
    const slower = { ...RUNS.runs[0]!, milliseconds: 21 }
    // With fewer elements first: only the run with all of them is told.
    tryOne = async () => ({ runs: [{ ...slower, asked: 30, milliseconds: 2 }, slower] })
    await client.call('POST', PATH, { ...ORDER, width: 600 })
    expect(await find({})).toEqual({ width: 600, height: 450, runs: [slower] })
  })
  it('are refused where the order is none', async () => {
    const wrong = await client.call('POST', PATH, { ...ORDER, frameRate: 45 })
    expect([wrong.status, codeOf(wrong)]).toEqual([400, 'request/invalid'])
  })
  it('are tried one after another, and no longer than somebody waits', async () => {
    let ended = 0
    tryOne = (_, signal) =>
      new Promise((_resolve, reject) =>
        signal.addEventListener('abort', () => {
          ended++
          reject(new Error('ended'))
        }),
      )
    const abort = new AbortController()
    const first = ask(abort.signal)
    await expect
      .poll(async () => codeOf(await client.call('POST', PATH, ORDER)), { timeout: 5000 })
      .toBe('particles/busy')
    abort.abort()
    expect(await first).toBe('dropped')
    await expect.poll(() => ended).toBe(1)
    // The next one may begin.
    expect(await ask(AbortSignal.timeout(500))).toBe('dropped')
    await expect.poll(() => ended).toBe(2)
  })
  it('tell of a browser that fails, and let others try', async () => {
    tryOne = () => Promise.reject(new Error('it did not start'))
    const failed = await client.call('POST', PATH, ORDER)
    expect([failed.status, codeOf(failed)]).toEqual([500, 'particles/failed'])
    tryOne = async () => RUNS
    expect((await client.call('POST', PATH, ORDER)).status).toBe(200)
  })
})
