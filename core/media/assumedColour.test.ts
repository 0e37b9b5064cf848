import { describe, expect, it } from 'vitest'
import { assumedColour } from './assumedColour'

const tagged = { primaries: 9, transfer: 14, matrix: 9, fullRange: false }

describe('the colour of a clip that does not say it', () => {
  it.each([
    ['h264', 180, 6],
    ['h264', 719, 6],
    ['h264', 720, 1],
    ['vp8', 1080, 1],
  ] as const)('is assumed by its height: %s, %i lines', (family, height, point) => {
    const colour = { primaries: point, transfer: point, matrix: point, fullRange: false }
    expect(assumedColour(family, null, height)).toEqual(colour)
    // Said in part is not said.
    expect(assumedColour(family, { ...tagged, transfer: 2 }, height)).toEqual(colour)
  })
  it('has a limited range where the file says a part alone, as browsers play it', () => {
    for (const matrix of [1, 2])
      expect(
        assumedColour('h264', { primaries: 2, transfer: 2, matrix, fullRange: true }, 180),
      ).toMatchObject({ matrix: 6, fullRange: false })
  })
  it('is not assumed where the file says it', () =>
    expect(assumedColour('h264', tagged, 180)).toBeNull())
  it('is left to decoders of VP9 and AV1', () => {
    expect(assumedColour('vp9', null, 180)).toBeNull()
    expect(assumedColour('av1', null, 180)).toBeNull()
  })
})
