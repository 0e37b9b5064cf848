import { describe, expect, it, vi } from 'vitest'
import type { FailedWork, TakenJob, WorkProgress } from '../core/api/work'
import { clipRecipes, probeOf, type ProbeRecipe } from '../core/backdrop/recipe'
import { inventBackdrop, knownAs } from '../core/testing/samples'
import type { RenderBrowser } from '../headless/RenderBrowser'
import { RenderWorker } from './RenderWorker'
import { Refusal } from '../node/ServerRequests'
import type { ServerLink } from './ServerLink'

/* A worker with a server and a browser that are played by hand. */

const known = knownAs({ sha256: 'a'.repeat(64), width: 1280, height: 720 })
const RECIPE: ProbeRecipe = probeOf(clipRecipes(inventBackdrop(), known)[0]!.recipe)
const FACTS = {
  id: '7b1f8c1e-0000-4000-8000-000000000001',
  ...{
    name: 'studio-2',
    version: '19.abc',
    encoders: [],
    machine: '2 processors, 2.5 GHz',
    speeds: [],
  },
}
const PROBE = { kind: 'probe', points: [] }

/** A server that gives one job, and notes what it is told. */
class Played {
  readonly told: (WorkProgress | FailedWork | string)[] = []
  readonly lines: string[] = []
  jobs: TakenJob[] = [{ jobId: '7b1f8c1e-0000-4000-8000-000000000002', recipe: RECIPE }]
  hellos: (Error | null)[] = []
  goesOn = true
  browsers = 0
  /** What the browser does of a job. */
  probe: (signal: { isRunning: boolean }) => Promise<unknown> = async () => PROBE
  starting: (signal: AbortSignal) => Promise<unknown> = async () => undefined
  storing: () => Promise<unknown> = async () => this.told.push('stored')
  readonly worker: RenderWorker

  constructor() {
    const link: Partial<Record<keyof ServerLink, unknown>> = {
      hello: async () => {
        const refusal = this.hellos.shift()
        if (refusal) throw refusal
      },
      take: async (_: string, signal: AbortSignal) =>
        this.jobs.shift() ??
        new Promise((resolve) => signal.addEventListener('abort', () => resolve(null))),
      progress: async (progress: WorkProgress) => {
        this.told.push(progress)
        return this.goesOn
      },
      finished: async () => this.told.push('finished'),
      failed: async (failed: FailedWork) => this.told.push(failed),
      store: async () => this.storing(),
    }
    this.worker = new RenderWorker({
      link: link as unknown as ServerLink,
      sources: { filesOf: async () => ({}) } as never,
      encoders: { programs: [], pictures: null },
      facts: FACTS,
      say: (line) => this.lines.push(line),
      startBrowser: async (signal) => {
        this.browsers += 1
        await this.starting(signal)
        const state = { isRunning: true }
        return {
          get isRunning() {
            return state.isRunning
          },
          probe: () => this.probe(state),
          stop: async () => void (state.isRunning = false),
        } as unknown as RenderBrowser
      },
    })
  }

  /** Runs it until something is true of what was told. */
  async until(isThere: () => boolean): Promise<void> {
    const run = this.worker.run()
    await vi.waitFor(() => expect(isThere()).toBe(true), 5000)
    this.worker.stop()
    await run
  }

  get failure(): FailedWork | undefined {
    return this.told.find((each): each is FailedWork => typeof each === 'object' && 'again' in each)
  }
}

describe('a render worker', () => {
  it('stores a file before it says that it is done', async () => {
    const played = new Played()
    await played.until(() => played.told.includes('finished'))
    const words = played.told.filter((each) => typeof each === 'string')
    expect(words).toEqual(['stored', 'finished'])
    expect(played.told[0]).toMatchObject({ step: 'sources', workerId: FACTS.id })
  })

  it('says why a file cannot be made, and goes on', async () => {
    const played = new Played()
    played.probe = async () => {
      throw new Error('It cannot be decoded.')
    }
    played.jobs.push(played.jobs[0]!)
    await played.until(() => played.jobs.length === 0 && played.told.length > 4)
    expect(played.failure).toMatchObject({ reason: 'It cannot be decoded.', again: false })
  })

  it('says what helps where the disk is full', async () => {
    const played = new Played()
    played.probe = async () => {
      throw Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' })
    }
    await played.until(() => played.failure !== undefined)
    expect(played.failure).toMatchObject({
      reason: expect.stringContaining('TMPDIR'),
      again: false,
    })
  })

  it('gives its job back where the server was away for long: the file can be made', async () => {
    const played = new Played()
    played.storing = async () => {
      throw new TypeError('fetch failed')
    }
    await played.until(() => played.failure !== undefined)
    expect(played.failure).toMatchObject({ again: true })
  })

  it('starts another browser once where its own has ended, and then gives up', async () => {
    const played = new Played()
    played.probe = async (state) => {
      state.isRunning = false
      throw new Error('The browser has ended.')
    }
    await played.until(() => played.failure !== undefined)
    expect([played.browsers, played.failure?.reason]).toEqual([2, 'The browser has ended.'])
  })

  it('starts another browser where one ends before it is there', async () => {
    const played = new Played()
    played.starting = async () => {
      if (played.browsers === 1) throw new Error('It has ended.')
    }
    await played.until(() => played.told.includes('finished'))
    expect(played.browsers).toBe(2)
  })

  it('gives its job back when it is stopped while its browser starts', async () => {
    const played = new Played()
    played.starting = (signal) =>
      new Promise((_, reject) => signal.addEventListener('abort', () => reject(signal.reason)))
    await played.until(() => played.browsers === 1)
    expect([played.browsers, played.failure?.again]).toEqual([1, true])
  })

  it('gives its job back when it is stopped', async () => {
    const played = new Played()
    let isAtIt = false
    played.probe = () => {
      isAtIt = true
      return new Promise((_, reject) => setTimeout(() => reject(new Error('ended')), 300))
    }
    await played.until(() => isAtIt)
    expect(played.failure).toMatchObject({ again: true })
  })

  it('stops a job that is no longer its own, and says nothing of it', async () => {
    const played = new Played()
    played.goesOn = false
    await played.until(() => played.lines.some((line) => line.includes('no longer wanted')))
    expect(played.told.filter((each) => typeof each === 'string')).toEqual([])
    expect(played.failure).toBeUndefined()
  })

  it('says hello until the server answers, and says so once', async () => {
    const played = new Played()
    played.hellos = [new Error('nothing answers'), null]
    await played.until(() => played.told.includes('finished'))
    expect(played.lines.slice(0, 2)).toEqual([
      'The server does not answer. It is asked again until it does.',
      expect.stringContaining('Ready for jobs'),
    ])
  })

  it.each(['work/version', 'access/token'])(
    'ends where the server does not want it: %s',
    async (code) => {
      const played = new Played()
      played.hellos = [new Refusal(code, 'Update it.')]
      await expect(played.worker.run()).rejects.toThrow('Update it.')
    },
  )
})
