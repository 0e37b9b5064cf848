import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useNotices } from './noticeStore'

const texts = (): string[] => useNotices.getState().notices.map((notice) => notice.text)

describe('notices', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    useNotices.setState({ notices: [] })
  })
  afterEach(() => vi.useRealTimers())

  it('stay long enough to decide, then go by themselves', () => {
    useNotices.getState().tell('one is off the shelf')
    vi.advanceTimersByTime(11_000)
    expect(texts()).toEqual(['one is off the shelf'])
    vi.advanceTimersByTime(2000)
    expect(texts()).toEqual([])
  })
  it('make room for newer ones: three at the most', () => {
    for (const text of ['a', 'b', 'c', 'd']) useNotices.getState().tell(text)
    expect(texts()).toEqual(['b', 'c', 'd'])
  })
  it('carry their own way back, or none', async () => {
    let undone = 0
    useNotices.getState().tell('gone', () => Promise.resolve().then(() => void (undone += 1)))
    useNotices.getState().tell('told')
    const [first, second] = useNotices.getState().notices
    await first!.undo!()
    expect([undone, second!.undo]).toEqual([1, null])
  })
  it('can be dismissed one by one', () => {
    useNotices.getState().tell('a')
    useNotices.getState().tell('b')
    useNotices.getState().dismiss(useNotices.getState().notices[0]!.id)
    expect(texts()).toEqual(['b'])
  })
})
