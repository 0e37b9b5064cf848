import { mkdtemp, writeFile } from 'node:fs/promises'
import { createHash } from 'node:crypto'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { emitRegion } from '../core/handoff/emitMarkup'
import { emitBackdropStyle, emitCopyStyle } from '../core/handoff/emitStyle'
import { assembleScript } from '../core/handoff/scripts'
import { wordsOf } from '../core/kinds'
import type { DeliveredMedia } from '../core/kinds/DeliveredMedia'
import type { KnownSource, Sources } from '../core/kinds/Kind'
import { createSlideshow, slideCycle, type Slideshow } from '../core/kinds/slideshow/Slideshow'
import { slideshowSequence } from '../core/kinds/slideshow/slideshowSequence'
import {
  FIRST_TRANSITION,
  TRANSITION_STYLES,
  type Transition,
} from '../core/kinds/slideshow/transition'
import { relativeLuminance } from '../core/scrim/contrast'
import { RenderBrowser } from '../headless/RenderBrowser'
import { builtScripts } from '../runtime/testing/builtScripts'
import { complaintsOf, launchWhole, serveFolder } from './harness'
import { NO_SCRIM } from '../core/scrim/Scrim'

/* Slideshows as they are delivered: by style alone, by the script, and as frames of a clip. */

const SIZE = { width: 640, height: 360 } as const
const COLOURS = ['#a05048', '#4f9060', '#4a5a90', '#b0a060'] as const
const ID = 'slides'

let folder = ''
let site: Awaited<ReturnType<typeof serveFolder>>
let missing: (path: string) => boolean = () => false
let browser: Browser
let renderer: RenderBrowser
let known: Sources
let files: Record<string, string>
const sourceIds = COLOURS.map((_, index) => `7b1f8c1e-0000-4000-8000-00000000000${index}`)

/** An image with something in every place, so that a shift of a pixel is seen. */
const drawn = (colour: string, index: number): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="640" height="360"><rect width="640" height="360" fill="${colour}"/><circle cx="${100 + 140 * index}" cy="180" r="80" fill="#fff"/><path d="M0 ${300 - 30 * index}L640 ${200 + 30 * index}V360H0z" fill="#222"/></svg>`

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'telon-slides-'))
  files = {}
  const facts = new Map<string, KnownSource>()
  for (const [index, colour] of COLOURS.entries()) {
    const bytes = await sharp(Buffer.from(drawn(colour, index)))
      .jpeg({ quality: 96 })
      .toBuffer()
    const file = join(folder, `${index}.jpg`)
    await writeFile(file, bytes)
    const sha256 = createHash('sha256').update(bytes).digest('hex')
    files[sha256] = file
    const image = { mime: 'image/jpeg', bytes: bytes.byteLength, alpha: false }
    facts.set(sourceIds[index]!, { sha256, ...SIZE, image })
  }
  known = facts
  site = await serveFolder(folder, (path) => missing(path))
  browser = await launchWhole()
  renderer = await RenderBrowser.start()
}, 60_000)
afterAll(async () => {
  await browser.close()
  await renderer.stop()
  await site.stop()
})

const media: DeliveredMedia = {
  clips: [],
  placeholder: null,
  posters: COLOURS.map((_, slide) => ({
    screenClass: 'wide',
    density: 1,
    slide,
    format: 'jpeg',
    url: `${slide}.jpg`,
    ...SIZE,
    bytes: 9_000,
  })),
}

/** A backdrop of a slideshow with other decisions. */
function backdrop(fields: Partial<Slideshow> = {}, count = 3): BackdropDocument {
  const base = { ...createSlideshow(sourceIds.slice(0, count)), holdSeconds: 1, ...fields }
  const made = createBackdrop({
    base,
    picture: SIZE,
    scope: 'region',
    height: { unit: 'px', value: SIZE.height },
    brand: '',
  })
  return { ...made, scrim: NO_SCRIM }
}

/** Writes a page of the backdrop alone, with or without its script. */
async function write(document: BackdropDocument, withScript: boolean): Promise<void> {
  const scripts = await built
  const parts = ['slides', 'controls', 'words', 'holds', 'moving'] as const
  await writeFile(join(folder, 'style.css'), emitBackdropStyle(ID, document, media))
  await writeFile(join(folder, 'far.css'), 'body { padding-bottom: 4000px; }')
  await writeFile(
    join(folder, 'page.css'),
    // Copy would lie over what is compared.
    `body { margin: 0; } ${wordsOf(document.base).length === 0 ? '.tln-copy.tln-copy.tln-copy { display: none; }' : ''}`,
  )
  await writeFile(join(folder, 'copy.css'), emitCopyStyle(ID, document, media))
  await writeFile(join(folder, 'backdrop.js'), assembleScript(scripts, 'classic', parts))
  await writeFile(
    join(folder, 'index.html'),
    `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>x</title><link rel="icon" href="data:,"><link rel="stylesheet" href="page.css"><link rel="stylesheet" href="style.css"><link rel="stylesheet" href="copy.css">${withScript ? '<script src="backdrop.js" defer></script>' : ''}</head><body>${emitRegion(ID, document, media, 'fragment')}</body></html>`,
  )
}
const built = builtScripts()

async function opened(
  document: BackdropDocument,
  withScript: boolean,
  options: Parameters<Browser['newPage']>[0] = {},
): Promise<{ page: Page; complaints: string[] }> {
  await write(document, withScript)
  site.asked.length = 0
  const page = await browser.newPage({ viewport: SIZE, ...options })
  const complaints = complaintsOf(page)
  await page.goto(`${site.url}/index.html`)
  return { page, complaints }
}

/** Holds every animation at a time, in seconds after the page. */
const holdAt = (page: Page, seconds: number): Promise<void> =>
  page.evaluate(async (time) => {
    await Promise.all(
      [...document.images].map((image) => {
        image.loading = 'eager'
        return image.decode()
      }),
    )
    for (const animation of document.getAnimations()) {
      animation.pause()
      animation.currentTime = time * 1000
    }
  }, seconds)

async function pixelsOf(page: Page): Promise<Buffer> {
  const png = await page.screenshot({ clip: { x: 0, y: 0, ...SIZE } })
  return sharp(png).ensureAlpha().raw().toBuffer()
}

/** Mean difference of two pictures' channels, of 255. */
function difference(one: Buffer, other: Buffer): number {
  let sum = 0
  for (let at = 0; at < one.length; at++) if (at % 4 !== 3) sum += Math.abs(one[at]! - other[at]!)
  return sum / ((one.length / 4) * 3)
}

/** Which slide's colour is seen in a corner that all slides fill with theirs; −1 for none. */
async function slideShown(page: Page): Promise<number> {
  const corner = await page.screenshot({ clip: { x: 4, y: 4, width: 2, height: 2 } })
  const pixels = await sharp(corner).ensureAlpha().raw().toBuffer()
  const distance = (hex: string): number =>
    [1, 3, 5].reduce(
      (sum, at, channel) => sum + Math.abs(parseInt(hex.slice(at, at + 2), 16) - pixels[channel]!),
      0,
    )
  return COLOURS.findIndex((hex) => distance(hex) < 24)
}

const STYLES: readonly (readonly [string, Transition])[] = [
  ...TRANSITION_STYLES.map((style) => [style, { ...FIRST_TRANSITION, style, seconds: 1 }] as const),
  ['edge, hard and straight', { ...FIRST_TRANSITION, style: 'edge', seconds: 1, softness: 0 }],
  [
    'edge, hard and slanted',
    { ...FIRST_TRANSITION, style: 'edge', seconds: 1, softness: 0, angleDeg: 205 },
  ],
  ['slats upwards', { ...FIRST_TRANSITION, style: 'slats', seconds: 1, direction: 'up' }],
  [
    'columns to the right',
    { ...FIRST_TRANSITION, style: 'columns', seconds: 1, direction: 'right' },
  ],
]

describe('the cycle by style', () => {
  it.each(STYLES)('shows what frames of a clip show: %s', async (name, transition) => {
    const document = backdrop({ transition })
    const { page, complaints } = await opened(document, false)
    const base = document.base as Slideshow
    const { seconds } = slideCycle(base)
    const sequence = slideshowSequence(base, known)!
    expect(sequence.whole).toEqual(SIZE)
    const times = name === 'crossfade' ? 10 : 5
    for (let index = 0; index < times; index++) {
      // In the second cycle, in whole frames: in holds and in transitions.
      const number = Math.round(((index + 0.43) / times) * sequence.frames)
      await holdAt(page, seconds + number / 30)
      const { pixels } = await renderer.compose(
        files,
        { sequence, ...SIZE, copyBlur: null },
        number,
      )
      const apart = difference(await pixelsOf(page), pixels)
      expect(apart, `frame ${number} of ${sequence.frames}`).toBeLessThan(2)
    }
    expect(complaints).toEqual([])
    await page.close()
  })
})

/** Relative luminance (WCAG 2.2) of cells of a picture. */
async function luminances(page: Page): Promise<number[]> {
  const { data } = await sharp(await page.screenshot({ clip: { x: 0, y: 0, ...SIZE } }))
    .resize(32, 18, { kernel: 'nearest' })
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  return Array.from({ length: data.length / 3 }, (_, cell) =>
    relativeLuminance({
      r: data[cell * 3]!,
      g: data[cell * 3 + 1]!,
      b: data[cell * 3 + 2]!,
    }),
  )
}

/**
 * How often what is seen in a place turns from brighter to darker or back, by a tenth at least and
 * with a darker part below 0.8: two such turns are a flash (WCAG 2.3.1).
 */
function turnsOf(values: readonly number[]): number {
  let [low, high, way, turned] = [values[0]!, values[0]!, 0, 0]
  for (const value of values) {
    low = Math.min(low, value)
    high = Math.max(high, value)
    const now = value - low >= 0.1 && low < 0.8 ? 1 : high - value >= 0.1 && value < 0.8 ? -1 : 0
    if (now === 0 || now === way) continue
    turned++
    way = now
    low = high = value
  }
  return turned
}

describe('the brightness of a transition', () => {
  it.each(TRANSITION_STYLES)('flashes nowhere between black and white: %s', async (style) => {
    const transition = { ...FIRST_TRANSITION, style, seconds: 1, color: '#ffffff' }
    await write(backdrop({ transition }, 2), false)
    const page = await browser.newPage({ viewport: SIZE })
    for (const [name, background] of [
      ['0', '#000'],
      ['1', '#fff'],
    ] as const)
      await page.route(`**/${name}.jpg`, async (route) =>
        route.fulfill({
          contentType: 'image/png',
          body: await sharp({ create: { ...SIZE, channels: 3, background } })
            .png()
            .toBuffer(),
        }),
      )
    await page.goto(`${site.url}/index.html`)
    const seen: number[][] = []
    for (let step = 0; step <= 14; step++) {
      await holdAt(page, 0.95 + (step / 14) * 1.1)
      seen.push(await luminances(page))
    }
    const turned = seen[0]!.map((_, cell) => turnsOf(seen.map((cells) => cells[cell]!)))
    // From black to white once, each place: the colour between is never darker than both.
    expect([Math.min(...turned), Math.max(...turned)]).toEqual([1, 1])
    if (style === 'crossfade') {
      await holdAt(page, 1.5)
      const pixels = await pixelsOf(page)
      const mean = pixels.filter((_, at) => at % 4 !== 3).reduce((sum, each) => sum + each, 0)
      expect(Math.abs(mean / (pixels.length * 0.75) - 127.5)).toBeLessThan(2.55)
    }
    await page.close()
  })
})

/** The images that were asked for, each once, in their order. */
const askedImages = (): string[] => [
  ...new Set(site.asked.filter((path) => path.endsWith('.jpg')).map((path) => path.slice(1, 2))),
]

/** The slides that are seen one after another until `count` have been; mixtures are left out. */
async function turns(page: Page, count: number): Promise<number[]> {
  const seen: number[] = []
  const end = Date.now() + 15_000
  while (seen.length < count && Date.now() < end) {
    const now = await slideShown(page)
    if (now >= 0 && now !== seen.at(-1)) seen.push(now)
  }
  return seen
}

const CUT: Transition = { ...FIRST_TRANSITION, seconds: 0.3 }

describe('a slideshow without script', () => {
  it('fetches the first image alone, the next one shortly before it comes, and goes round', async () => {
    const { page } = await opened(backdrop({ transition: CUT, holdSeconds: 1.6 }), false)
    expect(await slideShown(page)).toBe(0)
    expect(askedImages()).toEqual(['0'])
    expect(await turns(page, 4)).toEqual([0, 1, 2, 0])
    expect(askedImages()).toEqual(['0', '1', '2'])
    await page.close()
  })
  it.each(['crossfade', 'through-colour'] as const)(
    'stays on the slide before where an image is missing: %s',
    async (style) => {
      missing = (path) => path === '/1.jpg'
      const { page } = await opened(backdrop({ transition: { ...CUT, style } }), false)
      // In the middle of the hold of the missing slide, and nothing else until the next one.
      await page.waitForTimeout(1800)
      expect(await slideShown(page)).toBe(0)
      expect(await turns(page, 3)).toEqual([0, 2, 0])
      missing = () => false
      await page.close()
    },
  )
  it('shows the first slide alone where motion is not wanted, or changes at once', async () => {
    const calm = { reducedMotion: 'reduce' } as const
    const document = backdrop({ transition: { ...CUT, seconds: 1 } })
    const { page } = await opened(document, false, calm)
    await page.waitForTimeout(1500)
    expect([await slideShown(page), askedImages()]).toEqual([0, ['0']])
    await page.close()
    const behaviour = { ...document.behaviour, reducedMotion: 'play' } as const
    const { page: changing } = await opened({ ...document, behaviour }, false, calm)
    await holdAt(changing, 1.9)
    expect(await slideShown(changing)).toBe(0)
    await holdAt(changing, 2.1)
    expect(await slideShown(changing)).toBe(1)
    await changing.close()
  })
  it('stands still on phones where that is chosen', async () => {
    const document = backdrop({ transition: CUT })
    const behaviour = { ...document.behaviour, phone: 'poster' } as const
    for (const withScript of [false, true]) {
      const { page } = await opened({ ...document, behaviour }, withScript)
      await page.waitForTimeout(1800)
      expect([await slideShown(page), askedImages()]).toEqual([0, ['0']])
      await page.close()
    }
  })
})

describe('a slideshow with script', () => {
  it('takes over, fetches one image ahead, and says what it does', async () => {
    const { page, complaints } = await opened(backdrop({ transition: CUT }), true)
    await page.waitForSelector('.tln-driven')
    expect(await page.locator('.tln-on').count()).toBe(1)
    const told = page.evaluate(
      () =>
        new Promise<number>((resolve) =>
          document.addEventListener('tln:slide', (event) =>
            resolve((event as CustomEvent<number>).detail),
          ),
        ),
    )
    expect(await told).toBe(1)
    expect((await turns(page, 4)).join()).toContain('1,2,0')
    expect(complaints).toEqual([])
    await page.close()
  })
  it.each([
    ['crossfade', 'opacity'],
    ['slide-over', 'transform'],
    ['circle', 'clipPath'],
  ] as const)('brings a slide in little by little: %s', async (style, property) => {
    const transition: Transition = { ...FIRST_TRANSITION, style, seconds: 3, easing: 'linear' }
    const { page } = await opened(backdrop({ transition }), true)
    const seen = await page.evaluate(
      (name) =>
        new Promise<string[]>((resolve) =>
          document.addEventListener('tln:slide', () => {
            const slide = document.querySelector('[data-tln-enter]')!
            const looks = new Set<string>()
            const look = (): void => {
              if (!slide.hasAttribute('data-tln-enter')) return resolve([...looks])
              looks.add(getComputedStyle(slide)[name])
              setTimeout(look, 100)
            }
            look()
          }),
        ),
      property,
    )
    expect(seen.length).toBeGreaterThan(5)
    await page.close()
  })
  it('animates nothing while a slide is shown', async () => {
    const { page } = await opened(backdrop({ transition: CUT, holdSeconds: 3 }), true)
    await page.waitForSelector('.tln-driven')
    expect(await page.evaluate(() => document.getAnimations().length)).toBe(0)
    await page.close()
  })
  it('leaves out a slide that has failed, without a flash', async () => {
    missing = (path) => path === '/1.jpg'
    const { page } = await opened(backdrop({ transition: { ...CUT, seconds: 0 } }), true)
    const seen: number[] = []
    const end = Date.now() + 4500
    while (Date.now() < end) seen.push(await slideShown(page))
    missing = () => false
    expect([...new Set(seen)].sort()).toEqual([0, 2])
    await page.close()
  })
  it('waits for a slide that is late, and leaves it out where it does not come', async () => {
    const { page: warm } = await opened(backdrop({ transition: CUT }), true)
    await warm.close()
    const page = await browser.newPage({ viewport: SIZE })
    let release = (): void => undefined
    const held = new Promise<void>((resolve) => (release = resolve))
    await page.route('**/1.jpg', async (route) => {
      await held
      await route.continue()
    })
    await page.goto(`${site.url}/index.html`)
    // It is due after a second; nothing else is seen meanwhile.
    await page.waitForTimeout(1800)
    expect(await slideShown(page)).toBe(0)
    expect(await turns(page, 2)).toEqual([0, 2])
    release()
    expect(await turns(page, 3)).toEqual([2, 0, 1])
    await page.close()
  })
  it('is changed by hand: markers, arrows and keys, told politely, and waits meanwhile', async () => {
    const controls = { arrows: true, markers: true, place: 'bottom-centre' } as const
    const { page, complaints } = await opened(backdrop({ transition: CUT, controls }), true)
    const group = page.getByRole('group', { name: 'Background images' })
    await group.getByRole('button', { name: 'Image 3 of 3' }).click()
    await expect.poll(() => slideShown(page)).toBe(2)
    expect(
      await group.getByRole('button', { name: 'Image 3 of 3' }).getAttribute('aria-current'),
    ).toBe('true')
    expect(await page.locator('.tln-status').textContent()).toBe('Image 3 of 3')
    // The pointer and the focus are on the controls: it does not go on by itself.
    await page.waitForTimeout(1800)
    expect(await slideShown(page)).toBe(2)
    await page.keyboard.press('ArrowLeft')
    await expect.poll(() => slideShown(page)).toBe(1)
    await group.getByRole('button', { name: 'Next image' }).click()
    await group.getByRole('button', { name: 'Next image' }).click()
    await expect.poll(() => slideShown(page)).toBe(0)
    for (const button of await group.getByRole('button').all()) {
      const box = (await button.boundingBox())!
      expect(Math.min(box.width, box.height)).toBeGreaterThanOrEqual(24)
    }
    await page.evaluate(() => (document.activeElement as HTMLElement).blur())
    await page.mouse.move(5, 5)
    expect((await turns(page, 2)).length).toBe(2)
    expect(complaints).toEqual([])
    await page.close()
  })
  it('goes on where the visitor has played it again, though the focus stays on that control', async () => {
    const controls = { arrows: true, markers: false, place: 'bottom-left' } as const
    const { page } = await opened(backdrop({ transition: CUT, controls }), true)
    await page.getByRole('button', { name: 'Pause the background' }).click()
    await page.getByRole('button', { name: 'Play the background' }).click()
    expect((await turns(page, 2)).length).toBe(2)
    await page.close()
  })
  it('goes on after a slide was asked for that is missing', async () => {
    missing = (path) => path === '/2.jpg'
    const controls = { arrows: false, markers: true, place: 'bottom-left' } as const
    const { page } = await opened(backdrop({ transition: CUT, controls }), true)
    await page.getByRole('button', { name: 'Image 3 of 3' }).click()
    await page.waitForTimeout(600)
    await page.evaluate(() => (document.activeElement as HTMLElement).blur())
    await page.mouse.move(5, 5)
    expect(await turns(page, 3)).toEqual([0, 1, 0])
    missing = () => false
    await page.close()
  })
  it('is swiped', async () => {
    const controls = { arrows: true, markers: false, place: 'bottom-left' } as const
    const decided = backdrop({ transition: CUT, controls, holdSeconds: 20 })
    const { page } = await opened(decided, true, { hasTouch: true })
    await page.waitForSelector('.tln-driven')
    const swipe = (from: number, to: number): Promise<void> =>
      page.evaluate(
        ([start, end]) => {
          const region = document.querySelector('.tln-region')!
          const at = (type: string, clientX: number): boolean =>
            region.dispatchEvent(new PointerEvent(type, { clientX, pointerType: 'touch' }))
          at('pointerdown', start)
          at('pointerup', end)
        },
        [from, to] as const,
      )
    await swipe(300, 200)
    await expect.poll(() => slideShown(page)).toBe(1)
    await swipe(200, 300)
    await expect.poll(() => slideShown(page)).toBe(0)
    await page.close()
  })
  it('shows one slide a visit, the next one each time, after the first has been painted', async () => {
    await write(backdrop({ transition: CUT, order: 'visit' }), true)
    const context = await browser.newContext({ viewport: SIZE })
    const seen: number[] = []
    for (let visit = 0; visit < 4; visit++) {
      const page = await context.newPage()
      await page.goto(`${site.url}/index.html`)
      // Paused and played again it is the same visit.
      for (const name of ['Pause the background', 'Play the background'])
        await page.evaluate(
          (label) =>
            document.querySelector<HTMLElement>(`.tln-pause[aria-label="${label}"]`)?.click(),
          name,
        )
      await page.waitForTimeout(1500)
      seen.push(await slideShown(page))
      await page.close()
    }
    expect(seen).toEqual([0, 1, 2, 0])
    await context.close()
  })
  it('shows the same slide all day', async () => {
    await write(backdrop({ transition: CUT, order: 'day' }), true)
    const seen: number[] = []
    for (const day of ['2026-03-10T08:00:00', '2026-03-10T22:00:00', '2026-03-11T08:00:00']) {
      const page = await browser.newPage({ viewport: SIZE })
      await page.clock.setFixedTime(new Date(day))
      await page.goto(`${site.url}/index.html`)
      await page.waitForTimeout(1500)
      seen.push(await slideShown(page))
      await page.close()
    }
    expect(seen[1]).toBe(seen[0])
    expect(seen[2]).toBe((seen[0]! + 1) % 3)
  })
  it('shuffles anew, shows each once a cycle and none twice in a row', async () => {
    const fast = {
      transition: { ...CUT, seconds: 0 },
      holdSeconds: 0.5,
      order: 'shuffled',
    } as const
    const { page } = await opened(backdrop(fast, 4), true)
    const told = await page.evaluate(
      () =>
        new Promise<number[]>((resolve) => {
          const seen: number[] = []
          document.addEventListener('tln:slide', (event) => {
            seen.push((event as CustomEvent<number>).detail)
            if (seen.length === 16) resolve(seen)
          })
        }),
    )
    for (const [index, slide] of told.entries()) expect(slide).not.toBe(told[index - 1])
    for (let slide = 0; slide < 4; slide++)
      expect(told.filter((each) => each === slide).length).toBeGreaterThanOrEqual(3)
    await page.close()
  })
  it('is paused by visitors, out of view and when nothing may move', async () => {
    const document = backdrop({ transition: CUT })
    const { page } = await opened(document, true)
    await page.addStyleTag({ url: 'far.css' })
    await page.evaluate(() => scrollTo(0, 3000))
    await page.waitForTimeout(2600)
    const away = await page.evaluate(() => {
      const turned: number[] = []
      window.document.addEventListener('tln:slide', () => turned.push(1))
      return new Promise<number>((resolve) => setTimeout(() => resolve(turned.length), 2600))
    })
    expect(away).toBe(0)
    await page.evaluate(() => scrollTo(0, 0))
    await page.getByRole('button', { name: 'Pause the background' }).click()
    await page.mouse.move(5, 5)
    const at = await slideShown(page)
    await page.waitForTimeout(1600)
    expect(await slideShown(page)).toBe(at)
    await page.getByRole('button', { name: 'Play the background' }).click()
    expect((await turns(page, 2)).length).toBe(2)
    await page.close()
    const { page: calm } = await opened(document, true, { reducedMotion: 'reduce' })
    await calm.waitForTimeout(1600)
    expect([await slideShown(calm), askedImages()]).toEqual([0, ['0']])
    await calm.close()
  })
})

/** A slideshow whose second slide has a heading and a button of its own. */
function withWords(fields: Partial<Slideshow> = {}): BackdropDocument {
  const document = backdrop({ transition: { ...FIRST_TRANSITION, seconds: 1 }, ...fields })
  const base = document.base as Slideshow
  const words = { heading: 'Two by two', body: '', button: { label: 'See them', href: '#two' } }
  const slides = base.slides.map((slide, index) => (index === 1 ? { ...slide, words } : slide))
  const copy = { ...document.copy, heading: 'All of them', body: 'Long '.repeat(40).trim() }
  return { ...document, base: { ...base, slides }, copy }
}

/** How much of each heading is seen, by its words; none of those that cannot be reached. */
const headingsSeen = (page: Page): Promise<Record<string, number>> =>
  page.evaluate(() =>
    Object.fromEntries(
      [...document.querySelectorAll('.tln-text')].flatMap((text) => {
        const { opacity, visibility } = getComputedStyle(text)
        const { textContent } = text.querySelector('.tln-heading')!
        return visibility === 'visible' ? [[textContent, Number(opacity)]] : []
      }),
    ),
  )
const regionHeight = async (page: Page): Promise<number> =>
  (await page.locator('.tln-region').boundingBox())!.height

/** What sites say of their own elements. */
const HOST_RULES = `.content div, body div div { display: inline; position: static; opacity: 0.7; visibility: visible; animation: none; transition: all 3s; grid-area: auto; }
.content h1, h1, h2 { opacity: 0.5; visibility: visible; } section { visibility: visible; }`

describe('words of slides', () => {
  it('change with the slides by style, never two of them well, in a region that keeps its size', async () => {
    const { page, complaints } = await opened(withWords(), false)
    const heights = new Set<number>()
    const at = async (seconds: number): Promise<Record<string, number>> => {
      await holdAt(page, seconds)
      heights.add(await regionHeight(page))
      return headingsSeen(page)
    }
    expect(await at(0.5)).toEqual({ 'All of them': 1 })
    expect(Object.values(await at(1.5)).every((seen) => seen < 0.2)).toBe(true)
    expect((await at(1.9))['Two by two']).toBeGreaterThan(0.7)
    expect(await at(2.5)).toEqual({ 'Two by two': 1 })
    expect(await slideShown(page)).toBe(1)
    expect(await at(4.5)).toEqual({ 'All of them': 1 })
    expect(await at(6.5)).toEqual({ 'All of them': 1 })
    expect(heights.size).toBe(1)
    expect(complaints).toEqual([])
    await page.close()
  })
  it('withstand a site’s own rules for its elements', async () => {
    for (const withScript of [false, true]) {
      const { page } = await opened(withWords(), withScript)
      await page.evaluate((css) => {
        const sheet = new CSSStyleSheet()
        sheet.replaceSync(css)
        document.adoptedStyleSheets = [sheet]
        document.body.classList.add('content')
      }, HOST_RULES)
      const display = await page
        .locator('.tln-texts')
        .evaluate((each) => getComputedStyle(each).display)
      expect(display).toBe('grid')
      if (!withScript) await holdAt(page, 2.5)
      else
        await page.waitForFunction(
          () => getComputedStyle(document.querySelectorAll('.tln-text')[1]!).opacity === '1',
        )
      expect(await headingsSeen(page)).toEqual({ 'Two by two': 1 })
      await page.close()
    }
  })
  it('change with the slides by script, little by little', async () => {
    const { page, complaints } = await opened(withWords({ holdSeconds: 2 }), true)
    await page.waitForSelector('.tln-told')
    expect(await headingsSeen(page)).toEqual({ 'All of them': 1 })
    await page.waitForFunction(() => {
      const [first] = document.querySelectorAll('.tln-text')
      const opacity = Number(getComputedStyle(first!).opacity)
      return opacity > 0.05 && opacity < 0.95
    })
    await page.waitForFunction(
      () => getComputedStyle(document.querySelectorAll('.tln-text')[1]!).opacity === '1',
    )
    expect(await headingsSeen(page)).toEqual({ 'Two by two': 1 })
    expect(await slideShown(page)).toBe(1)
    expect(complaints).toEqual([])
    await page.close()
  })
  it.each([false, true])(
    'stay while they are read or used, and go on afterwards; with script: %s',
    async (withScript) => {
      const { page } = await opened(withWords({ holdSeconds: 0.8 }), withScript)
      await page.waitForFunction(
        () => getComputedStyle(document.querySelectorAll('.tln-text')[1]!).opacity === '1',
      )
      await page.getByRole('heading', { name: 'Two by two' }).hover()
      await page.waitForTimeout(2500)
      expect(await headingsSeen(page)).toEqual({ 'Two by two': 1 })
      await page.getByRole('link', { name: 'See them' }).focus()
      await page.mouse.move(1, 1)
      await page.waitForTimeout(1500)
      expect(await headingsSeen(page)).toEqual({ 'Two by two': 1 })
      expect(await slideShown(page)).toBe(1)
      await page.locator('body').evaluate(() => (document.activeElement as HTMLElement).blur())
      await page.waitForFunction(
        () => getComputedStyle(document.querySelectorAll('.tln-text')[0]!).opacity === '1',
      )
      await page.close()
    },
  )
  it('are those of the first slide where nothing may move', async () => {
    const calm = { reducedMotion: 'reduce' } as const
    for (const withScript of [false, true]) {
      const { page } = await opened(withWords({ holdSeconds: 0.5 }), withScript, calm)
      await page.waitForTimeout(1600)
      expect(await headingsSeen(page)).toEqual({ 'All of them': 1 })
      await page.close()
    }
  })
  it('change at once where that is chosen', async () => {
    const document = withWords()
    const behaviour = { ...document.behaviour, reducedMotion: 'play' } as const
    const calm = { reducedMotion: 'reduce' } as const
    const { page } = await opened({ ...document, behaviour }, false, calm)
    await holdAt(page, 1.9)
    expect(await headingsSeen(page)).toEqual({ 'All of them': 1 })
    await holdAt(page, 2.1)
    expect(await headingsSeen(page)).toEqual({ 'Two by two': 1 })
    await page.close()
  })
})
