import { describe, expect, it } from 'vitest'
import { FACTS } from '../../core/testing/samples'
import { createAnalysisStore, type AnalysisParts } from './analysisStore'
import { WorkError } from '../worker/WorkError'

const source = (id: string) => ({
  id,
  projectId: 'project',
  sha256: id.padEnd(64, '0'),
  facts: FACTS,
})

/** A store whose worker measures when told; `order` lists the digests it was asked for. */
function store() {
  const order: string[] = []
  const ends: { resolve: () => void; reject: (error: unknown) => void }[] = []
  const measuredProjects: string[] = []
  const run = (
    job: { place: { url: string } },
    { signal }: { signal: AbortSignal },
  ): Promise<unknown> => {
    order.push(job.place.url.replace(/0+$/, ''))
    return new Promise((resolve, reject) => {
      signal.addEventListener('abort', () => reject(new WorkError('work/cancelled')))
      ends.push({
        resolve: () => resolve({ analysis: {}, strip: { cells: 1, bytes: null }, trace: null }),
        reject,
      })
    })
  }
  const api = { storeAnalysis: async () => ({}), storeRendition: async () => ({}) }
  const parts = {
    api,
    newWorker: () => ({ run }),
    onMeasured: (projectId: string) => measuredProjects.push(projectId),
    addressOf: (sha256: string) => sha256,
    now: () => 0,
  }
  const made = createAnalysisStore(parts as unknown as AnalysisParts)
  const settle = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0))
  return { state: () => made.getState(), order, ends, measuredProjects, settle }
}

describe('measuring new material', () => {
  it('takes one source after another, each once', async () => {
    const { state, order, ends, measuredProjects, settle } = store()
    state().ensure([source('a'), source('b')])
    state().ensure([source('a')])
    expect(order).toEqual(['a'])
    ends[0]!.resolve()
    await settle()
    expect(order).toEqual(['a', 'b'])
    expect(measuredProjects).toEqual(['project'])
    ends[1]!.resolve()
    await settle()
    state().ensure([source('a'), source('b')])
    expect(order).toEqual(['a', 'b'])
    expect(state().jobs).toEqual({})
  })
  it('takes the clip just chosen before all that wait', async () => {
    const { state, order, ends, settle } = store()
    state().ensure(['a', 'b', 'c', 'd'].map(source))
    state().measureFirst(source('d'))
    state().measureFirst(source('e'))
    for (let at = 0; at < 4; at++) {
      ends[at]!.resolve()
      await settle()
    }
    expect(order).toEqual(['a', 'e', 'd', 'b', 'c'])
  })
  it('goes on behind one that fails, which says why', async () => {
    const { state, order, ends, settle } = store()
    state().ensure([source('a'), source('b')])
    ends[0]!.reject(new WorkError('work/decode-failed'))
    await settle()
    expect(order).toEqual(['a', 'b'])
    expect(state().jobs['a']).toMatchObject({ state: 'failed' })
    expect(state().jobs['a']!.message).toMatch(/[Ee]xport/)
  })
  it('leaves a stopped one alone until it is asked for again', async () => {
    const { state, order, ends, settle } = store()
    state().ensure([source('a'), source('b')])
    state().stop('b')
    state().stop('a')
    await settle()
    expect([state().jobs['a']!.state, state().jobs['b']!.state]).toEqual(['stopped', 'stopped'])
    state().measureFirst(source('b'))
    state().ensure([source('a')])
    await settle()
    expect(order).toEqual(['a'])
    state().again(source('b'))
    expect(order).toEqual(['a', 'b'])
    ends[1]!.resolve()
    await settle()
    expect(state().jobs['b']).toBeUndefined()
  })
  it('does not measure what cannot be decoded', () => {
    const { state, order } = store()
    const facts = FACTS
    const other = { ...facts, video: { ...facts.video, family: 'other' as const } }
    state().ensure([{ ...source('a'), facts: other }])
    state().measureFirst({ ...source('a'), facts: other })
    expect(order).toEqual([])
  })
})
