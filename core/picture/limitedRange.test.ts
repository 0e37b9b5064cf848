import { expect, it } from 'vitest'
import { createI420, planesOf } from './I420'
import { limitedRange } from './limitedRange'

it('maps black, white and the middle of full range to those of limited range', () => {
  const picture = createI420(4, 2)
  const [luma, blue, red] = planesOf(picture)
  luma.data.set([0, 255, 128, 64, 0, 255, 128, 64])
  blue.data.set([0, 255])
  red.data.set([128, 192])
  const [y, cb, cr] = planesOf(limitedRange(picture))
  expect([...y.data.subarray(0, 4)]).toEqual([16, 235, 126, 71])
  expect([...cb.data]).toEqual([16, 240])
  expect([...cr.data]).toEqual([128, 184])
})
it('leaves the picture that it is given as it was', () => {
  const picture = createI420(2, 2)
  picture.data.fill(255)
  limitedRange(picture)
  expect([...picture.data]).toEqual([255, 255, 255, 255, 255, 255])
})
