import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { delivered, launchWhole, plays, serveFolder } from './harness'

/* How delivered loops play in real time. */

let browser: Browser
beforeAll(async () => {
  browser = await launchWhole()
})
afterAll(() => browser?.close())

describe('the seam', () => {
  it('is played over without a pause: the step at the join is like every other', async () => {
    const { out, manifest: loop } = await delivered(
      'rain-platform.mp4',
      '--start',
      '0',
      '--end',
      '1',
      '--width',
      '320',
    )
    expect(loop.clips[0]!.repeats).toBeGreaterThan(20)
    const site = await serveFolder(out)
    const page = await browser.newPage({ viewport: { width: 1000, height: 700 } })
    await page.goto(`${site.url}/index.html`)
    await plays(page)
    const shown = await page.locator('video').evaluate(
      (video: HTMLVideoElement) =>
        new Promise<{ media: number; at: number }[]>((resolve) => {
          const frames: { media: number; at: number }[] = []
          const look: VideoFrameRequestCallback = (_, { mediaTime, expectedDisplayTime }) => {
            frames.push({ media: mediaTime, at: expectedDisplayTime })
            if (frames.length < 400) video.requestVideoFrameCallback(look)
            else resolve(frames)
          }
          video.requestVideoFrameCallback(look)
        }),
    )
    const turn = (media: number): number => Math.floor(media / loop.base.loop.seconds + 1e-3)
    const steps = shown.slice(1).map((frame, index) => ({
      ms: frame.at - shown[index]!.at,
      join: turn(frame.media) !== turn(shown[index]!.media),
    }))
    const median = (values: number[]): number =>
      [...values].sort((a, b) => a - b)[values.length >> 1]!
    const joins = steps.filter(({ join: joined }) => joined).map(({ ms }) => ms)
    const usual = steps.filter(({ join: joined }) => !joined).map(({ ms }) => ms)
    expect(joins.length).toBeGreaterThanOrEqual(8)
    expect(
      median(joins),
      `joins ${joins.map(Math.round).join()}, else ${median(usual)}`,
    ).toBeLessThanOrEqual(1.25 * median(usual))
    await page.close()
    await site.stop()
  })
})
