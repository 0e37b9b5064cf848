import { EventEmitter } from 'node:events'
import type { ServerResponse } from 'node:http'
import { describe, expect, it, vi } from 'vitest'
import type { TakenJob, WorkJob } from '../../core/api/work'
import { JobWaits } from './JobWaits'
import type { WorkListener } from './WorkEvents'

const JOB = { jobId: 'a job' } as unknown as TakenJob
const changed = (state: WorkJob['state']): WorkJob => ({ state }) as WorkJob
const response = (): ServerResponse => new EventEmitter() as unknown as ServerResponse

/** Workers that ask for jobs of which there are so many. */
function played() {
  let listener!: WorkListener
  const state = { jobs: 0, asked: 0 }
  const waits = new JobWaits(
    {
      take: async () => {
        state.asked += 1
        if (state.jobs === 0) return null
        state.jobs -= 1
        return JOB
      },
    },
    { listen: (hears) => ((listener = hears), () => true) },
  )
  return { waits, state, hear: (...jobs: WorkJob[]) => listener.hear(jobs) }
}

describe('workers that wait for jobs', () => {
  it('are woken in the order in which they came, as many as there are jobs and few more', async () => {
    vi.useFakeTimers()
    const { waits, state, hear } = played()
    const done: number[] = []
    const workers = Array.from({ length: 200 }, (_, number) =>
      waits.take(`worker ${number}`, response()).then((job) => job && done.push(number)),
    )
    await vi.advanceTimersByTimeAsync(0)
    expect(state.asked).toBe(200)
    state.jobs = 2
    hear(changed('waiting'), changed('waiting'), changed('running'))
    await vi.advanceTimersByTimeAsync(0)
    expect(done).toEqual([0, 1])
    expect(state.asked).toBeLessThanOrEqual(200 + 2 + 8)
    waits.close()
    await Promise.all(workers)
    vi.useRealTimers()
  })

  it('find a job by asking where nobody woke them', async () => {
    vi.useFakeTimers()
    const { waits, state } = played()
    const taken = waits.take('a worker', response())
    await vi.advanceTimersByTimeAsync(1000)
    state.jobs = 1
    await vi.advanceTimersByTimeAsync(3000)
    expect(await taken).toBe(JOB)
    vi.useRealTimers()
  })

  it('are not woken by jobs that run or are done', async () => {
    const { waits, state, hear } = played()
    const taken = waits.take('a worker', response())
    await vi.waitFor(() => expect(state.asked).toBe(1))
    hear(changed('running'), changed('done'))
    await new Promise((resolve) => setTimeout(resolve, 20))
    expect(state.asked).toBe(1)
    waits.close()
    expect(await taken).toBeNull()
  })
})
