import { describe, expect, it } from 'vitest'
import { reduce } from '../../../core/backdrop/reduce'
import type { ContrastRow, WorstMoment } from '../../../core/legibility/worstOf'
import type { TextPlace } from '../../../core/legibility/TextPlace'
import { inventBackdrop } from '../../../core/testing/samples'
import {
  freshOf,
  measuredKey,
  type Contrasts,
  type ScreenContrasts,
} from '../../state/contrastStore'
import { linesOf } from './contrastLines'
import { toldWorst } from './toldWorst'
import { evenScrim } from '../../../core/scrim/Scrim'

const text = (label: string, needed: number): TextPlace => ({
  label,
  needed,
  boxes: [],
  color: '#ffffff',
  plate: null,
})
const row = (seconds: number, ...ratios: (number | null)[]): ContrastRow => ({
  seconds,
  places: ratios.map((ratio) => (ratio === null ? null : { ratio, x: 1, y: 2 })),
})
const PHONE: ScreenContrasts = {
  screen: 'phone',
  layout: { region: { width: 390, height: 844 }, texts: [text('Heading', 3), text('Text', 4.5)] },
  rows: [row(0, 5, 6), row(0.5, 2.5, null)],
}
const WIDE: ScreenContrasts = {
  screen: 'wide',
  layout: { region: { width: 1920, height: 1080 }, texts: [text('Brand', 4.5), text('Text', 4.5)] },
  rows: [row(0, 9, 4), row(0.5, 9, 7)],
}
const worst = (screen: 'phone' | 'wide', label: string, ratio: number): WorstMoment => ({
  screen,
  text: text(label, label === 'Heading' ? 3 : 4.5),
  ratio,
  seconds: 0.5,
  x: 1,
  y: 2,
})
const SOURCES = { key: 'one source' }
const contrastsOf = (fields: Partial<Contrasts>): Contrasts => ({
  key: measuredKey(inventBackdrop(), SOURCES),
  screens: [PHONE, WIDE],
  worst: [worst('phone', 'Heading', 2.5), worst('wide', 'Text', 4)],
  isWhole: true,
  ...fields,
})

describe('what is told of all contrasts', () => {
  it('is the one farthest from enough, once all screens are measured', () => {
    expect(toldWorst(contrastsOf({}))).toEqual({
      ratio: 2.5,
      needed: 3,
      where: 'heading, at 0.5 s, phone',
    })
    expect(toldWorst(contrastsOf({ isWhole: false }))).toBeNull()
    expect(toldWorst(contrastsOf({ worst: [] }))).toBeNull()
    expect(toldWorst(null)).toBeNull()
  })
  it('is true for the backdrop that was measured, and for no other', () => {
    const document = inventBackdrop()
    const contrasts = contrastsOf({})
    expect(freshOf(contrasts, document, SOURCES)).toBe(contrasts)
    const darker = reduce(document, { type: 'scrim/set', scrim: evenScrim('#14101c', 0.9) })
    expect(freshOf(contrasts, darker, SOURCES)).toBeNull()
    expect(freshOf(contrasts, document, { key: 'a replaced source' })).toBeNull()
    expect(freshOf(null, document, SOURCES)).toBeNull()
  })
})

describe('the lines of the chart', () => {
  it('are those of the texts of a screen', () =>
    expect(linesOf([PHONE])).toEqual([
      { label: 'Heading', ratios: [5, 2.5] },
      { label: 'Text', ratios: [6, null] },
    ]))
  it('are the worst of all screens for each text that any of them has', () =>
    expect(linesOf([PHONE, WIDE])).toEqual([
      { label: 'Heading', ratios: [5, 2.5] },
      { label: 'Text', ratios: [4, 7] },
      { label: 'Brand', ratios: [9, 9] },
    ]))
  it('are none where nothing is measured', () => expect(linesOf([])).toEqual([]))
})
