import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BrowserContext, Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import type { BackdropRecord } from '../core/api/wire'
import { manifestSchema, type Manifest } from '../core/handoff/manifest'
import { paintPixels } from '../core/kinds/paint/paintPixels'
import type { Paint } from '../core/kinds/paint/Paint'
import type { TestServer } from '../server/testing/testServer'
import { CLIPS, complaintsOf, serveFolder, telon } from './harness'
import { inStudio } from './inStudio'

/* Bases that are no clip, image and paint: made, changed, rendered and delivered. */

let server: TestServer
let context: BrowserContext
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, context, page, complaints } = studio))

const json = async <T>(path: string): Promise<T> =>
  (await (await fetch(server.url + path)).json()) as T
const saved = () =>
  page
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()
const room = (name: string) => page.getByRole('link', { name: new RegExp(`^${name}`) }).click()
const inner = () => page.frameLocator('iframe[title^="The backdrop"]')
const documentNow = async () =>
  (await json<BackdropRecord>(`/api/backdrops/${page.url().split('/')[4]}`)).document

/** Opens a backdrop of the demonstration. */
async function openDemo(name: string): Promise<void> {
  const [project] = await json<{ id: string }[]>('/api/projects')
  await page.goto(`${server.url}/projects/${project!.id}`)
  await page.getByRole('link', { name }).click()
  await inner().locator('.tln-heading').waitFor()
}

/** Makes a new backdrop by the chooser. */
async function choose(kind: RegExp, source?: string): Promise<void> {
  const [project] = await json<{ id: string }[]>('/api/projects')
  await page.goto(`${server.url}/projects/${project!.id}`)
  await page.getByRole('button', { name: 'Make a backdrop' }).nth(1).click()
  await page.getByRole('radio', { name: kind }).click()
  if (source) await page.getByRole('button', { name: source }).click()
  await page.getByRole('button', { name: 'Open the workbench' }).click()
  await inner().locator('.tln-heading').waitFor()
}

/** Delivers by the command line. */
async function delivered(...args: string[]): Promise<{ out: string; manifest: Manifest }> {
  const out = join(await mkdtemp(join(tmpdir(), 'telon-base-')), 'out')
  const done = await telon('deliver', ...args, '--out', out)
  if (done.code !== 0) throw new Error(done.err)
  const text = await readFile(join(out, 'manifest.json'), 'utf8')
  return { out, manifest: manifestSchema.parse(JSON.parse(text)) }
}

/** A drawing with everything that must not come to a site, and what must stay. */
const HOSTILE = `<?xml version="1.0"?><!-- by Jane --><svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 800 500" onload="alert(1)">
<metadata><dc:creator xmlns:dc="http://purl.org/dc/elements/1.1/">Jane</dc:creator></metadata>
<style>@import "https://elsewhere.example/a.css"; .far { fill: url(https://elsewhere.example/b.svg#x) }</style>
<script>alert(2)</script>
<defs><linearGradient id="body"><stop stop-color="#2a9d4a"/></linearGradient><circle id="dot" r="20"/></defs>
<rect width="800" height="500" fill="url(#body)"/>
<use xlink:href="#dot" x="60" y="400"/><use href="https://elsewhere.example/c.svg#d"/>
<image href="https://elsewhere.example/d.png" width="9" height="9"/>
<a href="javascript:alert(3)"><text y="90">words</text></a>
<foreignObject width="9" height="9"><p xmlns="http://www.w3.org/1999/xhtml">foreign</p></foreignObject>
</svg>`

/** A drawing as a file. */
async function drawing(text: string): Promise<string> {
  const file = join(await mkdtemp(join(tmpdir(), 'telon-drawing-')), 'drawing.svg')
  await writeFile(file, text)
  return file
}

/** Red, green and blue of a picture's first pixel. */
async function pixelOf(png: Buffer): Promise<readonly number[]> {
  return page.evaluate(async (base64) => {
    const bytes = Uint8Array.from(atob(base64), (each) => each.charCodeAt(0))
    const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }))
    const context = new OffscreenCanvas(1, 1).getContext('2d')!
    context.drawImage(image, 0, 0)
    return [...context.getImageData(0, 0, 1, 1).data]
  }, png.toString('base64'))
}

describe('an image', () => {
  it('is chosen with its picture, placed, panned, rendered and handed off', async () => {
    await choose(/^Image/, 'fjord-night.webp')
    await room('Material')
    await page.getByRole('radio', { name: /^Contain/ }).click()
    await expect
      .poll(() =>
        inner()
          .locator('.tln-poster')
          .evaluate((each) => getComputedStyle(each).objectFit),
      )
      .toBe('contain')
    await page.getByRole('button', { name: 'Undo: how the image is placed' }).click()
    await room('Timing')
    await page.getByRole('switch', { name: 'Slow pan and zoom' }).click()
    const end = page.getByRole('button', { name: /^End view/ })
    await end.focus()
    await page.keyboard.press('+')
    await page.keyboard.press('ArrowLeft')
    await saved()
    const { base } = await documentNow()
    expect(base.kind === 'image' && base.drift!.to.zoom).toBeCloseTo(1.25, 5)
    // By pointer, one step to undo.
    const box = (await end.boundingBox())!
    await page.mouse.move(box.x + 10, box.y + 10)
    await page.mouse.down()
    await page.mouse.move(box.x - 10, box.y + 5, { steps: 4 })
    await page.mouse.up()
    await page.getByRole('button', { name: 'Undo: pan and zoom' }).click()
    // It moves, and the delivered control holds it.
    const moving = inner().locator('.tln-moving')
    await expect.poll(() => moving.evaluate((each) => each.getAnimations().length)).toBe(1)
    await inner().locator('.tln-pause').click()
    await expect
      .poll(() => moving.evaluate((each) => each.getAnimations()[0]!.playState))
      .toBe('paused')
    await room('Weight')
    await page.getByRole('button', { name: 'Render files' }).click()
    await page.getByText('All files are up to date').waitFor()
    expect(
      await page.getByRole('table', { name: 'Renditions' }).locator('tbody tr').count(),
    ).toBeGreaterThan(8)
    await room('Handoff')
    await page
      .getByText(/image-wide-1920/)
      .first()
      .waitFor()
    expect(complaints).toEqual([])
  })
  it('is delivered in both densities, so that a screen takes the one it has pixels for', async () => {
    const { out, manifest } = await delivered(join(CLIPS, 'fjord-night.webp'), '--width', '800')
    expect([manifest.base.kind, manifest.clips, manifest.poster, manifest.scriptParts]).toEqual([
      'image',
      [],
      null,
      [],
    ])
    expect(manifest.posters.map(({ density, width }) => [density, width])).toEqual(
      expect.arrayContaining([
        [1, 800],
        [2, 1600],
      ]),
    )
    expect(manifest.files.filter((path) => path.endsWith('js'))).toEqual([])
    const site = await serveFolder(out)
    try {
      for (const [scale, width] of [
        [1, 800],
        [2, 1600],
      ] as const) {
        const own = await context
          .browser()!
          .newContext({ deviceScaleFactor: scale, viewport: { width: 1000, height: 700 } })
        const visitor = await own.newPage()
        const told = complaintsOf(visitor)
        await visitor.goto(`${site.url}/index.html`)
        const image = visitor.locator('.tln-poster')
        await expect
          .poll(() => image.evaluate((each: HTMLImageElement) => each.complete))
          .toBe(true)
        expect(
          await image.evaluate((each: HTMLImageElement) => new URL(each.currentSrc).pathname),
        ).toContain(`-${width}-`)
        expect(await visitor.locator('.tln-pause').count()).toBe(0)
        expect(told).toEqual([])
        await own.close()
      }
    } finally {
      await site.stop()
    }
  })
  it('that is a light drawing is delivered as it is, without what runs, loads or tells', async () => {
    const { out, manifest } = await delivered(await drawing(HOSTILE), '--matte', '#102030')
    expect(manifest.posters.map(({ type, screen }) => [type, screen])).toEqual([
      ['image/svg+xml', 'wide'],
    ])
    const text = await readFile(join(out, manifest.posters[0]!.path), 'utf8')
    expect(text).not.toMatch(
      /script|onload|elsewhere|foreign|metadata|Jane|import|<a\b|javascript/i,
    )
    expect(text).toMatch(/<use [^>]*href="#dot"/)
    expect(text).toContain('id="body"')
    const site = await serveFolder(out)
    try {
      const told = complaintsOf(page)
      await page.goto(`${site.url}/index.html`)
      const image = page.locator('.tln-poster')
      await expect
        .poll(() => image.evaluate((each: HTMLImageElement) => each.naturalWidth))
        .toBeGreaterThan(0)
      expect(told).toEqual([])
      // The middle is the drawing's own green; the scrim is over it.
      const shot = await page.screenshot({ clip: { x: 600, y: 60, width: 2, height: 2 } })
      const [red, green] = await pixelOf(shot)
      expect(green! - red!).toBeGreaterThan(40)
      // Where a site takes the backdrop out, its colour stays under the copy.
      const ground = await page.locator('.tln-region').evaluate((region) => {
        region.querySelector('.tln-backdrop')!.remove()
        return getComputedStyle(region).backgroundColor
      })
      expect(ground).toBe('rgb(16, 32, 48)')
    } finally {
      await site.stop()
    }
  })
  it('that is a heavy or moving drawing is drawn in pixels, on the colour behind it', async () => {
    const heavy = `<svg xmlns="http://www.w3.org/2000/svg" width="800" height="500">${'<circle r="9" cx="40" cy="50" fill="#fff"/>'.repeat(1000)}</svg>`
    const moving =
      '<svg xmlns="http://www.w3.org/2000/svg" width="800" height="500"><rect width="9" height="9"><animate attributeName="x" to="90" dur="1s"/></rect></svg>'
    for (const text of [heavy, moving]) {
      const { manifest } = await delivered(await drawing(text), '--width', '400')
      expect(manifest.posters.find(({ density }) => density === 1)).toMatchObject({
        width: 400,
        height: 250,
      })
    }
  })
  it('stays in place while the page scrolls over it, also where attachments do not', async () => {
    await openDemo('Fjord at night')
    await room('Material')
    await page.getByRole('radio', { name: /^Stays in place/ }).click()
    const top = (y: number): Promise<number> =>
      inner()
        .locator('.tln-image')
        .evaluate((each, to) => {
          document.body.style.minHeight = '3000px'
          scrollTo(0, to)
          return each.getBoundingClientRect().top
        }, y)
    expect(await top(0)).toBeCloseTo(await top(300), 0)
    await page.getByRole('button', { name: 'Undo: how the image scrolls' }).click()
    await expect.poll(async () => (await top(0)) - (await top(300))).toBeGreaterThan(200)
  })
})

describe('a paint', () => {
  it('is made without a source, and changed on the bar, on the stage and in numbers', async () => {
    await choose(/^Paint/)
    await room('Paint')
    await page.getByRole('button', { name: 'Add a stop' }).click()
    const second = page.getByRole('button', { name: /^Stop 2, .* at 50 %\. Arrow keys/ })
    await second.focus()
    await page.keyboard.press('Shift+ArrowRight')
    await page.getByRole('textbox', { name: 'Angle' }).fill('90')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: /^Angle, 90 degrees/ }).focus()
    await page.keyboard.press('Shift+ArrowDown')
    await saved()
    const { base } = await documentNow()
    expect(base).toMatchObject({
      kind: 'paint',
      gradients: [{ angleDeg: 100, stops: [{ at: 0 }, { at: 0.6 }, { at: 1 }] }],
    })
    expect(await page.getByRole('link', { name: /^Weight.*nothing to load/ }).count()).toBe(1)
    await page.reload()
    await page.getByRole('textbox', { name: 'Angle' }).waitFor()
    expect(await page.getByRole('textbox', { name: 'Angle' }).inputValue()).toBe('100')
    expect(complaints).toEqual([])
  })
  it('is drawn by Chromium as Telon measures it, at rest and on its way', async () => {
    await openDemo('Cabin light')
    const { base, scrim } = await documentNow()
    expect(base.kind).toBe('paint')
    const shown = async (progress: number) => {
      // The way at one moment, without what lies over it.
      await inner()
        .locator('.tln-paint')
        .evaluate((paint, share) => {
          const [animation] = paint.getAnimations()
          animation!.pause()
          const timing = animation!.effect!.getComputedTiming()
          animation!.currentTime = Number(timing.duration) * share
          for (const each of document.querySelectorAll<HTMLElement>(
            '.tln-header, .tln-copy, .tln-scrim, .tln-grain',
          ))
            each.style.visibility = 'hidden'
        }, progress)
      return page.locator('iframe[title^="The backdrop"]').screenshot()
    }
    expect(scrim.layers[0]!.strength).toBeGreaterThan(0)
    for (const progress of [0, 1]) {
      const picture = await shown(progress)
      const { colors, width, height } = await colorsOf(page, picture)
      const wanted = paintPixels(base as Paint, width, height, progress)
      const differences = colors.flatMap(({ at, color }) =>
        color.map((value, channel) => Math.abs(value - wanted[at * 4 + channel]!)),
      )
      expect(differences).toHaveLength(36)
      expect(Math.max(...differences), `at ${progress}`).toBeLessThanOrEqual(4)
    }
  })
  it('stands still under reduced motion, and is held where a visitor pauses it', async () => {
    const { out } = await delivered('--paint', 'linear 120deg #1b2350 #b5563c')
    expect(await readFile(join(out, 'index.html'), 'utf8')).not.toContain('<script')
    await openDemo('Cabin light')
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await expect
      .poll(() =>
        inner()
          .locator('.tln-paint')
          .evaluate((each) => each.getAnimations().length),
      )
      .toBe(0)
    await page.emulateMedia({ reducedMotion: 'no-preference' })
    await expect
      .poll(() =>
        inner()
          .locator('.tln-paint')
          .evaluate((each) => each.getAnimations().length),
      )
      .toBe(1)
  })
  it('can be saved in the project and taken again', async () => {
    await openDemo('Cabin light')
    await room('Paint')
    await page.getByLabel('Name of this paint').fill('Lamp')
    await page.getByRole('button', { name: 'Save in the project' }).click()
    await page.getByRole('button', { name: 'Delete the paint Lamp' }).waitFor()
    await choose(/^Paint/)
    await room('Paint')
    await page.getByRole('button', { name: 'Lamp', exact: true }).click()
    await saved()
    expect((await documentNow()).base).toMatchObject({
      blend: 'screen',
      gradients: [{}, { shape: 'radial' }],
    })
  })
})

describe('the base of a backdrop', () => {
  it('can be changed: what is shared stays, and undo brings the old one back', async () => {
    await openDemo('Cabin light')
    await room('Paint')
    const before = await documentNow()
    await page.getByRole('button', { name: 'Change the base …' }).click()
    await page.getByRole('radio', { name: /^Footage/ }).click()
    await page.getByRole('button', { name: 'viaduct-crossing.mp4' }).click()
    await page.getByRole('button', { name: 'Use this base' }).click()
    await page
      .getByLabel(/^Timing/)
      .or(page.getByRole('link', { name: /^Timing/ }))
      .first()
      .waitFor()
    await saved()
    const { base, ...shared } = await documentNow()
    expect(base.kind).toBe('footage')
    const { base: former, ...kept } = before
    expect(shared).toEqual(kept)
    await page.getByRole('button', { name: 'Undo: base: footage' }).click()
    await saved()
    expect((await documentNow()).base).toEqual(former)
    expect(complaints).toEqual([])
  })
})

/** Colours of a picture of the screen at twelve places, each by its pixel's number. */
async function colorsOf(on: Page, picture: Buffer) {
  return on.evaluate(async (base64) => {
    const bytes = Uint8Array.from(atob(base64), (char) => char.charCodeAt(0))
    const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }))
    const { width, height } = image
    const canvas = new OffscreenCanvas(width, height).getContext('2d')!
    canvas.drawImage(image, 0, 0)
    const colors = [0.1, 0.35, 0.6, 0.85].flatMap((across) =>
      [0.15, 0.5, 0.85].map((down) => {
        const [x, y] = [Math.floor(across * width), Math.floor(down * height)]
        const [r, g, b] = canvas.getImageData(x, y, 1, 1).data
        return { at: y * width + x, color: [r!, g!, b!] }
      }),
    )
    return { colors, width, height }
  }, picture.toString('base64'))
}
