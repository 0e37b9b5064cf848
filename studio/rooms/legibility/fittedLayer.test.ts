import { describe, expect, it } from 'vitest'
import { SCREEN_NAMES, SCREENS, type ScreenName } from '../../../core/fit/screens'
import type { Box } from '../../../core/scrim/frameContrast'
import { evenLayer, linearLayer, NO_SCRIM, type ScrimLayer } from '../../../core/scrim/Scrim'
import { hidingAt } from '../../../core/scrim/scrimAt'
import { inventBackdrop, reduced } from '../../../core/testing/samples'
import type { ScreenLayouts } from '../../layout/LayoutPage'
import { fittedTo } from './fittedLayer'

const document = inventBackdrop()

/** Layouts with a text in a box of each screen, and a header at the top. */
function layoutsWith(boxOf: (name: ScreenName) => Box | null): ScreenLayouts {
  const layouts = SCREEN_NAMES.map((name) => {
    const { width, height } = SCREENS[name]
    const text = (label: string, boxes: Box[]) => ({
      label,
      boxes,
      color: '#ffffff',
      needed: 3,
      plate: null,
    })
    const box = boxOf(name)
    const header = { x: 0, y: 0, width, height: 40 }
    return [
      name,
      {
        region: { width, height },
        texts: [text('Brand', [header]), ...(box ? [text('Heading', [box])] : [])],
      },
    ] as const
  })
  return Object.fromEntries(layouts) as unknown as ScreenLayouts
}
const low = layoutsWith((name) => ({
  x: 0.1 * SCREENS[name].width,
  y: 0.6 * SCREENS[name].height,
  width: 0.3 * SCREENS[name].width,
  height: 0.2 * SCREENS[name].height,
}))
const radial: ScrimLayer = { ...evenLayer('#203040', 0.7), shape: 'radial' }
const hiding = (layer: ScrimLayer, x: number, y: number): number =>
  hidingAt({ layers: [layer] }, 1280, 800)(x * 1280, y * 800)

describe('a layer that is fitted to the copy', () => {
  it.each([
    ['radial', radial],
    ['linear', linearLayer('#203040', [0.7, 0], 45)],
  ] as const)('has its whole strength behind it and fades out beyond: %s', (_, layer) => {
    const fitted = { ...layer, ...fittedTo(document, low, 'shared', layer) }
    expect(fitted.shape).toBe(layer.shape)
    expect(fitted.strength).toBe(0.7)
    expect(fitted.stops.every(({ color }) => color === '#203040')).toBe(true)
    for (const [x, y] of [
      [0.1, 0.6],
      [0.4, 0.8],
      [0.25, 0.7],
    ] as const)
      expect(hiding(fitted, x, y)).toBeCloseTo(0.7, 2)
    expect(hiding(fitted, 0.25, 0.05)).toBe(0)
  })
  it('is a band where a layer was even or a texture', () =>
    expect(fittedTo(document, low, 'shared', evenLayer('#000000', 1))!.shape).toBe('linear'))
  it('is for the screens alone that have its scrim', () => {
    const own = reduced(document, { type: 'scrim/own', scrim: NO_SCRIM })
    const apart = layoutsWith((name) =>
      name === 'phone'
        ? { x: 0, y: 700, width: 390, height: 100 }
        : { x: 0, y: 100, width: 300, height: 100 },
    )
    const phone = { ...radial, ...fittedTo(own, apart, 'phone', radial) }
    const shared = { ...radial, ...fittedTo(own, apart, 'shared', radial) }
    expect(phone.centre.y).toBeGreaterThan(0.8)
    expect(shared.centre.y).toBeLessThan(0.3)
  })
  it('is none without copy', () =>
    expect(
      fittedTo(
        document,
        layoutsWith(() => null),
        'shared',
        radial,
      ),
    ).toBeUndefined())
})
