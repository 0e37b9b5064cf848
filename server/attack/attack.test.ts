import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { seedDemo } from '../../demo/seedDemo'
import { startTestServer, type TestServer } from '../testing/testServer'
import { attack } from './attack'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer({ prepare: seedDemo })
})
afterAll(() => server.stop())

describe('hostile requests', () => {
  it('are answered, never by a fault, a stack or SQL', async () => {
    const { requests, statuses, failures } = await attack({
      url: server.url,
      seed: 20_261_127,
      requests: 600,
    })
    expect(failures).toEqual([])
    expect(requests).toBe(600)
    // The attack reaches handlers: some requests are taken, most are refused for different reasons.
    expect([...statuses.keys()]).toEqual(expect.arrayContaining([200, 400, 404, 415]))
  })
  it('are sent to this machine only', async () => {
    await expect(attack({ url: 'http://telon.example', seed: 1, requests: 1 })).rejects.toThrow(
      'Only a server on this machine',
    )
  })
})
