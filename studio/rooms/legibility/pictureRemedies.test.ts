import { describe, expect, it } from 'vitest'
import { createPaint } from '../../../core/kinds/paint/Paint'
import type { ScreenName } from '../../../core/fit/screens'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { inventBackdrop, reduced } from '../../../core/testing/samples'
import { blurBehind, readCut } from './pictureRemedies'

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

describe('a shorter cut as a remedy', () => {
  const clip = reduced(inventBackdrop(), {
    type: 'timing/cut',
    cut: { timescale: 24, start: 48, end: 240 },
  })
  /** Of 192 frames those from one to another, in which copy fails. */
  const failingFrom = (first: number, end: number): boolean[] =>
    Array.from({ length: 192 }, (_, frame) => frame >= first && frame < end)
  it('leaves out the frames in which copy fails', () => {
    expect(readCut(clip, failingFrom(150, 160))).toEqual([
      { type: 'timing/cut', cut: { timescale: 24, start: 48, end: 198 } },
    ])
    expect(readCut(clip, failingFrom(20, 60))).toEqual([
      { type: 'timing/cut', cut: { timescale: 24, start: 108, end: 240 } },
    ])
    // At half speed a frame takes half a tick of the source.
    const slow = reduced(clip, { type: 'timing/speed', speed: 0.5 })
    expect(readCut(slow, failingFrom(150, 160))).toEqual([
      { type: 'timing/cut', cut: { timescale: 24, start: 48, end: 123 } },
    ])
  })
  it('says why it is none', () => {
    expect(readCut(clip, failingFrom(50, 150))).toMatch(/too many moments/)
    expect(readCut(clip, failingFrom(0, 192))).toMatch(/too many moments/)
    const mixed = reduced(clip, {
      type: 'timing/seam',
      seam: { kind: 'blended', overlapSeconds: 0.5 },
    })
    expect(readCut(mixed, failingFrom(150, 160))).toMatch(/seam/)
    const short = Array.from({ length: 60 }, (_, frame) => frame > 40)
    expect(readCut(clip, short)).toMatch(/too little/)
    expect(readCut({ ...clip, base: createPaint() }, [])).toMatch(/clips/)
  })
})
