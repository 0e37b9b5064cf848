import { describe, expect, it } from 'vitest'
import { deinterlaceI420 } from './deinterlaceI420'
import { createI420, planesOf, type I420 } from './I420'

const [WIDTH, HEIGHT] = [64, 36]

/** A frame whose lines of each field are drawn by themselves. */
function drawn(first: (x: number, y: number) => number, second = first): I420 {
  const picture = createI420(WIDTH, HEIGHT)
  picture.data.fill(128)
  const { data } = planesOf(picture)[0]
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) data[y * WIDTH + x] = (y % 2 === 0 ? first : second)(x, y)
  return picture
}
const bar = (left: number) => (x: number) => (x >= left && x < left + 12 ? 220 : 40)
/** Mean difference of each line to the mean of its neighbours: high where fields comb. */
function combing(picture: I420): number {
  const { data } = planesOf(picture)[0]
  let sum = 0
  for (let y = 1; y < HEIGHT - 1; y++)
    for (let x = 0; x < WIDTH; x++) {
      const at = y * WIDTH + x
      sum += Math.abs(data[at]! - (data[at - WIDTH]! + data[at + WIDTH]!) / 2)
    }
  return sum / (WIDTH * (HEIGHT - 2))
}

describe('deinterlacing', () => {
  it('leaves a frame that does not move as it is, to the finest line', () => {
    const lines = drawn(
      () => 200,
      () => 50,
    )
    expect(deinterlaceI420(lines, lines).data).toEqual(lines.data)
  })
  it('removes the comb of a bar that moves between the fields', () => {
    const moving = drawn(bar(20), bar(26))
    const before = drawn(bar(8), bar(14))
    expect(combing(moving)).toBeGreaterThan(20)
    const whole = deinterlaceI420(moving, before)
    expect(combing(whole)).toBeLessThan(1)
    // What stands is the moment of the first field.
    const [luma] = planesOf(whole)
    for (let x = 0; x < WIDTH; x++) expect(luma.data[9 * WIDTH + x]).toBe(bar(20)(x))
  })
  it('leaves a progressive frame that moves nearly as it is', () => {
    const blob = (left: number) => (x: number, y: number) =>
      Math.round(40 + 180 * Math.exp(-((x - left) ** 2 + (y - 18) ** 2) / 60))
    const moving = drawn(blob(30))
    expect(deinterlaceI420(moving, drawn(blob(24))).data).toEqual(moving.data)
  })
  it('keeps still parts beside moving ones', () => {
    const still = (x: number, y: number): number => (x > 40 ? (y % 2 === 0 ? 200 : 50) : 0)
    const at = (left: number) => (x: number, y: number) => (x > 40 ? still(x, y) : bar(left)(x))
    const whole = deinterlaceI420(drawn(at(10), at(14)), drawn(at(2), at(6)))
    const [luma] = planesOf(whole)
    expect([luma.data[10 * WIDTH + 50], luma.data[11 * WIDTH + 50]]).toEqual([200, 50])
  })
  it('takes lines outside their neighbours for moving where no frame came before', () => {
    const moving = drawn(bar(20), bar(26))
    expect(combing(deinterlaceI420(moving, null))).toBeLessThan(1)
    const ramp = drawn((x, y) => 40 + 2 * y + x)
    expect(deinterlaceI420(ramp, null).data).toEqual(ramp.data)
  })
  it('follows a slanted edge instead of making steps of it', () => {
    const slope = (shift: number) => (x: number, y: number) => (x - shift > y ? 220 : 40)
    const whole = deinterlaceI420(drawn(slope(4), slope(8)), drawn(slope(-6), slope(-2)))
    const [luma] = planesOf(whole)
    let grey = 0
    for (let at = WIDTH; at < WIDTH * 30; at++)
      if (luma.data[at]! > 60 && luma.data[at]! < 200) grey++
    expect(grey).toBeLessThan(4)
  })
  it('changes nothing of the frame that is given', () => {
    const moving = drawn(bar(20), bar(26))
    const copy = moving.data.slice()
    deinterlaceI420(moving, drawn(bar(0)))
    expect(moving.data).toEqual(copy)
  })
})
