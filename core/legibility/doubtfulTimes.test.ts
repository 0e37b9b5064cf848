import { describe, expect, it } from 'vitest'
import { doubtfulTimes } from './doubtfulTimes'

const rows = (ratios: readonly (number | null)[]) =>
  ratios.map((ratio, index) => ({
    seconds: index / 10,
    places: [ratio === null ? null : { ratio, x: 0, y: 0 }],
  }))

describe('times that are looked at closer', () => {
  it('are the two worst, apart from one another, where one part of the loop is clearly worse', () => {
    const times = doubtfulTimes(rows([9, 8, 3, 3.01, 3.2, 9, 9, 5, 9]), 0)
    expect(times).toEqual([0.2, 0.4])
  })
  it('are spread over all that may be the worst where a loop hardly moves', () => {
    const times = doubtfulTimes(
      rows([...Array<number>(6).fill(5.27), ...Array<number>(66).fill(5.32)]),
      0,
    )
    expect(times).toEqual([0, 0.2, 0.7, 2.1, 3.6, 5, 6.4])
  })
  it('leave out what is more than a trace’s error above the worst', () => {
    expect(doubtfulTimes(rows([4, 4, 4, 4.1, 4.19, 4.3, 4.3, 4.3, 4.3]), 0)).toEqual([0, 0.2, 0.4])
    expect(doubtfulTimes(rows([4, 4, 4, 4.1, 4.21, 4.3, 4.3, 4.3, 4.3]), 0)).toEqual([0, 0.2])
  })
  it('are none where a text is never seen, and the only one of a picture', () => {
    expect(doubtfulTimes(rows([null, null]), 0)).toEqual([])
    expect(doubtfulTimes(rows([7]), 0)).toEqual([0])
  })
})
