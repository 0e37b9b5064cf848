import { mkdtemp, readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import type { BackdropRecord } from '../core/api/wire'
import { manifestSchema, type Manifest } from '../core/handoff/manifest'
import type { Slideshow } from '../core/kinds/slideshow/Slideshow'
import type { TestServer } from '../server/testing/testServer'
import { CLIPS, telon } from './harness'
import { inStudio } from './inStudio'

/* Slideshows in the studio and on the command line. */

let server: TestServer
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, page, complaints } = studio))

const json = async <T>(path: string): Promise<T> =>
  (await (await fetch(server.url + path)).json()) as T
/** Opens a room; some of what is named in it is named so in the one before, too. */
async function room(name: string): Promise<void> {
  await page.getByRole('link', { name: new RegExp(`^${name}`) }).click()
  await page.getByRole('complementary', { name: `${name} bench` }).waitFor()
}
const inner = () => page.frameLocator('iframe[title^="The backdrop"]')
const deck = (name: string) => page.getByRole('region', { name: `${name} deck` })
const baseNow = async (): Promise<Slideshow> => {
  await page
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()
  const record = await json<BackdropRecord>(`/api/backdrops/${page.url().split('/')[4]}`)
  return record.document.base as Slideshow
}

async function openDemo(): Promise<void> {
  const [project] = await json<{ id: string }[]>('/api/projects')
  await page.goto(`${server.url}/projects/${project!.id}`)
  await page.getByRole('link', { name: 'Winter stops' }).click()
  await inner().locator('.tln-heading').waitFor()
}

describe('making a slideshow', () => {
  it('begins with a set, or with images in the order of the clicks', async () => {
    const [project] = await json<{ id: string }[]>('/api/projects')
    await page.goto(`${server.url}/projects/${project!.id}`)
    await page.getByRole('button', { name: 'Make a backdrop' }).nth(1).click()
    await page.getByRole('radio', { name: /^Slideshow/ }).click()
    const open = page.getByRole('button', { name: 'Open the workbench' })
    expect(await open.isDisabled()).toBe(true)
    await page.getByRole('button', { name: 'cabin-berth.jpg' }).click()
    expect(await open.isDisabled()).toBe(true)
    await page.getByRole('button', { name: /^Cabins and stops/ }).click()
    await open.click()
    await inner().locator('.tln-heading').waitFor()
    const { slides, setId } = await baseNow()
    expect([slides.length, setId !== null]).toEqual([5, true])
    expect(await page.getByRole('link', { name: /^Timing/ }).textContent()).toContain('26.0')
    await page.getByText('5 × (4.0 + 1.2) s = 26.0 s').first().waitFor()
  })
  it('begins on the shelf, with the images that are selected', async () => {
    const [project] = await json<{ id: string }[]>('/api/projects')
    await page.goto(`${server.url}/projects/${project!.id}/shelf`)
    for (const name of ['stop-lakeside.jpg', 'cabin-corridor.jpg'])
      await page.getByRole('checkbox', { name: new RegExp(name) }).check()
    await page.getByRole('button', { name: 'Make a slideshow' }).click()
    await page.getByRole('button', { name: 'Open the workbench' }).click()
    await inner().locator('.tln-heading').waitFor()
    expect((await baseNow()).slides).toHaveLength(2)
  })
})

describe('the slides', () => {
  it('are told apart, added, moved, removed, and decided one by one', async () => {
    await openDemo()
    await room('Material')
    await page.getByText('Much brighter than the others.').waitFor()
    await page.getByRole('button', { name: 'Slide 4', exact: true }).click()
    await page.getByRole('radio', { name: /^Contain/ }).click()
    await expect
      .poll(() =>
        inner()
          .locator('.tln-slide-4 .tln-poster')
          .first()
          .evaluate((each) => getComputedStyle(each).objectFit),
      )
      .toBe('contain')
    // Opacity is in the files; it is seen before they are rendered.
    const opacity = page.getByRole('slider', { name: 'Opacity over the colour' })
    await opacity.fill('0.4')
    await expect
      .poll(() =>
        inner()
          .locator('.tln-slide-4 .tln-poster')
          .first()
          .evaluate((each) => getComputedStyle(each).opacity),
      )
      .toBe('0.4')
    await page.getByRole('switch', { name: 'Its own focal point' }).click()
    const [before] = (await baseNow()).slides.slice(3)
    expect(before).toMatchObject({ placing: 'contain', focal: { focal: { x: 0.5, y: 0.5 } } })
    // By keyboard: picked up, moved up, put down.
    const grip = page.getByRole('button', { name: /^Move slide 4/ })
    await grip.focus()
    await page.keyboard.press('Space')
    await page.waitForTimeout(300)
    await page.keyboard.press('ArrowUp')
    await page.waitForTimeout(300)
    await page.keyboard.press('Space')
    await expect.poll(async () => (await baseNow()).slides[2]!.id).toBe(before!.id)
    await page.getByRole('button', { name: 'Remove slide 1' }).click()
    await page.getByRole('button', { name: 'Add slides …' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByRole('button', { name: 'first-snow.jpg' }).click()
    await dialog.getByRole('button', { name: 'Add 1' }).click()
    await expect.poll(async () => (await baseNow()).slides.length).toBe(5)
    // What has changed in the set on the shelf is offered.
    await page.getByRole('button', { name: 'Take over the set' }).click()
    const taken = await baseNow()
    expect(taken.slides.map(({ id }) => id)).toContain(before!.id)
    expect(taken.slides[0]!.placing).toBe('cover')
    expect(complaints).toEqual([])
  })
  it('are added by dropping files: images become slides, a clip goes to the shelf alone', async () => {
    await openDemo()
    await room('Material')
    const colours = ['#405068', '#684050']
    const images = await Promise.all(
      colours.map((background, index) =>
        sharp({ create: { width: 800, height: 450 + index, channels: 3, background } })
          .jpeg()
          .toBuffer(),
      ),
    )
    const clip = await readFile(join(CLIPS, 'signal-blink.gif'))
    const dropped = await page.evaluateHandle(
      (files) => {
        const transfer = new DataTransfer()
        for (const [name, type, text] of files)
          transfer.items.add(
            new File([Uint8Array.from(atob(text), (each) => each.charCodeAt(0))], name, { type }),
          )
        return transfer
      },
      [
        ...images.map((bytes, index) => [
          `dropped-${index}.jpg`,
          'image/jpeg',
          bytes.toString('base64'),
        ]),
        ['dropped.gif', 'image/gif', clip.toString('base64')],
      ] as [string, string, string][],
    )
    // Beside the slides, or on the stage, a dropped file would be opened instead of the page.
    for (const frame of page.frames())
      expect(
        await frame.evaluate(() => {
          const dataTransfer = new DataTransfer()
          dataTransfer.items.add(new File(['x'], 'x.jpg', { type: 'image/jpeg' }))
          const more = { bubbles: true, cancelable: true, dataTransfer }
          return document.body.dispatchEvent(new DragEvent('drop', more))
        }),
      ).toBe(false)
    const list = page.getByRole('list', { name: 'Slides' })
    await list.dispatchEvent('dragover', { dataTransfer: dropped })
    await page.getByText('Drop images here: they go').waitFor()
    await list.dispatchEvent('drop', { dataTransfer: dropped })
    await expect.poll(async () => (await baseNow()).slides.length).toBe(7)
    await list.getByText('dropped-0.jpg').waitFor()
    expect(await list.getByRole('listitem').last().textContent()).toContain('dropped-1.jpg')
    await page.getByText('A clip cannot be a slide. It is on the shelf.').waitFor()
    await page.getByRole('button', { name: 'Undo: add slides' }).click()
    await expect.poll(async () => (await baseNow()).slides.length).toBe(5)
    expect(complaints).toEqual([])
  })
  it('have a focal point on the stage, which becomes their own where it is moved', async () => {
    await openDemo()
    await room('Material')
    await page.getByRole('button', { name: /^Slide 2, / }).click()
    const point = page.getByRole('button', { name: /^Focal point of slide 2,/ })
    await point.waitFor()
    const from = (await point.boundingBox())!
    await page.mouse.move(from.x + 22, from.y + 22)
    await page.mouse.down()
    await page.mouse.move(from.x + 122, from.y + 22, { steps: 5 })
    await page.mouse.up()
    await expect
      .poll(async () => (await baseNow()).slides[1]!.focal?.focal.x ?? 0)
      .toBeGreaterThan(0.6)
    // One step, whatever the number of moves; the arrow keys move it on.
    await page.getByRole('button', { name: 'Undo: focal point of a slide' }).click()
    await expect.poll(async () => (await baseNow()).slides[1]!.focal).toBeNull()
    await point.focus()
    await page.keyboard.press('Shift+ArrowRight')
    await expect.poll(async () => (await baseNow()).slides[1]!.focal?.focal.x).toBe(0.6)
    // While another slide goes by, it would point at nothing.
    await page.getByRole('button', { name: 'Play the stage' }).click()
    await expect.poll(() => point.count()).toBe(0)
  })
  it('have copy of their own, which is written on the stage and beside it', async () => {
    await openDemo()
    await room('Material')
    await page.getByRole('button', { name: /^Slide 3, / }).click()
    await page.getByRole('switch', { name: 'Its own copy' }).click()
    const own = inner().locator('.tln-text').nth(1)
    await own.locator('.tln-heading').click()
    await page.keyboard.press('ControlOrMeta+A')
    await page.keyboard.type('Wake by the lake')
    await page.getByLabel('Text', { exact: true }).fill('')
    await page.getByLabel('Text', { exact: true }).press('Enter')
    // The link of its button, offered while that is written in.
    await own.locator('.tln-heading').click()
    await own.locator('.tln-button').click()
    const target = page.getByLabel('Link of the button').last()
    await page.waitForTimeout(400)
    await target.fill('/lakeside')
    await target.press('Enter')
    await expect
      .poll(async () => (await baseNow()).slides[2]!.words)
      .toEqual({
        heading: 'Wake by the lake',
        body: '',
        button: { label: 'See the stops', href: '/lakeside' },
      })
    const { document } = await json<BackdropRecord>(`/api/backdrops/${page.url().split('/')[4]}`)
    expect(document.copy.heading).toBe('Sleep through the snow line')
    // Only the words of the slide that is seen are seen.
    const seen = (): Promise<string[]> =>
      inner()
        .locator('.tln-heading')
        .evaluateAll((headings) =>
          headings
            .filter((each) => getComputedStyle(each).visibility === 'visible')
            .map((each) => each.textContent),
        )
    await expect.poll(seen).toEqual(['Wake by the lake'])
    await page.getByRole('button', { name: /^Slide 4, / }).click()
    await expect.poll(seen).toEqual(['Sleep through the snow line'])
    // What is delivered says which slides they belong to.
    await room('Handoff')
    await page.getByText('data-tln-slides="0 1 3 4"').waitFor()
    // A slide without a heading has nothing to be lost; the others are measured as before.
    await room('Material')
    await page.getByRole('button', { name: /^Slide 3, / }).click()
    await page.getByLabel('Heading', { exact: true }).fill('')
    await page.getByLabel('Heading', { exact: true }).press('Enter')
    await room('Timing')
    await page.getByRole('tab', { name: 'Legibility per slide' }).click()
    const third = page.getByRole('table', { name: 'Legibility per slide' }).getByRole('row').nth(3)
    await expect.poll(() => third.textContent()).toContain('21.00')
    await room('Material')
    await page.getByRole('switch', { name: 'Its own copy' }).click()
    await expect.poll(async () => (await baseNow()).slides[2]!.words).toBeNull()
    expect(await inner().locator('.tln-heading').count()).toBe(1)
    expect(complaints).toEqual([])
  })
})

describe('the cycle', () => {
  it('is set by hold, transition or as a whole, and each slide may have its own', async () => {
    await openDemo()
    await room('Timing')
    const cycle = page.getByLabel('Cycle', { exact: true })
    await cycle.fill('40')
    await cycle.press('Enter')
    await expect.poll(async () => (await baseNow()).holdSeconds).toBeGreaterThan(5)
    await page.getByRole('button', { name: 'Undo: length of the cycle' }).click()
    const hold = page.getByRole('slider', { name: 'Hold of slide 2' })
    await hold.focus()
    for (let press = 0; press < 5; press++) await page.keyboard.press('ArrowRight')
    await expect.poll(async () => (await baseNow()).slides[1]!.holdSeconds).toBe(4.5)
    // One step to undo, whatever the number of presses.
    await page.getByRole('button', { name: 'Undo: hold of a slide' }).click()
    await expect.poll(async () => (await baseNow()).slides[1]!.holdSeconds).toBeNull()
    const ramp = page.getByRole('slider', { name: 'Transition after slide 1 and the others' })
    const box = (await ramp.boundingBox())!
    await page.mouse.move(box.x + 5, box.y + 10)
    await page.mouse.down()
    await page.mouse.move(box.x + 40, box.y + 10, { steps: 5 })
    await page.mouse.up()
    await expect.poll(async () => (await baseNow()).transition.seconds).toBeGreaterThan(1.5)
    // A cell dragged over another one.
    const first = deck('Timing').getByRole('button', { name: /^Slide 1,/ })
    const third = deck('Timing').getByRole('button', { name: /^Slide 3,/ })
    const [from, to] = [(await first.boundingBox())!, (await third.boundingBox())!]
    const ids = (await baseNow()).slides.map(({ id }) => id)
    await page.mouse.move(from.x + 20, from.y + 40)
    await page.mouse.down()
    await page.mouse.move(to.x + to.width / 2 - 4, to.y + 40, { steps: 8 })
    await page.mouse.up()
    await expect
      .poll(async () => (await baseNow()).slides.map(({ id }) => id))
      .toEqual([ids[1], ids[2], ids[0], ids[3], ids[4]])
  })
  it('takes the stage to a slide and to a frame, and goes on from there', async () => {
    await openDemo()
    await room('Timing')
    const playhead = page.getByRole('slider', { name: 'Playhead' })
    await playhead.focus()
    await page.keyboard.press('ArrowRight')
    const value = async (): Promise<number> => Number(await playhead.getAttribute('aria-valuenow'))
    const parked = await value()
    await page.keyboard.press('Shift+ArrowRight')
    expect((await value()) - parked).toBeCloseTo(1 / 30, 1)
    // On the stage the slide that is seen is the one under the playhead.
    const seen = (): Promise<string> =>
      inner()
        .locator('.tln-slides')
        .evaluate((box) => {
          const shown = [...box.children].findLast(
            (slide) => Number(getComputedStyle(slide).opacity) > 0.5,
          )!
          return shown.className.match(/tln-slide-(\d)/)![1]!
        })
    const slide = /slide (\d) of 5/.exec((await playhead.getAttribute('aria-valuetext'))!)![1]!
    await expect.poll(seen).toBe(slide)
    await page.getByRole('button', { name: 'Play the stage' }).click()
    await expect.poll(value).toBeGreaterThan(parked + 0.3)
  })
  it('offers transitions on its own images, orders and controls, all on the stage', async () => {
    await openDemo()
    await room('Timing')
    await page.getByRole('button', { name: /^Push/ }).click()
    await expect
      .poll(() =>
        inner()
          .locator('.tln-slide-2')
          .first()
          .evaluate((slide) => {
            const [animation] = slide.getAnimations()
            return (animation!.effect as KeyframeEffect)
              .getKeyframes()
              .map((each) => each['transform'])
          }),
      )
      .toContain('translate(100%)')
    await page.getByRole('button', { name: 'Shuffled' }).click()
    // The stage goes round as the deck shows it.
    await expect
      .poll(() =>
        inner()
          .locator('.tln-slide')
          .evaluateAll((slides) =>
            slides.map((slide) => /tln-slide-(\d)/.exec(slide.className)![1]),
          ),
      )
      .toEqual(['1', '2', '3', '4', '5', '1'])
    await page.getByRole('switch', { name: 'Previous and next' }).click()
    await inner().locator('.tln-previous').waitFor()
    const { order, controls, transition } = await baseNow()
    expect([order, controls.arrows, transition.style]).toEqual(['shuffled', true, 'push'])
  })
  it('measures the heading over every slide and transition, the worst on the bar', async () => {
    await openDemo()
    await room('Timing')
    await page.getByRole('tab', { name: 'Legibility per slide' }).click()
    const table = page.getByRole('table', { name: 'Legibility per slide' })
    await table.waitFor()
    expect(await table.getByRole('row').count()).toBe(6)
    const bar = page.getByRole('link', { name: /^Legibility/ })
    await expect.poll(() => bar.textContent()).toMatch(/slide \d; needs 3/)
    const worst = Number(/(\d+\.\d)/.exec((await bar.textContent())!)![1])
    const all = (await table.textContent())!.match(/\d+\.\d\d(?= : 1)/g)!.map(Number)
    expect(worst).toBeCloseTo(Math.min(...all), 1)
  })
  it('is compared live and as a clip, and can be delivered as one', async () => {
    await openDemo()
    await room('Timing')
    await page.getByRole('tab', { name: 'Live or clip' }).click()
    await page.getByText(/^Recommended:/).waitFor()
    // Bytes are compared before anything is rendered: by the budgets.
    const compared = page.getByRole('table', { name: 'Live or clip' })
    expect((await compared.textContent())!.match(/its budget/g)).toHaveLength(3)
    await page.getByRole('button', { name: 'Deliver as a clip' }).click()
    await inner().locator('.tln-video').waitFor({ timeout: 60_000 })
    expect((await baseNow()).delivery).toBe('clip')
    await page.getByRole('button', { name: 'Undo: live or clip' }).click()
    await inner().locator('.tln-slides').waitFor()
    expect(complaints).toEqual([])
  })
})

describe('the files of slides', () => {
  it('are rendered, weighed slide by slide and visit by visit, and looked at closely', async () => {
    const [project] = await json<{ id: string }[]>('/api/projects')
    await page.goto(`${server.url}/projects/${project!.id}/shelf`)
    for (const name of ['stop-snow-line.jpg', 'cabin-corridor.jpg'])
      await page.getByRole('checkbox', { name: new RegExp(name) }).check()
    await page.getByRole('button', { name: 'Make a slideshow' }).click()
    await page.getByRole('button', { name: 'Open the workbench' }).click()
    await inner().locator('.tln-heading').waitFor()
    await room('Weight')
    for (const screen of [/^Laptop/, /^Wide/]) {
      await page.getByRole('radio', { name: screen }).click()
      await page.getByRole('switch', { name: /^Own files/ }).click()
    }
    await page.getByRole('button', { name: 'Render files' }).click()
    await page.getByText('All files are up to date').waitFor()
    await room('Timing')
    await page.getByRole('tab', { name: 'Weight per slide' }).click()
    const slides = page.getByRole('table', { name: 'Weight per slide' })
    expect(await slides.getByRole('row').count()).toBe(3)
    expect(await slides.textContent()).toContain('worst')
    await room('Weight')
    await page.getByRole('tab', { name: 'Visits' }).click()
    const visits = page.getByRole('table', { name: 'What visits download' })
    const bytes = async (name: string): Promise<number> => {
      const row = visits.getByRole('row', { name: new RegExp(`^${name}`) })
      return parseFloat((await row.getByRole('cell').nth(2).textContent())!)
    }
    expect(await bytes('Whole cycle')).toBe(await bytes('First view'))
    expect(await bytes('Data saver')).toBeLessThan(await bytes('First view'))
    await room('Timing')
    await page.getByRole('button', { name: 'Look closer at slide 2' }).click()
    await page.getByRole('slider', { name: 'Line between the image and its file' }).waitFor()
    await page.getByRole('button', { name: 'Close', exact: true }).last().click()
    await room('Weight')
    expect(complaints).toEqual([])
  })
})

/** Delivers by the command line. */
async function delivered(...args: string[]): Promise<Manifest> {
  const out = join(await mkdtemp(join(tmpdir(), 'telon-slides-')), 'out')
  const images = ['stop-snow-line.jpg', 'stop-lakeside.jpg', 'cabin-berth.jpg'].map((name) =>
    join(CLIPS, name),
  )
  const done = await telon('deliver', ...images, '--out', out, '--width', '480', ...args)
  if (done.code !== 0) throw new Error(done.err)
  return manifestSchema.parse(JSON.parse(await readFile(join(out, 'manifest.json'), 'utf8')))
}

describe('the command line', () => {
  it('delivers several images as a slideshow, within both budgets', async () => {
    const manifest = await delivered(
      ...['--hold', '3', '--transition', '0.8', '--style', 'slide-over', '--shuffle'],
      ...['--budget', '24', '--cycle-budget', '30'],
    )
    expect(manifest.base).toMatchObject({
      kind: 'slideshow',
      delivery: 'live',
      order: 'shuffled',
      cycleSeconds: 11.4,
    })
    expect(manifest.scriptParts).toEqual(['slides'])
    expect(manifest.posters.map(({ slide }) => slide)).toEqual([1, 1, 1, 2, 2, 2, 3, 3, 3])
    const page = manifest.firstVisit[0]!.pageBytes
    for (const type of ['image/avif', 'image/webp', 'image/jpeg'] as const) {
      const files = manifest.posters.filter((each) => each.type === type)
      const sum = (most: number): number =>
        files.filter(({ slide }) => slide! <= most).reduce((all, { bytes }) => all + bytes, page)
      expect(sum(2)).toBeLessThanOrEqual(24_000)
      expect(sum(3)).toBeLessThanOrEqual(30_000)
      // The worst one gets what it can: none is far better than it.
      const likeness = files.map(({ ssim }) => ssim)
      expect(Math.max(...likeness) - Math.min(...likeness)).toBeLessThan(0.08)
    }
  })
  it('renders it to a clip of its cycle', async () => {
    const manifest = await delivered(
      '--hold',
      '1',
      '--transition',
      '0.5',
      '--render',
      '--formats',
      'h264',
    )
    expect(manifest.base).toMatchObject({ kind: 'slideshow', delivery: 'clip', cycleSeconds: 4.5 })
    expect(manifest.layers.map(({ type }) => type)).toEqual(['picture', 'video', 'scrim'])
    expect(manifest.clips).toHaveLength(1)
    expect(manifest.clips[0]!.ssim).toBeGreaterThan(0.95)
  })
  it('refuses what does not fit, and says why', async () => {
    const image = join(CLIPS, 'stop-lakeside.jpg')
    const clip = join(CLIPS, 'tunnel-mouth.mp4')
    for (const [args, told] of [
      [[image, clip], /a slideshow is made of images/],
      [[image, '--hold', '3'], /--hold: only for slideshows/],
      [[image, image, '--start', '2'], /--start: only for clips/],
      [[image, image, '--shuffle', '--render'], /a clip has one order/],
      [Array.from({ length: 25 }, () => image), /at most 24/],
    ] as const) {
      const done = await telon('deliver', ...args, '--out', '/tmp/never')
      expect([done.code, told.test(done.err)], done.err).toEqual([2, true])
    }
  })
})
