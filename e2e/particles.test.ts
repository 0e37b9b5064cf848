import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { SHAPES, type Definition } from '../core/particles/Definition'
import { digestOf } from '../core/particles/digest'
import type { drawLinks } from '../core/particles/links'
import type { painterOf } from '../core/particles/Painter'
import { prepare } from '../core/particles/prepare'
import { launch } from './harness'
import { AREA, DEFINITIONS, digestExpression, engineScript, TIMES } from './particleEngine'

let browser: Browser
let page: Page
beforeAll(async () => {
  browser = await launch()
  page = await browser.newPage()
})
afterAll(() => browser?.close())

it('gives the same bits in Chromium as here', async () => {
  const there = await page.evaluate<string[]>(digestExpression(await engineScript()))
  expect(there).toEqual(DEFINITIONS.map((each) => digestOf(each, AREA, TIMES)))
  expect(new Set(there).size).toBe(DEFINITIONS.length)
})

describe('drawn particles', () => {
  const SMALL = { width: 320, height: 180 }

  /** How many pixels are drawn at each time, and a sum of all that tells pictures apart. */
  const drawn = (definition: Definition, times: readonly number[], share?: number) =>
    page.evaluate(
      ([prepared, area, moments, part]) => {
        const engine = (
          window as unknown as {
            particles: { painterOf: typeof painterOf; drawLinks: typeof drawLinks }
          }
        ).particles
        const canvas = new OffscreenCanvas(area.width, area.height)
        const context = canvas.getContext('2d', { willReadFrequently: true })!
        const draw = engine.painterOf(prepared, area, 1, [engine.drawLinks])
        return moments.map((seconds) => {
          const count = draw(context, seconds, part ?? undefined)
          const { data } = context.getImageData(0, 0, area.width, area.height)
          let [pixels, sum] = [0, 7]
          for (let at = 0; at < data.length; at++) {
            if (at % 4 === 3 && data[at]! > 0) pixels++
            sum = (Math.imul(sum, 31) + data[at]!) | 0
          }
          return { pixels, sum, count }
        })
      },
      [prepare(definition), SMALL, times, share ?? null] as const,
    )
  const dense = (fields: Partial<Definition>): Definition => ({
    ...DEFINITIONS[0]!,
    perMegapixel: 700,
    where: null,
    ...fields,
  })
  beforeAll(async () => {
    await page.evaluate(`${await engineScript('testing/drawing')}; window.particles = particles`)
  })

  it.each(SHAPES)('show each shape, sharp and soft: %s', async (shape) => {
    for (const softness of [0, 1]) {
      const depth = { planes: 1, size: 0, speed: 0, softness }
      const [seen] = await drawn(
        dense({ shapes: [{ shape, weight: 1 }], size: { from: 20, to: 30 }, depth }),
        [3],
      )
      expect(seen!.pixels).toBeGreaterThan(300)
    }
  })
  it('are the same picture after a period, and another one in between', async () => {
    const links = { distance: 60, most: 3, width: 1, opacity: 0.8, filled: false }
    for (const definition of [dense({}), dense({ links }), dense({ blend: 'add' })]) {
      const { period } = definition
      const [first, between, last] = await drawn(definition, [0, period / 3, period])
      expect(last).toEqual(first)
      expect(between!.sum).not.toBe(first!.sum)
    }
  })
  it('are fewer where fewer are asked for, none at last', async () => {
    const [all] = await drawn(dense({}), [2])
    const [few] = await drawn(dense({}), [2], 0.2)
    const [none] = await drawn(dense({}), [2], 0)
    expect(few!.count).toBe(Math.ceil(all!.count * 0.2))
    expect(few!.pixels).toBeLessThan(all!.pixels / 2)
    expect(none).toMatchObject({ pixels: 0, count: 0 })
  })
  it('have links between them', async () => {
    const links = { distance: 90, most: 4, width: 2, opacity: 1, filled: false }
    const plain = dense({ shapes: [{ shape: 'disc', weight: 1 }], size: { from: 1, to: 2 } })
    const [without] = await drawn(plain, [2])
    const [linked] = await drawn({ ...plain, links }, [2])
    expect(linked!.pixels).toBeGreaterThan(without!.pixels * 3)
    const [filled] = await drawn({ ...plain, links: { ...links, filled: true } }, [2])
    expect(filled!.pixels).toBeGreaterThan(linked!.pixels * 1.2)
  })
})
