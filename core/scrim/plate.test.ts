import { describe, expect, it } from 'vitest'
import { frameContrast } from './frameContrast'
import { plateAt, type Plate } from './Plate'
import { NO_SCRIM } from './Scrim'

const BLACK = { r: 0, g: 0, b: 0 }
const WHITE = { r: 255, g: 255, b: 255 }

describe('what lies around letters', () => {
  it('is the same everywhere where no opacities are told', () => {
    const layer = { ...BLACK, alpha: 0.4 }
    expect(plateAt({ layer }, 7)).toBe(layer)
    expect(plateAt({ layer, opacities: [] }, 7)).toBe(layer)
  })
  it('has each of its opacities at as many places, whatever their number', () => {
    const plate: Plate = { layer: { ...BLACK, alpha: 0 }, opacities: [0, 0.25, 0.5, 0.75] }
    const counts = new Map<number, number>()
    for (let place = 0; place < 1000; place++) {
      const { alpha } = plateAt(plate, place)
      counts.set(alpha, (counts.get(alpha) ?? 0) + 1)
    }
    expect([...counts.keys()].toSorted()).toEqual([0, 0.25, 0.5, 0.75])
    for (const count of counts.values()) expect(Math.abs(count - 250)).toBeLessThan(5)
  })
  it('makes the contrast that its places give: its weakest twentieth where the ground is even', () => {
    const pixels = { width: 400, height: 400, data: new Uint8Array(400 * 400 * 4).fill(255) }
    const box = { x: 0, y: 0, width: 400, height: 400 }
    const opacities = Array.from({ length: 20 }, () => 0.8)
    const plate = { layer: { ...BLACK, alpha: 0 }, opacities }
    const ratio = (weak: number): number =>
      frameContrast(pixels, NO_SCRIM, box, WHITE, 4, {
        ...plate,
        opacities: opacities.map((each, index) => (index < weak ? 0 : each)),
      })!
    expect(ratio(0)).toBeGreaterThan(10)
    expect(ratio(2)).toBeCloseTo(1, 6)
  })
})
