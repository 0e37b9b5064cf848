import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { farthest, PATCHES_SIZE, patchesPage } from './blendPatches'
import { launch } from './harness'

/* Our formulas of blend modes against the browser's own pixels. Firefox: firefox.test.ts. */

describe('blend modes of the scrim', () => {
  let browser: Browser
  beforeAll(async () => {
    browser = await launch()
  })
  afterAll(() => browser?.close())
  it('are what the browser draws, within 3 of 255', async () => {
    const page = await browser.newPage({ viewport: PATCHES_SIZE })
    await page.setContent(patchesPage())
    const { off, what } = await farthest(await page.screenshot())
    await page.close()
    expect(off, what).toBeLessThanOrEqual(3)
  })
})
