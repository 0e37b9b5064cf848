import { EventEmitter } from 'node:events'
import type { ServerResponse } from 'node:http'
import { describe, expect, it, vi } from 'vitest'
import type { TakenJob } from '../../core/api/work'
import { JobWaits } from './JobWaits'
import type { WorkListener } from './WorkEvents'

const JOB = { jobId: 'a job' } as unknown as TakenJob
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
      countWaiting: async (most) => Math.min(most, state.jobs),
    },
    { listen: (hears) => ((listener = hears), () => true) },
  )
  return { waits, state, tell: (jobs: number) => listener.waiting!(jobs), listener }
}

describe('workers that wait for jobs', () => {
  it('are woken in the order in which they came, as many as there are jobs and few more', async () => {
    vi.useFakeTimers()
    const { waits, state, tell } = played()
    const done: number[] = []
    const workers = Array.from({ length: 200 }, (_, number) =>
      waits.take(`worker ${number}`, response()).then((job) => job && done.push(number)),
    )
    await vi.advanceTimersByTimeAsync(0)
    expect(state.asked).toBe(200)
    state.jobs = 2
    tell(2)
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
    waits.close()
    vi.useRealTimers()
  })

  it('cost nothing while there is none, however many they are', async () => {
    vi.useFakeTimers()
    const { waits, state } = played()
    const workers = Array.from({ length: 200 }, () => waits.take('a worker', response()))
    await vi.advanceTimersByTimeAsync(14_000)
    expect(state.asked).toBe(200)
    waits.close()
    await Promise.all(workers)
    vi.useRealTimers()
  })

  it('do not hear of jobs that run or are done', () => {
    const { listener } = played()
    expect(listener.hear).toBeUndefined()
  })
})
