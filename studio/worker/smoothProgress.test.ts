import { expect, it } from 'vitest'
import type { RenderProgress } from './jobs/renderClip'
import { smoothProgress } from './smoothProgress'

it('passes on the first of each pass, the last, and few between', () => {
  const told: RenderProgress[] = []
  let now = 0
  const progress = smoothProgress(
    (each) => told.push(each),
    () => now,
  )
  // 500 frames in two passes, one every 10 ms.
  for (let pass = 0; pass < 2; pass++) {
    for (let k = 1; k <= 250; k++, now += 10) progress({ done: k / 250, pass })
  }
  expect(told[0]).toEqual({ done: 1 / 250, pass: 0 })
  expect(told.find(({ pass }) => pass === 1)).toEqual({ done: 1 / 250, pass: 1 })
  for (const pass of [0, 1]) expect(told).toContainEqual({ done: 1, pass })
  expect(told.length).toBeGreaterThan(25)
  expect(told.length).toBeLessThan(45)
  expect(
    told.every(
      (each, index) =>
        index === 0 || each.pass > told[index - 1]!.pass || each.done > told[index - 1]!.done,
    ),
  ).toBe(true)
})

it('keeps nothing back of slow work', () => {
  const told: number[] = []
  let now = 0
  const progress = smoothProgress(
    ({ done }) => told.push(done),
    () => now,
  )
  for (const done of [0.1, 0.2, 0.3, 0.9]) {
    progress({ done, pass: 0 })
    now += 400
  }
  expect(told).toEqual([0.1, 0.2, 0.3, 0.9])
})
