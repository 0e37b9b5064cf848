import { describe, expect, it } from 'vitest'
import { formatBytes, formatDuration, formatFps, formatLeft, megabytes } from './format'

describe('what people read', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1 kB'],
    [345_678, '346 kB'],
    [1_234_567, '1.23 MB'],
    [12_345_678, '12.3 MB'],
    [1_000_000_000, '1 GB'],
    [2_540_000_000, '2.5 GB'],
  ])('%i bytes are %s', (bytes, text) => {
    expect(formatBytes(bytes)).toBe(text)
  })
  it.each([
    [NaN, 'time left unknown'],
    [Infinity, 'time left unknown'],
    [0.4, 'about a second left'],
    [42, '42 s left'],
    [300, '5 min left'],
  ])('%d seconds left are "%s"', (seconds, text) => {
    expect(formatLeft(seconds)).toBe(text)
  })
  it.each([
    [0.4, 'about a second'],
    [42, 'about 42 s'],
    [170, 'about 3 min'],
  ])('%d seconds take "%s"', (seconds, text) => expect(formatDuration(seconds)).toBe(text))
  it('shortens rates and megabytes', () =>
    expect([formatFps(23.976), formatFps(25), megabytes(1_239_000)]).toEqual([
      '23.98',
      '25',
      '1.24',
    ]))
})
