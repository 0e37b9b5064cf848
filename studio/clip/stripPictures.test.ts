import { describe, expect, it, vi } from 'vitest'
import { StripPictures } from './StripPictures'

const picture = () =>
  ({ close: vi.fn() }) as unknown as ImageBitmap & { close: ReturnType<typeof vi.fn> }

describe('the pictures of a filmstrip', () => {
  it('are found by frame; an exact one is preferred to one that stands in', () => {
    const strip = new StripPictures()
    const [coarse, exact] = [picture(), picture()]
    strip.add(10, 5, coarse)
    expect([strip.find(10, 5), strip.find(10, 1), strip.find(11, 5)]).toEqual([coarse, null, null])
    strip.add(10, 1, exact)
    expect(strip.find(10, 5)).toBe(exact)
  })
  it('tell those who draw when one has come', () => {
    const strip = new StripPictures()
    const told = vi.fn()
    const stop = strip.subscribe(told)
    const before = strip.getVersion()
    strip.add(1, 1, picture())
    expect([told.mock.calls.length, strip.getVersion() > before]).toEqual([1, true])
    stop()
    strip.add(2, 1, picture())
    expect(told).toHaveBeenCalledOnce()
  })
  it('are closed when they are replaced, when there are too many, and when the clip changes', () => {
    const strip = new StripPictures()
    const first = picture()
    strip.add(0, 1, first)
    strip.add(0, 1, picture())
    expect(first.close).toHaveBeenCalledOnce()
    const many = Array.from({ length: 600 }, picture)
    many.forEach((each, number) => strip.add(number, 1, each))
    strip.trim()
    expect(many.filter((each) => each.close.mock.calls.length > 0)).toHaveLength(100)
    strip.clear()
    expect(many.every((each) => each.close.mock.calls.length === 1)).toBe(true)
  })
})
