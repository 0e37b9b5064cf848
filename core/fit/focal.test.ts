import { describe, expect, it } from 'vitest'
import { renditionOf } from '../backdrop/recipe'
import { inventBackdrop, knownAs, reduced as reduce } from '../testing/samples'
import { classOfWindow, focalOn, sharedFocal } from './focal'

const SAMPLE_SOURCES = knownAs({ sha256: 'b'.repeat(64), width: 1920, height: 1080 })
const FACE = { x: 0.8, y: 0.4 }
const phones = (focal: typeof FACE | null) =>
  ({ type: 'fit/focal', focal, screenClass: 'phone' }) as const

describe('focal points', () => {
  const plain = inventBackdrop()
  const own = reduce(plain, phones(FACE))
  it('are shared, unless a class has its own', () => {
    expect(focalOn(own.fit, 'phone')).toEqual(FACE)
    expect(focalOn(own.fit, 'laptop')).toEqual(plain.fit.focal)
    expect(sharedFocal(own.fit, ['laptop', 'wide'])).toEqual(plain.fit.focal)
    expect(sharedFocal(own.fit, ['phone', 'laptop'])).toBeNull()
    expect(reduce(own, phones(null))).toEqual(plain)
  })
  it('belong to the windows of a class', () => {
    const limits = { phone: 640, laptop: 1440 }
    expect([320, 640, 641, 1440, 1441].map((width) => classOfWindow(width, limits))).toEqual([
      'phone',
      'phone',
      'laptop',
      'laptop',
      'wide',
    ])
  })
  it('move the part that files of that class keep, and no other', () => {
    const crop = { type: 'weight/row', screenClass: 'phone', row: { crop: 'screen' } } as const
    const [before, after] = [plain, own].map((each) => reduce(each, crop))
    const partOf = (document: typeof plain, each: 'phone' | 'wide') =>
      renditionOf(document, SAMPLE_SOURCES, each).part
    expect(partOf(after!, 'phone')!.x).toBeGreaterThan(partOf(before!, 'phone')!.x)
    expect(partOf(after!, 'wide')).toEqual(partOf(before!, 'wide'))
  })
  it('cut nothing off a file that screens with different points share', () => {
    const rows = [
      { type: 'weight/row', screenClass: 'laptop', row: { crop: 'screen' } },
      { type: 'weight/row', screenClass: 'phone', row: { enabled: false } },
      { type: 'fit/height', height: { unit: 'px', value: 1200 } },
    ] as const
    const partOf = (document: typeof plain) =>
      renditionOf(rows.reduce(reduce, document), SAMPLE_SOURCES, 'laptop').part
    expect(partOf(plain)).not.toBeNull()
    expect(partOf(own)).toBeNull()
  })
})
