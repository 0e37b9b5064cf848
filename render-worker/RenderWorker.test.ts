import { describe, expect, it, vi } from 'vitest'
import type { FailedWork, TakenJob, WorkProgress } from '../core/api/work'
import { clipRecipes, probeOf, type ProbeRecipe } from '../core/backdrop/recipe'
import { inventBackdrop, knownAs } from '../core/testing/samples'
import { EncoderKilled } from '../encoders/runEncoder'
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

  constructor(restMs = 1) {
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
      goodbye: async () => this.told.push('goodbye'),
      store: async () => this.storing(),
    }
    this.worker = new RenderWorker({
      link: link as unknown as ServerLink,
      sources: { filesOf: async () => ({}) } as never,
      encoders: { programs: [], pictures: null },
      facts: FACTS,
      restMs,
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
    return this.told.find(isFailure)
  }
}
const isFailure = (told: WorkProgress | FailedWork | string): told is FailedWork =>
  typeof told === 'object' && 'again' in told

describe('a render worker', () => {
  it('stores a file before it says that it is done', async () => {
    const played = new Played()
    await played.until(() => played.told.includes('finished'))
    const words = played.told.filter((each) => typeof each === 'string')
    expect(words).toEqual(['stored', 'finished', 'goodbye'])
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
    // Another worker may have room; where it comes back here, it fails.
    played.jobs.push(played.jobs[0]!)
    const failures = () => played.told.filter(isFailure)
    await played.until(() => failures().length === 2)
    const reason = expect.stringContaining('TMPDIR')
    expect(failures()).toMatchObject([
      { reason, again: true },
      { reason, again: false },
    ])
  })

  it('takes nothing for a while where its disk is full, and can be stopped then', async () => {
    const played = new Played(60_000)
    played.probe = async () => {
      throw Object.assign(new Error('ENOSPC: no space left on device'), { code: 'ENOSPC' })
    }
    played.jobs.push(played.jobs[0]!)
    await played.until(() => played.failure !== undefined)
    expect(played.jobs).toHaveLength(1)
  })

  it('gives its job back where the server was away for long: the file can be made', async () => {
    const played = new Played()
    played.storing = async () => {
      throw new TypeError('fetch failed')
    }
    await played.until(() => played.failure !== undefined)
    expect(played.failure).toMatchObject({ again: true })
  })

  it('starts another browser once, then leaves the job to others, and fails in the end', async () => {
    const played = new Played()
    played.probe = async (state) => {
      state.isRunning = false
      throw new Error('The browser has ended.')
    }
    played.jobs.push(played.jobs[0]!)
    const failures = () => played.told.filter(isFailure)
    await played.until(() => failures().length === 2)
    expect(played.browsers).toBe(4)
    const reason = 'The browser ended 2 times.'
    expect(failures()).toMatchObject([
      { reason, again: true },
      { reason, again: false },
    ])
  })

  it('leaves a job to others once where its encoder was killed', async () => {
    const played = new Played()
    played.probe = async () => {
      throw new EncoderKilled('x264 was killed.')
    }
    played.jobs.push(played.jobs[0]!)
    const failures = () => played.told.filter(isFailure)
    await played.until(() => failures().length === 2)
    expect(failures().map(({ again }) => again)).toEqual([true, false])
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
    expect(played.told.filter((each) => typeof each === 'string')).toEqual(['goodbye'])
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

  it.each([
    ['ECONNREFUSED', /does not answer \(ECONNREFUSED\)/],
    ['DEPTH_ZERO_SELF_SIGNED_CERT', /certificate is not trusted.*NODE_EXTRA_CA_CERTS/],
    ['UNABLE_TO_VERIFY_LEAF_SIGNATURE', /certificate is not trusted/],
  ])('says what is wrong with the way to the server: %s', async (code, words) => {
    const played = new Played()
    const cause = Object.assign(new Error('no'), { code })
    played.hellos = [new TypeError('fetch failed', { cause })]
    const run = played.worker.run()
    await vi.waitFor(() => expect(played.lines[0]).toMatch(words))
    played.worker.stop()
    await run
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
