import { describe, expect, it } from 'vitest'
import { judgeSeam, mostVisible } from './judgeSeam'

describe('the verdict on a seam', () => {
  it.each([
    ['a perfect seam', 1, 3, 9, 'invisible'],
    ['a seam as large as other steps', 1.2, 3, 9, 'invisible'],
    ['a seam a little larger', 1.21, 3, 9, 'slight'],
    ['a seam of twice a step', 2, 3, 9, 'slight'],
    ['a jump', 2.01, 3, 9, 'visible'],
    ['a high ratio on a calm clip, too small to see', 2.11, 0.4, 1.9, 'invisible'],
    ['a high ratio, seen in one place only', 15, 0.4, 2.1, 'visible'],
    ['a clip without motion', null, 0, 0, 'invisible'],
    ['a clip without motion that ends elsewhere', null, 4, 12, 'visible'],
    ['a file of which the worst cell is not known', 2.5, 0.1, null, 'visible'],
    ['a motionless file of which the worst cell is not known', null, 0.1, null, 'invisible'],
  ] as const)('of %s', (_, ratio, deltaE, worstDeltaE, visibility) =>
    expect(judgeSeam({ ratio, deltaE, worstDeltaE }).visibility).toBe(visibility),
  )
  it('names the figure it rests on', () => {
    expect(judgeSeam({ ratio: 15, deltaE: 8, worstDeltaE: 30 }).words).toMatch(/^15\.0 times/)
    expect(judgeSeam({ ratio: 3, deltaE: 0.4, worstDeltaE: 1.2 }).words).toMatch(/ΔE 1\.2/)
  })
  it('counts the worst of several', () => {
    const good = { ratio: 1, deltaE: 0.2, worstDeltaE: 9 }
    expect(mostVisible([good, { ...good, ratio: 1.5 }])).toBe('slight')
    expect(mostVisible([good, { ...good, ratio: 4 }, { ...good, ratio: 1.5 }])).toBe('visible')
    expect(mostVisible([good])).toBe('invisible')
  })
})
