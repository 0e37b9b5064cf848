import { describe, expect, it } from 'vitest'
import {
  addLayer,
  addScrimStop,
  moveLayer,
  moveScrimStop,
  removeLayer,
  removeScrimStop,
} from './editScrim'
import { evenLayer, evenScrim, linearLayer, NO_SCRIM, scrimSchema, type ScrimLayer } from './Scrim'
import { layersOver } from './scrimAt'

const LAYER = linearLayer('#102030', [0.8, 0.2], 90)
const strengthAt = (layer: ScrimLayer, x: number): number =>
  layersOver([layer], 100, 10)(x, 5).alpha

describe('layers of a scrim', () => {
  it('are added in front, in the colour that is there, up to six', () => {
    const two = addLayer(evenScrim('#445566', 0.5))
    expect(two.layers.map(({ stops }) => stops[0]!.color)).toEqual(['#445566', '#445566'])
    expect(two.layers.map(({ strength }) => strength)).toEqual([0.5, 0.35])
    expect(addLayer(NO_SCRIM).layers).toHaveLength(1)
    const six = Array.from({ length: 9 }).reduce<typeof two>(addLayer, two)
    expect(six.layers).toHaveLength(6)
    expect(addLayer(six)).toBe(six)
    expect(scrimSchema.safeParse(six).success).toBe(true)
  })
  it('change places within the scrim, and stay where there is no other place', () => {
    const scrim = { layers: [evenLayer('#000000', 0.1), LAYER, evenLayer('#ffffff', 0.3)] }
    expect(moveLayer(scrim, 0, 2).layers.map(({ strength }) => strength)).toEqual([0.8, 0.3, 0.1])
    expect(moveLayer(scrim, 2, 1).layers.map(({ strength }) => strength)).toEqual([0.1, 0.3, 0.8])
    expect(moveLayer(scrim, 2, 3)).toBe(scrim)
    expect(moveLayer(scrim, 0, -1)).toBe(scrim)
    expect(removeLayer(scrim, 1).layers.map(({ strength }) => strength)).toEqual([0.1, 0.3])
  })
})

describe('stops of a layer', () => {
  it('are added where they change nothing, up to eight', () => {
    let layer = LAYER
    for (let count = 3; count <= 8; count++) {
      layer = addScrimStop(layer)
      expect(layer.stops).toHaveLength(count)
      for (const x of [0, 13, 50, 61, 100])
        expect(strengthAt(layer, x)).toBeCloseTo(strengthAt(LAYER, x), 2)
    }
    expect(addScrimStop(layer)).toBe(layer)
    expect(scrimSchema.safeParse({ layers: [layer] }).success).toBe(true)
  })
  it('never pass one another, and two stay', () => {
    const three = addScrimStop(LAYER)
    expect(moveScrimStop(three, 1, 2).stops.map(({ at }) => at)).toEqual([0, 1, 1])
    expect(moveScrimStop(three, 2, 0.2).stops.map(({ at }) => at)).toEqual([0, 0.5, 0.5])
    expect(removeScrimStop(three, 1).stops).toEqual(LAYER.stops)
    expect(removeScrimStop(LAYER, 0)).toBe(LAYER)
  })
})
