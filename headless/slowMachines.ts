import type { Browser, CDPSession, Page } from 'playwright-core'
import { SLOWDOWNS, type SlowOrder, type SlowRun, type SlowRuns } from '../core/api/slowMachines'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import type { DeliveredScripts } from '../core/handoff/scripts'
import { createPaint } from '../core/kinds/paint/Paint'
import { elementCount } from '../core/particles/elements'
import { newParticles } from '../core/particles/Particles'
import { prepare } from '../core/particles/prepare'
import { withCount } from '../core/particles/withCount'
import { regionPage } from './regionPage'
import { CHROMIUM } from './RenderBrowser'

/** Numbers of elements that are tried, as shares of those asked for. */
const SHARES = [0.25, 0.5, 1] as const
/** Steps down end when nothing was left out for so long; after the longest time they count. */
const QUIET_MS = 1500
const SETTLE_MS = 9000
const MEASURE_MS = 2000

/** What the page counts. */
interface Counters {
  frames: number
  left: number | null
  changed: number
}
type CountingPage = typeof globalThis & { tlnCounters: Counters }

/** Counts what the delivered script draws, and how many elements it leaves out. */
function count(): void {
  const counters: Counters = { frames: 0, left: null, changed: performance.now() }
  ;(globalThis as CountingPage).tlnCounters = counters
  const { clearRect } = CanvasRenderingContext2D.prototype
  CanvasRenderingContext2D.prototype.clearRect = function (...box) {
    counters.frames++
    clearRect.apply(this, box)
  }
  // Listeners would be taken away with the document that the content replaces.
  const { dispatchEvent } = EventTarget.prototype
  EventTarget.prototype.dispatchEvent = function (event) {
    if (event.type === 'tln:fewer') {
      counters.left = (event as CustomEvent<number>).detail
      counters.changed = performance.now()
    }
    return dispatchEvent.call(this, event)
  }
}

/** The page of a region with particles, as it is delivered. */
function pageOf({ definition, frameRate, height }: SlowOrder, scripts: DeliveredScripts): string {
  const made = createBackdrop({
    base: createPaint(),
    picture: null,
    scope: 'region',
    height: { unit: 'px', value: height },
    brand: '',
  })
  return regionPage(
    { ...made, particles: { ...newParticles(definition, null), frameRate } },
    scripts,
  )
}

/** Milliseconds that the main thread has been busy, of the page's life. */
async function busyMs(session: CDPSession): Promise<number> {
  const { metrics } = await session.send('Performance.getMetrics')
  return metrics.find(({ name }) => name === 'TaskDuration')!.value * 1000
}

const read = (page: Page): Promise<Counters & { now: number }> =>
  page.evaluate(() => ({
    ...(globalThis as CountingPage).tlnCounters,
    now: performance.now(),
  }))

async function run(
  browser: Browser,
  order: SlowOrder,
  scripts: DeliveredScripts,
  factor: number,
): Promise<SlowRun> {
  const { width, height } = order
  const page = await browser.newPage({ viewport: { width, height } })
  const session = await page.context().newCDPSession(page)
  await session.send('Performance.enable')
  await page.addInitScript(count)
  // The script runs when a page is opened; its content is put in afterwards.
  await page.goto('about:blank')
  await session.send('Emulation.setCPUThrottlingRate', { rate: factor })
  await page.setContent(pageOf(order, scripts))
  const began = Date.now()
  for (;;) {
    await page.waitForTimeout(250)
    const { now, changed, left } = await read(page)
    if (left === 0 || now - changed > QUIET_MS || Date.now() - began > SETTLE_MS) break
  }
  const [before, busyBefore] = [await read(page), await busyMs(session)]
  await page.waitForTimeout(MEASURE_MS)
  const [after, busyAfter] = [await read(page), await busyMs(session)]
  await page.close()
  const frames = after.frames - before.frames
  const asked = elementCount(prepare(order.definition), order)
  return {
    factor,
    asked,
    drawn: after.left ?? asked,
    milliseconds: frames > 0 ? (busyAfter - busyBefore) / frames : null,
    framesPerSecond: (frames * 1000) / (after.now - before.now),
  }
}

/**
 * Tries the delivered script with particles in a headless browser whose main thread is slowed down.
 * Rejects with the signal's reason when it is ended.
 */
export async function trySlowMachines(
  order: SlowOrder,
  scripts: DeliveredScripts,
  signal: AbortSignal,
): Promise<SlowRuns> {
  const { chromium } = await import('playwright-core')
  signal.throwIfAborted()
  const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  const end = (): void => void browser.close()
  signal.addEventListener('abort', end, { once: true })
  try {
    const runs: SlowRun[] = []
    const all = elementCount(prepare(order.definition), order)
    for (const factor of SLOWDOWNS)
      for (const share of SHARES) {
        const definition = withCount(order.definition, order, Math.max(1, Math.round(all * share)))
        runs.push(await run(browser, { ...order, definition }, scripts, factor))
      }
    return { runs }
  } catch (error) {
    signal.throwIfAborted()
    throw error
  } finally {
    signal.removeEventListener('abort', end)
    await browser.close()
  }
}
