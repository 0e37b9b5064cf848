import { costingParts } from '../../core/particles/costingParts'
import { describe, expect, it } from 'vitest'
import type { SlowRun } from '../../core/api/slowMachines'
import { elementCount } from '../../core/particles/elements'
import { prepare } from '../../core/particles/prepare'
import { styleOf } from '../../core/particles/styles'
import { withCount } from '../../core/particles/withCount'
import { measuredCounts, mostOnSlow, slowPoints } from './costCurve'

const AREA = { width: 1280, height: 720 }
const SNOW = styleOf('quiet-snowfall')!.definition
const run = (fields: Partial<SlowRun>): SlowRun => ({
  factor: 8,
  asked: 200,
  drawn: 200,
  milliseconds: 20,
  framesPerSecond: 30,
  ...fields,
})

describe('the cost of particles', () => {
  it('is measured around the present number', () => {
    const counts = measuredCounts(SNOW, AREA)
    expect(counts).toContain(elementCount(prepare(SNOW), AREA))
    expect(counts).toEqual([...new Set(counts)].sort((one, other) => one - other))
    expect(Math.max(...measuredCounts({ ...SNOW, perMegapixel: 4000, most: 2000 }, AREA))).toBe(
      2000,
    )
  })
  it('is measured anew only for what costs', () => {
    const key = (of: typeof SNOW): string => JSON.stringify(costingParts(of))
    expect(key({ ...SNOW, seed: 1, opacity: { from: 0, to: 1 } })).toBe(key(SNOW))
    expect(key({ ...SNOW, size: { from: 1, to: 2 } })).not.toBe(key(SNOW))
  })
  it.each([1, 7, 80, 300, 1999])('can be that of %d elements exactly', (count) =>
    expect(elementCount(prepare(withCount(SNOW, AREA, count)), AREA)).toBe(count),
  )
  it('of slowed machines stands at what was drawn there, where anything was', () =>
    expect(
      slowPoints(
        [run({ drawn: 120 }), run({ drawn: 40, milliseconds: 9 }), run({ milliseconds: null })],
        8,
      ),
    ).toEqual([
      { count: 40, milliseconds: 9 },
      { count: 120, milliseconds: 20 },
    ]))
  it('allows as many as the slowest machine draws at its rate', () => {
    const runs = [
      run({ factor: 4, drawn: 400 }),
      run({ drawn: 60 }),
      run({ drawn: 110, framesPerSecond: 28 }),
      run({ drawn: 190, framesPerSecond: 19 }),
    ]
    expect(mostOnSlow(runs, 1000 / 30)).toBe(110)
    expect(mostOnSlow([run({ drawn: 60, framesPerSecond: 12 })], 1000 / 30)).toBe(0)
    expect(mostOnSlow([], 1000 / 30)).toBe(null)
  })
})
