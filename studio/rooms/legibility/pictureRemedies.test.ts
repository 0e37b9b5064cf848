import { describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import {
  createSlideshow,
  cycleOrder,
  slideCycle,
  type Slideshow,
} from '../../../core/kinds/slideshow/Slideshow'
import { createPaint } from '../../../core/kinds/paint/Paint'
import type { ScreenName } from '../../../core/fit/screens'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { inventBackdrop, reduced } from '../../../core/testing/samples'
import { blurBehind, otherPosters, readCut, readSlides } from './pictureRemedies'

const idOf = (letter: string): string => `7b1f8c1e-0000-4000-8000-00000000000${letter}`
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

describe('fewer slides as a remedy', () => {
  const base = createSlideshow(['a', 'b', 'c'].map(idOf))
  const shown: BackdropDocument = { ...inventBackdrop(), base }
  const { spans } = slideCycle(base)
  /** Copy fails at some seconds of the cycle. */
  const failingAt = (...seconds: number[]) =>
    [0, ...seconds].map((each) => ({ seconds: each, fails: seconds.includes(each) }))
  const middleOf = (slide: number): number =>
    (spans[slide]!.fullFrom + spans[slide]!.leavesFrom) / 2
  it('takes away those that are fully shown while copy fails', () =>
    expect(readSlides(shown, failingAt(middleOf(1)))).toEqual([
      { type: 'slides/remove', id: base.slides[1]!.id },
    ]))
  it('takes away what comes then, in whatever order slides come', () => {
    const shuffled: Slideshow = { ...base, order: 'shuffled', seed: 2 }
    const order = cycleOrder(shuffled)
    expect(order).not.toEqual([0, 1, 2])
    for (const [place, slide] of order.entries())
      expect(readSlides({ ...shown, base: shuffled }, failingAt(middleOf(place)))).toEqual([
        { type: 'slides/remove', id: base.slides[slide]!.id },
      ])
  })
  it('says why it is none', () => {
    const { leavesFrom, goneAt } = spans[0]!
    expect(readSlides(shown, failingAt((leavesFrom + goneAt) / 2))).toMatch(/change/)
    expect(readSlides(shown, failingAt(middleOf(0), middleOf(2)))).toMatch(/too many/)
    expect(readSlides({ ...shown, base: { ...base, order: 'visit' } }, [])).toMatch(/follow/)
    expect(readSlides(inventBackdrop(), [])).toMatch(/slideshows/)
  })
})

describe('another poster as a remedy', () => {
  it('is one of some frames spread over the cut, of clips alone', () => {
    const clip = reduced(inventBackdrop(), {
      type: 'timing/cut',
      cut: { timescale: 24, start: 48, end: 240 },
    })
    const ticks = otherPosters(clip).flatMap((actions) =>
      actions.flatMap((action) =>
        action.type === 'poster/picture' && action.picture.kind === 'frame'
          ? [action.picture.ticks]
          : [],
      ),
    )
    expect(ticks).toEqual([64, 96, 128, 160, 192, 224])
    expect(otherPosters({ ...clip, base: createPaint() })).toEqual([])
  })
})
