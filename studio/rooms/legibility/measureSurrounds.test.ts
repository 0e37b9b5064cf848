import { describe, expect, it } from 'vitest'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { parseHex } from '../../../core/picture/srgb'
import { contrastRatio } from '../../../core/scrim/contrast'
import { leastContrast, surroundsByText } from './measureSurrounds'

const ratio = (one: string, other: string): number => contrastRatio(parseHex(one), parseHex(other))

/** A text in black or white over a ground, on a screen. */
const worst = (
  label: string,
  color: string,
  ground: string,
  screen: WorstMoment['screen'] = 'laptop',
): WorstMoment => ({
  screen,
  seconds: 0,
  ratio: ratio(color, ground),
  x: 0,
  y: 0,
  text: { label, boxes: [], color, needed: label === 'Heading' ? 3 : 4.5, plate: null },
})

describe('what is behind texts', () => {
  const texts = surroundsByText([
    worst('Heading', '#000000', '#202020'),
    worst('Heading', '#ffffff', '#404040'),
    worst('Heading', '#ffffff', '#606060', 'phone'),
    worst('Text', '#000000', '#101010'),
    worst('Text', '#ffffff', '#303030'),
  ])
  it('is the darkest and the brightest of all screens', () => {
    expect(texts.map(({ label, needed }) => [label, needed])).toEqual([
      ['Heading', 3],
      ['Text', 4.5],
    ])
    const { darkest, brightest } = texts[0]!.surrounds
    expect((darkest + 0.05) / 0.05).toBeCloseTo(ratio('#000000', '#202020'), 6)
    expect(1.05 / (brightest + 0.05)).toBeCloseTo(ratio('#ffffff', '#606060'), 6)
  })
  it('tells of any colour what the text that lacks most gets with it', () => {
    expect(leastContrast(texts, '#ffffff')).toEqual({
      ratio: expect.closeTo(ratio('#ffffff', '#606060'), 6) as number,
      needed: 3,
    })
    // Between the darkest and the brightest it may be lost.
    expect(leastContrast(texts, '#282828')).toEqual({ ratio: null, needed: 3 })
    expect(leastContrast([], '#ffffff')).toBeNull()
  })
})
