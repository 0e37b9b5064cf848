import { describe, expect, it } from 'vitest'
import { inTurn } from './inTurn'
import { latestOnly } from './latestOnly'

const tick = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0))

describe('work in turn', () => {
  it('never runs two pieces at the same time, and keeps their order', async () => {
    const turn = inTurn()
    const log: string[] = []
    const piece = (name: string) => async (): Promise<string> => {
      log.push(`${name} begins`)
      await tick()
      log.push(`${name} ends`)
      return name
    }
    expect(await Promise.all([turn(piece('a')), turn(piece('b'))])).toEqual(['a', 'b'])
    expect(log).toEqual(['a begins', 'a ends', 'b begins', 'b ends'])
  })
  it('goes on after a piece that failed', async () => {
    const turn = inTurn()
    const failed = turn(() => Promise.reject(new Error('no')))
    const next = turn(async () => 'yes')
    await expect(failed).rejects.toThrow('no')
    expect(await next).toBe('yes')
  })
})

describe('the latest request only', () => {
  it('is carried out after the one under way; those between are dropped', async () => {
    const done: number[] = []
    const requests = latestOnly<number>(async (number) => {
      await tick()
      done.push(number)
    })
    for (const number of [1, 2, 3, 4]) requests.ask(number)
    expect(requests.isBusy).toBe(true)
    for (let turn = 0; turn < 5; turn++) await tick()
    expect([done, requests.isBusy]).toEqual([[1, 4], false])
  })
  it('can be forgotten, and a failure does not stop what follows', async () => {
    const done: number[] = []
    const requests = latestOnly<number>(async (number) => {
      await tick()
      if (number === 1) throw new Error('no')
      done.push(number)
    })
    requests.ask(1)
    requests.ask(2)
    requests.forget()
    await tick()
    await tick()
    requests.ask(3)
    await tick()
    await tick()
    expect(done).toEqual([3])
  })
})
