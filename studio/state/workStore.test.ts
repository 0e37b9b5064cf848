import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { StoreApi } from 'zustand/vanilla'
import type { AnyRecipe } from '../../core/api/recipes'
import type { Rendition, RenditionFacts } from '../../core/api/wire'
import {
  proofKey as keyOfProof,
  proofRecipe,
  recipeKey,
  type ClipRecipe,
  type PosterRecipe,
  type ProbeRecipe,
  type Recipe,
} from '../../core/backdrop/recipe'
import {
  inventBackdrop,
  inventRendition,
  SAMPLE_CLIP,
  reduced as reduce,
} from '../../core/testing/samples'
import type { ProbeFacts } from '../../core/weight/ProbeFacts'
import { RequestError } from '../api/client'
import type { Order } from '../worker/messages'
import { WorkError } from '../worker/WorkError'
import { effortOf } from './effort'
import { finalRecipes, missingWork } from './finalFiles'
import { loadedSources } from './loadedSources'
import { FakeLocks } from './testing/FakeLocks'
import { FakeQueue } from './testing/FakeQueue'
import { WorkerJobs } from './WorkerJobs'
import { createWorkStore, isKnown, isUnsure, type WorkState } from './workStore'

const SOURCES = loadedSources([SAMPLE_CLIP])
const DOCUMENT = inventBackdrop()
const PROBE: ProbeFacts = {
  kind: 'probe',
  steering: 'quantizer',
  bounds: { finest: 0, coarsest: 255 },
  anchorEvery: null,
  parts: [],
  frames: 48,
  seconds: 2,
  points: [{ setting: 100, keyBytes: 9000, frameBytes: 500, ssim: 0.97, psnr: 40 }],
}
vi.stubGlobal('location', { href: 'http://localhost/' })

/** Files that the server has, and workers that render at once unless they are held. */
class World {
  readonly stored = new Map<string, Rendition>()
  readonly rendered: string[] = []
  readonly notes = new Map<string, string>()
  readonly locks = new FakeLocks()
  readonly queue = new FakeQueue((key) => this.stored.has(key))
  lookFails = false
  renderFails: ((recipe: Recipe | ProbeRecipe) => boolean) | null = null
  held: (() => void)[] | null = null

  store(): StoreApi<WorkState> {
    return createWorkStore({
      api: {
        findRenditions: (keys) => this.find(keys),
        storeRendition: (recipe, facts) => this.keep(recipe, facts),
        requestWork: (recipes, priority) => this.queue.request(recipes, priority),
        lookWork: (keys) => this.queue.look(keys),
        cancelWork: async (keys) => this.queue.cancel(keys),
      },
      openEvents: (hear, missed) => this.queue.listen(hear, missed),
      newWorker: () => ({
        run: ((order: Order, options: { signal?: AbortSignal }) =>
          this.run(order, options)) as never,
      }),
      locks: this.locks,
      notes: {
        getItem: (name) => this.notes.get(name) ?? null,
        setItem: (name, value) => void this.notes.set(name, value),
        removeItem: (name) => void this.notes.delete(name),
      },
      now: () => 1000 + this.rendered.length * 500,
    })
  }

  private async find(keys: readonly string[]): Promise<Rendition[]> {
    if (this.lookFails) throw new RequestError('server/unreachable', 'The server does not answer.')
    return keys.flatMap((key) => this.stored.get(key) ?? [])
  }

  private async keep(recipe: AnyRecipe, facts: RenditionFacts): Promise<Rendition> {
    const rendition = { key: recipeKey(recipe), sha256: 'b'.repeat(64), bytes: 100, facts }
    this.stored.set(rendition.key, rendition)
    return rendition
  }

  private async run(order: Order, { signal }: { signal?: AbortSignal }): Promise<unknown> {
    const { recipe } = order as Extract<Order, { type: 'render' | 'probe' }>
    const { held } = this
    if (held) {
      await new Promise<void>((resolve, reject) => {
        held.push(resolve)
        signal?.addEventListener('abort', () => reject(new WorkError('work/cancelled')))
      })
    }
    if (signal?.aborted) throw new WorkError('work/cancelled')
    if (this.renderFails?.(recipe)) throw new WorkError('work/cannot-encode')
    this.rendered.push(recipeKey(recipe))
    if (recipe.kind === 'probe') return { facts: PROBE }
    return { bytes: new Uint8Array(10), facts: inventRendition(recipe, 100).facts }
  }
}

let world: World
let store: StoreApi<WorkState>
beforeEach(() => {
  world = new World()
  store = world.store()
})
const settle = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 5))
const proofKey = (document = DOCUMENT): string => keyOfProof(document, SOURCES.known)

describe('looking up what is made', () => {
  it('knows afterwards of every key whether it is made', async () => {
    const [first, second] = finalRecipes(DOCUMENT, SOURCES.known)
    world.stored.set(recipeKey(first!), inventRendition(first!, 5))
    const keys = [recipeKey(first!), recipeKey(second!)]
    expect([isKnown(store.getState(), keys), isUnsure(store.getState(), keys)]).toEqual([
      false,
      true,
    ])
    await store.getState().look(keys)
    expect([isKnown(store.getState(), keys), isUnsure(store.getState(), keys)]).toEqual([
      true,
      false,
    ])
    // Of what a change brings it is asked at once.
    expect(isUnsure(store.getState(), ['of a change'])).toBe(false)
    expect([Object.keys(store.getState().made), Object.keys(store.getState().absent)]).toEqual([
      [keys[0]],
      [keys[1]],
    ])
  })
  it('that fails means that nothing is known, not that nothing is made', async () => {
    world.lookFails = true
    await expect(store.getState().look(['x'])).rejects.toThrow('The server does not answer.')
    expect([isKnown(store.getState(), ['x']), store.getState().lookProblem]).toEqual([
      false,
      'The server does not answer.',
    ])
    world.lookFails = false
    await store.getState().look(['x'])
    expect([isKnown(store.getState(), ['x']), store.getState().lookProblem]).toEqual([true, null])
  })
  it('asks in parts that the server takes', async () => {
    await store.getState().look(Array.from({ length: 450 }, (_, index) => `key ${index}`))
    expect(Object.keys(store.getState().absent)).toHaveLength(450)
  })
})

describe('the proof', () => {
  it('is not rendered while the server cannot be asked whether it is made', async () => {
    world.lookFails = true
    await store.getState().makeProof(DOCUMENT, SOURCES)
    expect([world.rendered, store.getState().proof]).toMatchObject([
      [],
      { state: 'failed', message: 'The server does not answer.' },
    ])
    world.lookFails = false
    await store.getState().makeProof(DOCUMENT, SOURCES)
    expect([world.rendered, store.getState().proof]).toEqual([[proofKey()], null])
  })
  it('of the latest change is the one that is made', async () => {
    world.held = []
    const later = reduce(DOCUMENT, { type: 'timing/speed', speed: 2 })
    const first = store.getState().makeProof(DOCUMENT, SOURCES)
    await settle()
    const second = store.getState().makeProof(later, SOURCES)
    await settle()
    world.held.forEach((release) => release())
    await Promise.all([first, second])
    expect([world.rendered, store.getState().proof]).toEqual([[proofKey(later)], null])
  })
  it('that cannot be rendered says why', async () => {
    world.renderFails = () => true
    await store.getState().makeProof(DOCUMENT, SOURCES)
    expect(store.getState().proof).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('cannot encode') as string,
    })
  })
  it('that is there already is not made again', async () => {
    const recipe = proofRecipe(DOCUMENT, SOURCES.known)!
    world.stored.set(recipeKey(recipe), inventRendition(recipe, 9))
    await store.getState().makeProof(DOCUMENT, SOURCES)
    expect([world.rendered, store.getState().proof]).toEqual([[], null])
  })
})

describe('the final files', () => {
  it('are made one after another, each clip after its probe, and nothing twice', async () => {
    const wanted = missingWork(DOCUMENT, SOURCES.known, {}).map(recipeKey)
    await store.getState().makeFinals(DOCUMENT, SOURCES)
    expect(world.rendered).toEqual(wanted)
    expect([store.getState().jobs, world.notes.size]).toEqual([[], 1])
    await store.getState().makeFinals(DOCUMENT, SOURCES)
    expect(world.rendered).toEqual(wanted)
  })
  it('that fail stay with their reason, and the others are made', async () => {
    world.renderFails = (recipe) => recipe.kind === 'clip' && recipe.family === 'av1'
    await store.getState().makeFinals(DOCUMENT, SOURCES)
    const { jobs } = store.getState()
    expect(jobs.map((job) => job.state)).toEqual(['failed', 'failed', 'failed'])
    world.renderFails = null
    await store.getState().makeFinals(DOCUMENT, SOURCES)
    expect(store.getState().jobs).toEqual([])
  })
  it('are not begun while the server cannot be asked: every one says why', async () => {
    world.lookFails = true
    await store.getState().makeFinals(DOCUMENT, SOURCES)
    expect(world.rendered).toEqual([])
    expect(new Set(store.getState().jobs.map((job) => job.message))).toEqual(
      new Set(['The server does not answer.']),
    )
  })
  it('are made by one tab at a time; the second finds them made', async () => {
    const other = world.store()
    await Promise.all([
      store.getState().makeFinals(DOCUMENT, SOURCES),
      other.getState().makeFinals(DOCUMENT, SOURCES),
    ])
    expect(world.rendered).toHaveLength(new Set(world.rendered).size)
    expect(other.getState().jobs).toEqual([])
  })
  it('stop when they are cancelled; what is finished stays', async () => {
    world.held = []
    const running = store.getState().makeFinals(DOCUMENT, SOURCES)
    await settle()
    world.held.shift()!()
    await settle()
    store.getState().cancelFinals()
    await running
    expect([world.rendered.length, store.getState().jobs, world.notes.size]).toEqual([1, [], 0])
  })
  it('go on after a reload, unless another tab is at work', async () => {
    world.held = []
    const abandoned = store.getState().makeFinals(DOCUMENT, SOURCES)
    await settle()
    const reloaded = world.store()
    await reloaded.getState().resume(DOCUMENT, SOURCES)
    expect(reloaded.getState().jobs).toEqual([])
    // The tab is gone: its locks are free.
    for (const { name } of (await world.locks.query()).held!) world.locks.release(name!)
    world.held = null
    await reloaded.getState().resume(DOCUMENT, SOURCES)
    expect(reloaded.getState().jobs).toEqual([])
    expect(world.rendered).toEqual(missingWork(DOCUMENT, SOURCES.known, {}).map(recipeKey))
    store.getState().cancelFinals()
    await abandoned
  })
  it('of another backdrop of the same clip are not begun by resuming', async () => {
    world.notes.set(`telon-making-${SAMPLE_CLIP.sha256}`, '["other key"]')
    await store.getState().resume(DOCUMENT, SOURCES)
    expect(world.rendered).toEqual([])
  })
})

describe('files of a render worker', () => {
  const X264 = 'x264 0.164.3095'
  const encoders = { av1: 'svt-av1 1.4.1', vp9: 'vpxenc 1.12.0', h264: X264, pictures: null }
  const APART = reduce(DOCUMENT, { type: 'weight/set', weight: { encoders } })
  const opened = { document: APART, sources: SOURCES }
  const recipes = finalRecipes(APART, SOURCES.known)
  const [first] = recipes
  const firstKey = recipeKey(first!)
  /** A worker stores a file and says so. */
  const finish = (recipe: Recipe): void => {
    world.stored.set(recipeKey(recipe), inventRendition(recipe, 50))
    world.queue.change(recipeKey(recipe), { state: 'done', done: 1 })
  }
  const apart = () => store.getState().apart
  const ask = () => store.getState().makeFinals(APART, SOURCES)

  it('are asked for at once, rendered nowhere here, and kept when they are made', async () => {
    await ask()
    expect(apart().map(({ key, state }) => [key, state])).toEqual(
      recipes.map((recipe) => [recipeKey(recipe), 'queued']),
    )
    world.queue.change(firstKey, {
      ...{ state: 'running', step: 'pass', done: 0.5, secondsLeft: 8, worker: 'studio-2' },
    })
    expect(apart()[0]).toMatchObject({
      ...{ state: 'running', done: 0.5 },
      apart: { step: 'pass', secondsLeft: 8, worker: 'studio-2' },
    })
    recipes.forEach(finish)
    await settle()
    expect([apart(), world.rendered]).toEqual([[], []])
    // Nothing was seen from its beginning: no speed is known.
    expect(store.getState().effortPerSecond).toEqual({ here: null, worker: null })
    expect(Object.keys(store.getState().made)).toHaveLength(recipes.length)
  })

  it('show the speed of the worker, which is not this machine’s', async () => {
    await ask()
    const clip = recipes.find(({ kind }) => kind === 'clip')!
    world.queue.change(recipeKey(clip), { state: 'running' })
    world.rendered.push('a second passes', 'on the clock')
    finish(clip)
    await settle()
    const { here, worker } = store.getState().effortPerSecond
    expect([here, worker]).toEqual([null, effortOf(clip)])
    expect(world.store().getState().effortPerSecond.worker).toBe(Math.round(effortOf(clip)))
  })

  it('go on without the tab: one that opens the backdrop finds them', async () => {
    await ask()
    world.queue.change(firstKey, { state: 'running', done: 0.25 })
    const other = world.store()
    other.getState().follow(opened)
    await settle()
    expect(other.getState().apart).toHaveLength(recipes.length)
    expect(other.getState().apart.find(({ key }) => key === firstKey)).toMatchObject({ done: 0.25 })
    // And hears of what changes.
    finish(first!)
    await settle()
    expect([other, store].map((each) => each.getState().made[firstKey] !== undefined)).toEqual([
      true,
      true,
    ])
  })

  it('that another tab asks for or cancels are seen in this one', async () => {
    store.getState().follow(opened)
    await settle()
    const other = world.store()
    await other.getState().makeFinals(APART, SOURCES)
    world.queue.change(firstKey, { state: 'running' })
    expect(apart().find(({ key }) => key === firstKey)?.state).toBe('running')
    other.getState().cancelFinals()
    await settle()
    expect([apart(), world.queue.jobs.size]).toEqual([[], 0])
  })

  it('that fail say why; asked for again, only they are tried again', async () => {
    await ask()
    world.queue.change(firstKey, { state: 'failed', reason: 'The disk is full.' })
    recipes.slice(1).forEach(finish)
    await settle()
    expect(apart()).toMatchObject([
      { key: firstKey, state: 'failed', message: 'The disk is full.' },
    ])
    await ask()
    expect(apart()).toMatchObject([{ key: firstKey, state: 'queued', message: null }])
  })

  it('are not lost with events that were missed', async () => {
    await ask()
    world.queue.isDeaf = true
    finish(first!)
    world.queue.cancel([recipeKey(recipes[1]!)])
    await settle()
    expect(apart()).toHaveLength(recipes.length)
    world.queue.isDeaf = false
    world.queue.miss()
    await settle()
    expect(apart()).toHaveLength(recipes.length - 2)
    expect(store.getState().made[firstKey]).toBeDefined()
  })

  it('cannot be asked for while the server is away: every one says why', async () => {
    world.queue.isAway = true
    await ask()
    expect(store.getState().jobs.map(({ message }) => message)).toEqual(
      recipes.map(() => 'The server does not answer.'),
    )
    world.queue.isAway = false
    await ask()
    expect([store.getState().jobs, apart().length]).toEqual([[], recipes.length])
  })

  it('of a backdrop with very many are asked for in parts that the server takes', async () => {
    const many = Array.from({ length: 230 }, (_, index) => ({
      ...(first as PosterRecipe),
      width: 100 + index,
    }))
    const parts: number[] = []
    const kept: number[] = []
    const jobs = new WorkerJobs(
      {
        api: {
          ...{ lookWork: async () => [], cancelWork: async () => undefined },
          findRenditions: async () => [],
          requestWork: async (asked) => {
            parts.push(asked.length)
            return world.queue.request(asked, 5)
          },
        },
        ...{ openEvents: () => () => undefined, now: () => 0 },
      },
      {
        setJobs: (all) => void kept.push(all.length),
        ...{ keep: () => undefined, took: () => undefined },
      },
    )
    jobs.follow(many)
    await jobs.request(many)
    jobs.follow([])
    expect([parts, kept.includes(230)]).toEqual([[100, 100, 30], true])
  })

  it('that were asked for before a change are no longer wanted after it', async () => {
    await ask()
    const changed = reduce(APART, { type: 'weight/set', weight: { goal: 'quality' } })
    store.getState().follow({ document: changed, sources: SOURCES })
    await store.getState().makeFinals(changed, SOURCES)
    const wanted = new Set(finalRecipes(changed, SOURCES.known).map(recipeKey))
    expect([...world.queue.jobs.keys()].every((key) => wanted.has(key))).toBe(true)
    expect(world.queue.jobs.size).toBe(wanted.size)
  })

  it('are not rendered twice where this browser is chosen instead', async () => {
    await ask()
    store.getState().follow({ document: DOCUMENT, sources: SOURCES })
    await store.getState().makeFinals(DOCUMENT, SOURCES)
    expect([world.queue.jobs.size, world.rendered.length > 0]).toEqual([0, true])
  })

  it('of other backdrops are none of its business', async () => {
    await ask()
    const before = apart()
    const other = recipeKey({ ...(first as PosterRecipe), width: 98 })
    world.queue.jobs.set(other, { ...world.queue.jobs.get(firstKey)!, key: other })
    world.queue.change(other, { state: 'running' })
    expect(apart()).toEqual(before)
  })

  it('that cannot be cancelled are shown again', async () => {
    await ask()
    world.queue.isAway = true
    store.getState().cancelFinals()
    expect(apart()).toEqual([])
    world.queue.isAway = false
    await settle()
    world.queue.miss()
    await settle()
    expect(apart()).toHaveLength(recipes.length)
  })

  it('are followed only while their backdrop is open', async () => {
    store.getState().follow({ document: DOCUMENT, sources: SOURCES })
    expect(world.queue.listening).toBe(0)
    store.getState().follow(opened)
    expect(world.queue.listening).toBe(1)
    store.getState().follow(null)
    expect(world.queue.listening).toBe(0)
  })

  describe('that something here waits for', () => {
    const probe: ProbeRecipe = {
      ...(recipes.find(({ kind }) => kind === 'clip') as ClipRecipe),
      kind: 'probe',
    }
    const key = recipeKey(probe)
    const wait = (signal = new AbortController().signal, onDone = (_: number) => undefined) =>
      store.getState().makeProbe(SOURCES, probe, signal, onDone)

    it('come before others, and give what they measured', async () => {
      const told: number[] = []
      const facts = wait(undefined, (done) => void told.push(done))
      await settle()
      expect(world.queue.priorities.get(key)).toBeGreaterThan(5)
      world.queue.change(key, { state: 'running', done: 0.4 })
      world.stored.set(key, { key, sha256: 'c'.repeat(64), bytes: 9, facts: PROBE })
      world.queue.change(key, { state: 'done' })
      expect([await facts, told, world.queue.listening]).toEqual([PROBE, [0.4], 0])
    })

    it('fail with the worker’s reason', async () => {
      const facts = wait()
      await settle()
      world.queue.change(key, { state: 'failed', reason: 'It cannot be decoded.' })
      await expect(facts).rejects.toThrow('It cannot be decoded.')
    })

    it('are not waited for where that ended before the server answered', async () => {
      const abort = new AbortController()
      const facts = wait(abort.signal)
      abort.abort()
      await expect(facts).rejects.toThrow()
      await settle()
      expect([world.queue.jobs.has(key), world.queue.listening]).toEqual([false, 0])
    })

    it('are cancelled where nobody waits any more', async () => {
      const abort = new AbortController()
      const facts = wait(abort.signal)
      await settle()
      expect(world.queue.jobs.has(key)).toBe(true)
      abort.abort()
      await expect(facts).rejects.toThrow()
      expect([world.queue.jobs.has(key), world.queue.listening]).toEqual([false, 0])
    })

    it('are there at once where they are made already', async () => {
      world.stored.set(key, { key, sha256: 'c'.repeat(64), bytes: 9, facts: PROBE })
      expect(await wait()).toEqual(PROBE)
      expect(world.queue.jobs.size).toBe(0)
    })
  })
})
