import type { Browser, BrowserContextOptions, Page } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import type { DeliveredScripts } from '../core/handoff/scripts'
import { createPaint, FIRST_MOTION } from '../core/kinds/paint/Paint'
import type { Definition } from '../core/particles/Definition'
import type { drawLinks } from '../core/particles/links'
import type { painterOf } from '../core/particles/Painter'
import { newParticles } from '../core/particles/Particles'
import { prepare } from '../core/particles/prepare'
import { styleOf } from '../core/particles/styles'
import { regionPage } from '../headless/regionPage'
import { builtScripts } from '../runtime/testing/builtScripts'
import { launchWhole } from './harness'
import { engineScript } from './particleEngine'

/* Particles on a visitor's page, drawn by the delivered script. */

let browser: Browser
let scripts: DeliveredScripts
let page: Page
beforeAll(async () => {
  browser = await launchWhole()
  scripts = await builtScripts()
})
afterAll(() => browser?.close())
afterEach(() => page?.context().close())

const SNOW = styleOf('quiet-snowfall')!.definition

function documentWith(
  definition: Definition,
  behaviour: Partial<BackdropDocument['behaviour']> = {},
): BackdropDocument {
  const made = createBackdrop({
    base: createPaint(),
    picture: null,
    scope: 'region',
    height: { unit: 'px', value: 480 },
    brand: '',
  })
  return {
    ...made,
    particles: newParticles(definition, null),
    behaviour: { ...made.behaviour, ...behaviour },
  }
}

type Counting = typeof globalThis & { tlnDrawn: number; tlnFewer: number[]; tlnTold: string[] }

/** Opens a page with a region; what is drawn and told is counted from its beginning. */
async function open(
  document: BackdropDocument,
  {
    slowdown = 1,
    before = '',
    html = regionPage(document, scripts),
    ...options
  }: BrowserContextOptions & {
    slowdown?: number
    before?: string
    html?: string
  } = {},
): Promise<void> {
  const context = await browser.newContext({ viewport: { width: 800, height: 600 }, ...options })
  page = await context.newPage()
  if (slowdown > 1) {
    const session = await context.newCDPSession(page)
    await session.send('Emulation.setCPUThrottlingRate', { rate: slowdown })
  }
  const counting = `<script>
tlnDrawn = 0; tlnFewer = []; tlnTold = []
const { clearRect } = CanvasRenderingContext2D.prototype
CanvasRenderingContext2D.prototype.clearRect = function (...box) {
  tlnDrawn++
  clearRect.apply(this, box)
}
addEventListener('tln:fewer', ({ detail }) => tlnFewer.push(detail))
for (const name of ['play', 'pause', 'poster']) addEventListener('tln:' + name, () => tlnTold.push(name))
</script>`
  await page.setContent(html.replace('<!doctype html>', `<!doctype html>${counting}${before}`))
}
const drawn = (): Promise<number> => page.evaluate(() => (globalThis as Counting).tlnDrawn)
const told = (): Promise<string[]> => page.evaluate(() => (globalThis as Counting).tlnTold)
/** Whether something is drawn within half a second from now on. */
async function isMoving(): Promise<boolean> {
  const before = await drawn()
  await page.waitForTimeout(500)
  return (await drawn()) > before
}
/** A sum over the pixels of the canvas that tells pictures apart, and how many are drawn. */
const picture = (): Promise<{ sum: number; pixels: number }> =>
  page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('.tln-particles')!
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
    let [sum, pixels] = [7, 0]
    for (let at = 0; at < data.length; at++) {
      sum = (Math.imul(sum, 31) + data[at]!) | 0
      if (at % 4 === 3 && data[at]! > 0) pixels++
    }
    return { sum, pixels }
  })
const until = (check: () => Promise<boolean>) => expect.poll(check).toBe(true)

describe('particles on a page', () => {
  it('begin by themselves, and tell it', async () => {
    await open(documentWith(SNOW))
    await until(isMoving)
    expect(await told()).toContain('play')
    expect((await picture()).pixels).toBeGreaterThan(200)
    const before = await picture()
    await page.waitForTimeout(300)
    expect(await picture()).not.toEqual(before)
  })
  it('stop by the pause control and go on by it', async () => {
    await open(documentWith(SNOW))
    await until(isMoving)
    await page.getByRole('button', { name: 'Pause the background' }).click()
    await until(async () => !(await isMoving()))
    const held = await picture()
    await page.waitForTimeout(400)
    expect(await picture()).toEqual(held)
    await page.getByRole('button', { name: 'Play the background' }).click()
    await until(isMoving)
    expect(await told()).toEqual(['play', 'pause', 'play'])
  })
  it('draw nothing out of view, nor once their region is released', async () => {
    await open(documentWith(SNOW))
    await until(isMoving)
    await page.evaluate(() => {
      document.body.style.paddingBottom = '3000px'
      scrollTo(0, 2600)
    })
    await until(async () => !(await isMoving()))
    await page.evaluate(() => scrollTo(0, 0))
    await until(isMoving)
    await page.evaluate(() => {
      const { tln } = globalThis as unknown as { tln: { unmount(region: Element): void } }
      tln.unmount(document.querySelector('.tln-region')!)
    })
    expect(await isMoving()).toBe(false)
    // Nothing listens any more: not to the size of the region either.
    const before = await drawn()
    await page.setViewportSize({ width: 500, height: 600 })
    await page.waitForTimeout(300)
    expect(await drawn()).toBe(before)
  })
  it('show the first picture under reduced motion: the same as the engine draws', async () => {
    const definition = { ...SNOW, links: { ...LINKS, filled: true } }
    await open(documentWith(definition), { reducedMotion: 'reduce' })
    await until(async () => (await picture()).pixels > 0)
    expect(await isMoving()).toBe(false)
    const difference = await page.evaluate(
      ([script, prepared]) => {
        const engine = new Function(`${script}; return particles`)() as {
          painterOf: typeof painterOf
          drawLinks: typeof drawLinks
        }
        const canvas = document.querySelector<HTMLCanvasElement>('.tln-particles')!
        const { width, height } = canvas
        const pixels = (): Uint8ClampedArray =>
          canvas.getContext('2d')!.getImageData(0, 0, width, height).data
        const there = pixels()
        const draw = engine.painterOf(prepared, { width, height }, 1, [engine.drawLinks])
        draw(canvas.getContext('2d')!, 0)
        const here = pixels()
        return here.reduce((sum, value, at) => sum + Math.abs(value - there[at]!), 0) / here.length
      },
      [await engineScript('testing/drawing'), prepare(definition)] as const,
    )
    // What is delivered has six digits of each figure: hardly a pixel is another one.
    expect(difference).toBeLessThan(0.05)
  })
  it('are pictures, in their own colours or in those of the palette', async () => {
    const square = { width: 16, height: 16, channels: 3, background: '#20c040' } as const
    const png = (await sharp({ create: square }).png().toBuffer()).toString('base64')
    const sprite = `data:image/png;base64,${png}`
    for (const [tinted, colour] of [
      [false, [32, 192, 64]],
      [true, [224, 32, 16]],
    ] as const) {
      const definition: Definition = {
        ...SNOW,
        shapes: [{ sprite, tinted, weight: 1 }],
        colours: { palette: [{ colour: '#e02010', weight: 1 }], by: 'random', core: null },
        depth: { planes: 1, size: 0, speed: 0, softness: 0 },
        size: { from: 40, to: 50 },
        opacity: { from: 1, to: 1 },
      }
      await open(documentWith(definition), { reducedMotion: 'reduce' })
      await until(async () => (await picture()).pixels > 500)
      const seen = await page.evaluate(() => {
        const canvas = document.querySelector<HTMLCanvasElement>('.tln-particles')!
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
        for (let at = 0; at < data.length; at += 4)
          if (data[at + 3] === 255) return [...data.slice(at, at + 3)]
        return null
      })
      expect(seen, tinted ? 'tinted' : 'as it is').toEqual(colour)
      await page.context().close()
    }
  })
  it('are left out where a picture cannot be loaded, and the others are drawn', async () => {
    const broken = `data:image/png;base64,${btoa(`\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x08\0\0\0\x08${'\0'.repeat(30)}`)}`
    const shapes = [
      { sprite: broken, weight: 1 },
      { shape: 'disc' as const, weight: 1 },
    ]
    await open(documentWith({ ...SNOW, shapes }))
    await until(isMoving)
    expect((await picture()).pixels).toBeGreaterThan(0)
  })
  it('stand still on phones where that is decided, and move on wider screens', async () => {
    const document = documentWith(SNOW, { phone: 'poster' })
    await open(document, { viewport: { width: 400, height: 700 } })
    await until(async () => (await picture()).pixels > 0)
    expect(await isMoving()).toBe(false)
    await page.context().close()
    await open(document)
    await until(isMoving)
  })
  it('fit themselves to a window, with one and a half pixels for each of its own', async () => {
    await open(documentWith(SNOW), { deviceScaleFactor: 3 })
    await until(isMoving)
    await page.setViewportSize({ width: 500, height: 600 })
    await until(async () =>
      page.evaluate(() => document.querySelector<HTMLCanvasElement>('canvas')!.width === 750),
    )
    await until(isMoving)
  })
  it('part before a mouse, and close again', async () => {
    const still: Definition = {
      ...SNOW,
      depth: { ...SNOW.depth, planes: 1 },
      // As good as still, so that only the pointer changes the picture.
      motion: {
        ...SNOW.motion,
        speed: { from: 0, to: 0 },
        life: 120,
        sway: null,
        wander: null,
        twinkle: null,
      },
      period: 120,
      pointer: { reaction: 'part', radius: 300, strength: 1 },
    }
    await open(documentWith(still))
    await until(isMoving)
    /** How much is drawn around the middle of the region. */
    const around = (): Promise<number> =>
      page.evaluate(() => {
        const canvas = document.querySelector<HTMLCanvasElement>('.tln-particles')!
        const { data } = canvas.getContext('2d')!.getImageData(340, 180, 120, 120)
        return data.reduce((sum, value, at) => sum + (at % 4 === 3 ? value : 0), 0)
      })
    const before = await around()
    expect(before).toBeGreaterThan(500)
    await page.mouse.move(390, 230)
    await page.mouse.move(400, 240)
    await until(async () => (await around()) < before * 0.35)
    await page.mouse.move(5, 595)
    await until(async () => (await around()) > before * 0.7)
  })
  it('become fewer on a machine that is too slow, which stays responsive', async () => {
    const crowd: Definition = {
      ...SNOW,
      perMegapixel: 4000,
      most: 2000,
      size: { from: 30, to: 60 },
      links: { ...LINKS },
    }
    await open(documentWith(crowd), { slowdown: 8 })
    const fewer = (): Promise<number[]> => page.evaluate(() => (globalThis as Counting).tlnFewer)
    await until(async () => (await fewer()).length > 0)
    const steps = await fewer()
    expect(steps[0]).toBeLessThan(1536 * 0.75)
    expect([...steps].sort((one, other) => other - one)).toEqual(steps)
    // A visitor's press is answered while they are drawn.
    await page.evaluate(() =>
      addEventListener('click', () => ((globalThis as Counting).tlnFewer = [-1])),
    )
    await page.mouse.click(20, 550)
    await until(async () => (await fewer())[0] === -1)
  })
  it('are given up where nothing helps, while what is below goes on', async () => {
    const document = documentWith({ ...SNOW, perMegapixel: 20 })
    const moving = { ...createPaint(), motion: { ...FIRST_MOTION, seconds: 8 } }
    const late = `<script>
const soon = requestAnimationFrame
requestAnimationFrame = (act) => setTimeout(() => soon(act), 150)
cancelAnimationFrame = clearTimeout
</script>`
    await open({ ...document, base: moving }, { before: late })
    await until(async () => page.evaluate(() => (globalThis as Counting).tlnFewer.at(-1) === 0))
    expect(await isMoving()).toBe(false)
    expect((await picture()).pixels).toBeGreaterThan(0)
    const paint = page.locator('.tln-paint')
    expect(await paint.evaluate((each) => each.getAnimations()[0]!.playState)).toBe('running')
    // Whatever is decided anew later: they stay as they are.
    await page.evaluate(() => dispatchEvent(new Event('resize')))
    expect(await isMoving()).toBe(false)
  })
  it('go on over a clip that has ended, which may fade', async () => {
    const { video, particles } = scripts.parts
    const both = { ...scripts, parts: { ...scripts.parts, particles: `${video},${particles}` } }
    const clip = '<video class="tln-video"></video>'
    await open(documentWith(SNOW), {
      html: regionPage(documentWith(SNOW), both).replace('<div class="tln-paint', `${clip}$&`),
    })
    await until(isMoving)
    const root = page.locator('.tln-backdrop')
    expect(await root.getAttribute('class')).not.toContain('tln-ended')
    await page.locator('.tln-video').evaluate((each) => {
      Object.defineProperty(each, 'ended', { value: true })
      each.dispatchEvent(new Event('ended'))
    })
    expect(await root.getAttribute('class')).toContain('tln-ended')
    expect(await page.getByRole('button', { name: 'Pause the background' }).isVisible()).toBe(true)
    expect(await isMoving()).toBe(true)
  })
  it('leave the base alone where a browser cannot draw them', async () => {
    await open(documentWith(SNOW), { before: '<script>delete window.OffscreenCanvas</script>' })
    expect(await isMoving()).toBe(false)
    expect(
      await page.evaluate(() => getComputedStyle(document.querySelector('canvas')!).opacity),
    ).toBe('0')
  })
  it('are not there without script', async () => {
    await open(documentWith(SNOW), { javaScriptEnabled: false })
    await page.locator('.tln-paint').waitFor({ state: 'attached' })
    expect(await page.locator('.tln-drawn').count()).toBe(0)
  })
})

const LINKS = { distance: 90, most: 3, width: 1, opacity: 0.6, filled: false } as const
