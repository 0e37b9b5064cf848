import { describe, expect, it } from 'vitest'
import { createPaint } from '../../../core/kinds/paint/Paint'
import type { ScreenName } from '../../../core/fit/screens'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { inventBackdrop, reduced } from '../../../core/testing/samples'
import { blurBehind } from './pictureRemedies'

const failing = (...screens: ScreenName[]): WorstMoment[] =>
  screens.map((screen) => ({
    screen,
    seconds: 0,
    ratio: 2,
    x: 0,
    y: 0,
    text: { label: 'Heading', boxes: [], color: '#ffffff', needed: 3, plate: null },
  }))

describe('blur as a remedy', () => {
  const document = inventBackdrop()
  it('is for the files of the screens on which copy fails', () =>
    expect(blurBehind(document, failing('tablet', 'laptop', 'phone'), 0.5)).toEqual([
      { type: 'weight/row', screenClass: 'laptop', row: { copyBlur: 0.5 } },
      { type: 'weight/row', screenClass: 'phone', row: { copyBlur: 0.5 } },
    ]))
  it('says why it is none', () => {
    const row = (fields: { locked?: boolean; copyBlur?: number }) =>
      reduced(document, { type: 'weight/row', screenClass: 'phone', row: fields })
    expect(blurBehind({ ...document, base: createPaint() }, failing('phone'), 1)).toMatch(/blur/)
    expect(blurBehind(row({ locked: true }), failing('phone'), 1)).toMatch(/locked/)
    expect(blurBehind(row({ locked: true }), failing('wide'), 1)).toHaveLength(1)
    expect(blurBehind(row({ copyBlur: 1 }), failing('phone'), 1)).toMatch(/already/)
  })
})
