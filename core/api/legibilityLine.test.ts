import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import type { WorstMoment } from '../legibility/worstOf'
import {
  legibilityJsonSchema,
  legibilityLineOf,
  legibilityLineSchema,
  passes,
} from './legibilityLine'

const moment = (label: string, ratio: number, needed: number): WorstMoment => ({
  screen: 'phone',
  text: { label, needed, boxes: [], color: '#ffffff', plate: null },
  ratio,
  seconds: 1.23456,
  x: 20.4,
  y: 300.6,
})

describe('a line of telon legibility', () => {
  it('tells each text, the one farthest from enough, and whether all pass', () => {
    const line = legibilityLineOf('hero', [moment('Heading', 3.4, 3), moment('Text', 4.2, 4.5)])
    expect(legibilityLineSchema.parse(line)).toEqual(line)
    expect(line).toMatchObject({
      file: 'hero',
      passes: false,
      worst: { text: 'text', screen: 'phone', ratio: 4.2, needed: 4.5, seconds: 1.235 },
    })
    expect(line.texts![0]!.place).toEqual({ x: 20, y: 301 })
    expect(legibilityLineOf('hero', [])).toEqual({
      file: 'hero',
      texts: [],
      worst: null,
      passes: true,
    })
  })
  it('judges a figure as it is told', () => {
    expect(passes([moment('Text', 4.496, 4.5)])).toBe(true)
    expect(passes([moment('Text', 4.494, 4.5)])).toBe(false)
  })
  it('has its schema in the documents', () =>
    expect(
      JSON.parse(
        readFileSync(new URL('../../docs/schema/legibility.schema.json', import.meta.url), 'utf8'),
      ),
    ).toEqual(JSON.parse(JSON.stringify(legibilityJsonSchema()))))
})
