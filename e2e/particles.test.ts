import { describe, expect, it } from 'vitest'
import { digestOf } from '../core/particles/digest'
import { launch } from './harness'
import { AREA, DEFINITIONS, digestExpression, engineScript, TIMES } from './particleEngine'

describe('the engine of particles', () => {
  it('gives the same bits in Chromium as here', async () => {
    const browser = await launch()
    const page = await browser.newPage()
    const there = await page.evaluate<string[]>(digestExpression(await engineScript()))
    await browser.close()
    expect(there).toEqual(DEFINITIONS.map((each) => digestOf(each, AREA, TIMES)))
    expect(new Set(there).size).toBe(DEFINITIONS.length)
  })
})
