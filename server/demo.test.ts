import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { seedDemo } from '../demo/seedDemo'
import { TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

let server: TestServer
beforeEach(async () => {
  server = await startTestServer()
})
afterEach(() => server.stop())

const names = async (): Promise<string[]> =>
  (await new TestClient(server).call<{ name: string }[]>('GET', '/api/projects')).body.map(
    ({ name }) => name,
  )

describe('the demonstration', () => {
  it('is there once where two servers start on an empty database at the same time', async () => {
    const { database, stores } = server
    const seeded = await Promise.all([seedDemo(database, stores), seedDemo(database, stores)])
    expect(seeded.sort()).toEqual([false, true])
    expect(await names()).toEqual(['Vesperline'])
  })
  it('whose making was broken off is made anew, whole', async () => {
    const { database, stores } = server
    const breaking = {
      ...stores,
      shelf: { ...stores.shelf, createSet: () => Promise.reject(new Error('killed')) },
    }
    Object.setPrototypeOf(breaking.shelf, stores.shelf)
    await expect(seedDemo(database, breaking as unknown as typeof stores)).rejects.toThrow('killed')
    expect(await names()).toEqual(['Vesperline'])
    expect(await database.models.ImageSet.count()).toBe(0)
    expect(await seedDemo(database, stores)).toBe(true)
    expect(await names()).toEqual(['Vesperline'])
    expect(await database.models.ImageSet.count()).toBeGreaterThan(0)
  })
  it('that was deleted does not come back', async () => {
    const { database, stores } = server
    await seedDemo(database, stores)
    const project = await database.models.Project.findOne()
    await stores.projects.delete(project!.id)
    expect(await seedDemo(database, stores)).toBe(false)
    expect(await names()).toEqual([])
  })
})
