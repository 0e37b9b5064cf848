import type { Page } from 'playwright-core'
import { expect, it } from 'vitest'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import type { TestServer } from '../server/testing/testServer'
import { inStudio } from './inStudio'

/* The contrast of copy over every frame, in the workbench. */

let server: TestServer
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, page, complaints } = studio))

async function open(name: string): Promise<void> {
  // What stands still leaves the machine to the measurement.
  await page.emulateMedia({ reducedMotion: 'reduce' })
  const projects = (await (await fetch(`${server.url}/api/projects`)).json()) as { id: string }[]
  await page.goto(`${server.url}/projects/${projects[0]!.id}`)
  await page.getByRole('link', { name }).click()
  await page.frameLocator('iframe[title^="The backdrop"]').locator('.tln-heading').waitFor()
  await page.getByRole('link', { name: /^Legibility/ }).click()
}
/** A line of the legend, with the worst moment on the stage's screen. */
const row = (name: string) =>
  page
    .getByRole('list', { name: 'Worst contrast of each text' })
    .getByRole('listitem')
    .filter({ hasText: new RegExp(`^${name}, needs`) })
const worstOf = async (name: string): Promise<number> =>
  parseFloat((await row(name).getByRole('button').innerText()).trim())
const measured = () =>
  expect
    .poll(() => page.getByText('click a time to see it on the stage').count(), { timeout: 90_000 })
    .toBe(1)
/** The shapes of the scrim's layers as they are saved: the next test begins with them. */
const savedLayers = async (): Promise<string[]> => {
  const id = /backdrops\/([0-9a-f-]+)/.exec(page.url())![1]!
  const answer = await fetch(`${server.url}/api/backdrops/${id}`)
  const { document } = (await answer.json()) as { document: BackdropDocument }
  return document.scrim.layers.map(({ shape }) => shape)
}
/** What the bench tells of the frame on the stage. */
const present = async (): Promise<number> =>
  parseFloat(await page.getByRole('status').filter({ hasText: ': 1' }).first().innerText())

it.each([
  ['Dusk window', 'footage'],
  ['Galley fire', 'an image under particles'],
  ['Winter stops', 'slides one by one'],
  ['Fjord at night', 'an image that is panned'],
  ['Cabin light', 'colours that move'],
])('is told for every text with its worst moment, where the stage agrees: %s, %s', async (name) => {
  await open(name)
  await measured()
  for (const each of ['Brand', 'Links', 'Heading', 'Text', 'Button label', 'Button'])
    expect(await row(each).count(), each).toBe(1)
  const worst = await worstOf('Heading')
  // Slides that stand still cannot be taken anywhere.
  await page.emulateMedia({ reducedMotion: 'no-preference' })
  await row('Heading').getByRole('button').click()
  await page.locator('[data-mark]').waitFor()
  await expect
    .poll(async () => Math.abs((await present()) / worst - 1), { timeout: 20_000 })
    .toBeLessThan(0.05)
  expect(complaints).toEqual([])
})

it('is told for every screen in a table, which takes the stage there', async () => {
  await open('Dusk window')
  await measured()
  await page.getByRole('tab', { name: 'Text × screen' }).click()
  const table = page.getByRole('table', { name: 'Worst contrast by text and screen' })
  expect(await table.getByRole('columnheader').allInnerTexts()).toEqual([
    'What',
    'Phone',
    'Tablet',
    'Laptop',
    'Wide',
  ])
  // The moon passes behind the heading of a phone only.
  const cell = table.getByRole('button', { name: /^Heading, phone: 2\.\d+ to 1/ })
  await cell.click()
  await page.locator('iframe[title="The backdrop on a phone screen"]').waitFor()
  await page.locator('[data-mark]').waitFor()
  expect(await page.getByRole('link', { name: /^Legibility/ }).innerText()).toMatch(/tablet|phone/)
  await page.getByRole('link', { name: /^Handoff/ }).click()
  await page.getByText(/Cannot be read everywhere:/).waitFor()
  await page.getByRole('link', { name: 'Show it under Legibility' }).click()
  await page.getByRole('tab', { name: 'Over time' }).waitFor()
})

it('takes the stage to a time that is clicked, and is remembered without decoding again', async () => {
  await open('Dusk window')
  await measured()
  await page
    .locator('.recharts-surface')
    .first()
    .click({ position: { x: 300, y: 50 } })
  await page.locator('[data-mark]').waitFor()
  await page.reload()
  const read: string[] = []
  const watch = setInterval(() => {
    void page
      .getByText(/^Reading every frame once, \d+/)
      .allInnerTexts()
      .then(
        (texts) => read.push(...texts),
        () => undefined,
      )
  }, 50)
  await measured()
  clearInterval(watch)
  expect(read).toEqual([])
})

it('follows what the copy lies on, and its colour', async () => {
  await open('Galley fire')
  await measured()
  const before = await worstOf('Text')
  await page.getByRole('slider', { name: 'Strength', exact: true }).fill('0')
  await expect.poll(() => worstOf('Text'), { timeout: 30_000 }).toBeLessThan(before * 0.9)
  await measured()
  expect(await row('Text').innerText()).toContain('needs 4.5')
})

it('follows the layers of a scrim, which are shaped on the bench and on the stage', async () => {
  await open('Dusk window')
  await measured()
  const before = await worstOf('Heading')
  const scrim = (): Promise<string> =>
    page
      .frameLocator('iframe[title^="The backdrop"]')
      .locator('.tln-region')
      .evaluate((region) => getComputedStyle(region).getPropertyValue('--tln-scrim'))
  const first = await scrim()
  await page.getByRole('button', { name: 'Add a layer' }).click()
  const layers = page.getByRole('list', { name: 'Layers, the front one first' })
  expect(await layers.getByRole('button').allInnerTexts()).toEqual(['Even\n35 %', 'Linear\n55 %'])
  await page.getByRole('radio', { name: 'Radial' }).click()
  await page.getByRole('slider', { name: 'Strength', exact: true }).fill('0.9')
  const centre = page.getByRole('button', { name: /^Centre, \d+ % across/ })
  for (let turn = 0; turn < 2; turn++) await centre.press('Shift+ArrowLeft')
  await page.getByRole('button', { name: /^Stop 1 on the stage, 0 %/ }).press('Shift+ArrowRight')
  await expect
    .poll(scrim)
    .toContain(
      'radial-gradient(80% 80% at 30% 50%, rgb(20 16 31 / 0.9) 10%, rgb(20 16 31 / 0) 100%), linear',
    )
  await expect.poll(() => worstOf('Heading'), { timeout: 30_000 }).toBeGreaterThan(before * 1.3)
  await page.getByRole('button', { name: 'Add a stop' }).click()
  expect(await page.getByRole('group', { name: 'Stops' }).getByRole('button').count()).toBe(5)
  await page.getByRole('button', { name: 'Move this layer back' }).click()
  expect(await layers.getByRole('button').allInnerTexts()).toEqual(['Linear\n55 %', 'Radial\n90 %'])
  await page.getByRole('button', { name: 'Remove this layer' }).click()
  await expect.poll(scrim).toBe(first)
  await page.getByRole('button', { name: 'Remove this layer' }).click()
  await page.getByText('Nothing lies between background and copy.').waitFor()
  await expect.poll(scrim).toBe('none')
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect.poll(scrim).toBe(first)
  await expect.poll(savedLayers, { timeout: 10_000 }).toEqual(['linear'])
  expect(complaints).toEqual([])
})

it('finds the weakest strength of a layer, below which some copy is not read', async () => {
  await open('Dusk window')
  await measured()
  await page.getByRole('button', { name: 'Find the weakest strength' }).click()
  // The gradient that is there is almost nothing at its other end.
  await page.getByText(/No strength of this layer is enough: [a-z ]+ \(\w+\) stays at /).waitFor()
  await page.getByRole('radio', { name: 'Even' }).click()
  await measured()
  await page.getByRole('button', { name: 'Find the weakest strength' }).click()
  const told = page.getByText(/^At \d+ % all copy that lies on it is read/)
  await told.waitFor({ timeout: 90_000 })
  const found = Number(/\d+/.exec(await told.innerText())![0])
  await page.getByRole('button', { name: `Use ${found} %` }).click()
  const legibility = page.getByRole('link', { name: /^Legibility/ })
  const standing = legibility.getByRole('img')
  await measured()
  await expect.poll(() => standing.getAttribute('aria-label')).toBe('settled')
  await page.getByRole('slider', { name: 'Strength', exact: true }).fill(String((found - 2) / 100))
  await expect.poll(() => standing.getAttribute('aria-label'), { timeout: 30_000 }).toBe('must fix')
  // Once more it is stopped.
  await page.getByRole('button', { name: 'Find the weakest strength' }).click()
  await page.getByRole('button', { name: /Stop$/ }).click()
  await page.getByRole('button', { name: 'Find the weakest strength' }).waitFor()
  for (let step = 0; step < 3; step++) await page.getByRole('button', { name: /^Undo/ }).click()
  await page.getByRole('radio', { checked: true, name: 'Linear' }).waitFor()
  await expect.poll(savedLayers, { timeout: 10_000 }).toEqual(['linear'])
  expect(complaints).toEqual([])
})

it('blends a layer of the scrim with what is behind it, while the clip plays on', async () => {
  await open('Dusk window')
  await measured()
  const inner = page.frameLocator('iframe[title^="The backdrop"]')
  const played = (): Promise<number> =>
    inner.locator('video').evaluate((video: HTMLVideoElement) => {
      const kept = video as HTMLVideoElement & { kept?: number }
      kept.kept = (kept.kept ?? 0) + 1
      return kept.kept
    })
  await played()
  await page.getByRole('button', { name: 'Blend mode: Normal' }).click()
  const option = page.getByRole('option', { name: /^Multiply/ })
  expect(await option.innerText()).toMatch(/CPU \d\.\d/)
  await option.click()
  await page.getByRole('button', { name: 'Blend mode: Multiply' }).waitFor()
  const blends = (): Promise<string[]> =>
    inner
      .locator('.tln-scrim')
      .evaluateAll((all) => all.map((each) => getComputedStyle(each).mixBlendMode))
  expect(await blends()).toEqual(['multiply'])
  await page.getByRole('button', { name: 'Add a layer' }).click()
  await expect.poll(blends).toEqual(['multiply', 'normal'])
  // It is the same element: nothing was loaded anew.
  expect(await played()).toBe(2)
  await measured()
  for (let step = 0; step < 2; step++) await page.getByRole('button', { name: /^Undo/ }).click()
  await expect.poll(blends).toEqual(['normal'])
  await expect.poll(savedLayers, { timeout: 10_000 }).toEqual(['linear'])
  expect(complaints).toEqual([])
})

it('has another scrim on phones, which is edited where the stage shows a phone', async () => {
  await open('Dusk window')
  await measured()
  const shown = (): Promise<string> =>
    page
      .frameLocator('iframe[title^="The backdrop"]')
      .locator('.tln-scrim')
      .evaluate((element) => getComputedStyle(element).backgroundImage)
  const onLaptops = await shown()
  const [phone, laptop] = [/^Heading, phone: ([\d.]+)/, /^Heading, laptop: ([\d.]+)/]
  await page.getByRole('tab', { name: 'Text × screen' }).click()
  const told = async (cell: RegExp): Promise<number> => {
    const found = page.getByRole('button', { name: cell })
    return Number(cell.exec((await found.getAttribute('aria-label'))!)![1])
  }
  const [phoneBefore, laptopBefore] = [await told(phone), await told(laptop)]
  await page.getByRole('switch', { name: 'Own scrim on phones' }).click()
  await page.getByRole('radio', { name: 'On phones' }).click()
  await page.locator('iframe[title="The backdrop on a phone screen"]').waitFor()
  await page.getByRole('button', { name: 'Remove this layer' }).click()
  await expect.poll(shown).toBe('none')
  await page.getByRole('radio', { name: 'On wider screens' }).click()
  await page.locator('iframe[title="The backdrop on a laptop screen"]').waitFor()
  await expect.poll(shown).toBe(onLaptops)
  await expect.poll(() => told(phone), { timeout: 60_000 }).toBeLessThan(phoneBefore - 0.1)
  expect(await told(laptop)).toBe(laptopBefore)
  for (let step = 0; step < 2; step++) await page.getByRole('button', { name: /^Undo/ }).click()
  await expect.poll(() => told(phone), { timeout: 60_000 }).toBe(phoneBefore)
  await page.getByRole('tab', { name: 'Over time' }).click()
  await page.getByText(/^Saved/).waitFor()
  expect(complaints).toEqual([])
})

it('finds remedies, the gentlest first, which hold on all screens and are undone in one step', async () => {
  await open('Cabin light')
  await measured()
  const legibility = page.getByRole('link', { name: /^Legibility/ })
  const standing = (): Promise<string | null> =>
    legibility.getByRole('img').getAttribute('aria-label')
  await page.getByText('All copy can be read. Nothing has to be changed.').waitFor()
  await page.getByRole('button', { name: 'Remove this layer' }).click()
  await expect.poll(standing, { timeout: 30_000 }).toBe('must fix')
  const find = page.getByRole('button', { name: 'Find remedies' })
  await find.click()
  await page.getByRole('button', { name: /Stop$/ }).click()
  await find.click()
  await find.waitFor({ timeout: 120_000 })
  const remedies = page.getByRole('list', { name: 'Remedies' })
  const told = await remedies.getByRole('listitem').allInnerTexts()
  const costs = told.map((text) => Number(/ΔE ([\d.]+)/.exec(text)?.[1] ?? 0))
  expect(costs.length).toBeGreaterThanOrEqual(3)
  expect(costs).toEqual([...costs].sort((one, other) => one - other))
  // What lies behind the copy alone takes less than what lies over everything.
  expect(told.at(-1)).toMatch(/^An even layer/)
  const band = told.find((text) => text.startsWith('A band'))!
  await page.getByRole('button', { name: /^Apply: A band/ }).click()
  await measured()
  await expect.poll(standing, { timeout: 30_000 }).toBe('settled')
  const promised = Number(/least ([\d.]+) : 1/.exec(band)![1])
  const least = parseFloat((await legibility.innerText()).split('\n')[1]!)
  expect(Math.abs(least / promised - 1)).toBeLessThan(0.03)
  await page.getByText('All copy can be read. Nothing has to be changed.').waitFor()
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect.poll(standing, { timeout: 30_000 }).toBe('must fix')
  expect(complaints).toEqual([])
})

it('finds better positions for the copy, which are taken and undone in one step each', async () => {
  await open('Dusk window')
  await measured()
  await page.getByRole('radio', { name: 'Whole loop' }).click()
  await expect.poll(() => page.locator('[data-failing]').getAttribute('data-failing')).not.toBe('0')
  await page.getByRole('button', { name: 'Find the best positions' }).click()
  await page.getByRole('list', { name: 'Best positions' }).waitFor()
  await page.getByRole('button', { name: /^Use (it|them)$/ }).click()
  await expect
    .poll(() => page.getByRole('radio', { checked: true, name: /bottom|top/ }).count())
    .toBe(1)
  await measured()
  const legibility = page.getByRole('link', { name: /^Legibility/ })
  expect(parseFloat((await legibility.innerText()).split('\n')[1]!)).toBeGreaterThan(3)
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect
    .poll(() => page.getByRole('radio', { checked: true, name: 'middle, start' }).count())
    .toBe(1)
  // By keys on the stage, for the screens of its class only.
  const top = async (): Promise<number> =>
    (await page
      .frameLocator('iframe[title^="The backdrop"]')
      .locator('.tln-heading')
      .boundingBox())!.y
  const middle = await top()
  await page.getByRole('button', { name: 'Position of the copy' }).press('ArrowUp')
  await page.getByRole('radio', { checked: true, name: 'top, start' }).waitFor()
  await expect.poll(top).toBeLessThan(middle - 20)
  await page.getByRole('button', { name: 'Wide, 1920 by 1080' }).click()
  await page.getByRole('radio', { checked: true, name: 'middle, start' }).waitFor()
})

it('can be tried again where frames could not be read, and goes on where it was left', async () => {
  const gone = '**/media/**'
  await page.route(gone, (route) => route.abort())
  await open('Dusk window').catch(() => undefined)
  await page.getByRole('link', { name: /^Legibility/ }).click()
  await page.getByText('The clip could not be read.').first().waitFor()
  // The stage may say so before the measurement has begun.
  await page.getByRole('button', { name: 'Measure again' }).waitFor()
  await page.unroute(gone)
  await page.getByRole('button', { name: 'Measure again' }).click()
  // Left in the middle.
  await page.getByText(/^(Measuring …|Reading every frame once)/).waitFor()
  await page.getByRole('link', { name: /^Fit/ }).click()
  await page.getByRole('link', { name: /^Legibility/ }).click()
  await measured()
  expect(await worstOf('Heading')).toBeGreaterThan(1)
})

it('has further parts that are written on the stage, measured, and kept', async () => {
  await open('Galley fire')
  const inner = page.frameLocator('iframe[title^="The backdrop"]')
  for (const name of ['Rule', 'Second button', 'Link onward', 'Footer'])
    await page.getByRole('switch', { name }).click()
  for (const _ of [0, 1]) await page.getByRole('button', { name: 'Add a text' }).click()
  await inner.getByRole('textbox', { name: 'Further text, editable' }).first().fill('Open late')
  await inner.getByRole('textbox', { name: 'Further text, editable' }).nth(1).fill('All year')
  await inner.getByRole('textbox', { name: 'Second button, editable' }).fill('Book a table')
  await page.getByRole('textbox', { name: 'Where it leads: second button' }).fill('javascript:1')
  await page.getByRole('textbox', { name: 'Where it leads: second button' }).press('Enter')
  await page.getByText('Start with #, / or https://.').waitFor()
  await page.getByRole('textbox', { name: 'Where it leads: second button' }).fill('/tables')
  await page.getByRole('textbox', { name: 'Where it leads: second button' }).press('Enter')
  await measured()
  for (const each of ['Second button', 'Link onward', 'Footer'])
    expect(await row(each).count(), each).toBe(1)
  // Nothing lies upon anything else, on a phone either.
  await page.getByRole('button', { name: 'Phone, 390 by 844' }).click()
  await inner.locator('.tln-second').waitFor()
  const boxes = await Promise.all(
    [
      '.tln-heading',
      '.tln-rule',
      '.tln-button >> nth=0',
      '.tln-second',
      '.tln-onward',
      '.tln-footer',
      '.tln-pause',
    ].map(async (selector) => (await inner.locator(selector).boundingBox())!),
  )
  for (const [index, one] of boxes.entries())
    for (const other of boxes.slice(index + 1))
      expect(
        one.x + one.width <= other.x + 1 ||
          other.x + other.width <= one.x + 1 ||
          one.y + one.height <= other.y + 1 ||
          other.y + other.height <= one.y + 1,
        JSON.stringify([one, other]),
      ).toBe(true)
  await expect.poll(() => page.getByText(/^Saved/).count()).toBe(1)
  await page.reload()
  await inner.locator('.tln-second').waitFor()
  expect(await inner.locator('.tln-body').allInnerTexts()).toEqual([
    expect.any(String),
    'Open late',
    'All year',
  ])
  expect(await inner.locator('.tln-second').innerText()).toBe('Book a table')
  expect(complaints).toEqual([])
})

it('is measured for very short and very long words, which are neither written in nor kept', async () => {
  await open('Galley fire')
  const inner = page.frameLocator('iframe[title^="The backdrop"]')
  const heading = inner.locator('.tln-heading')
  const own = await heading.innerText()
  const undo = page.getByRole('button', { name: /^(Undo|Nothing to undo)/ })
  const last = await undo.getAttribute('aria-label')
  await page.getByRole('radio', { name: 'Very long' }).click()
  await expect.poll(async () => (await heading.innerText()).length).toBeGreaterThan(own.length + 30)
  expect(await heading.getAttribute('contenteditable')).toBeNull()
  await measured()
  const long = await worstOf('Text')
  await page.getByRole('radio', { name: 'Very short' }).click()
  await expect.poll(async () => (await heading.innerText()).length).toBeLessThan(own.length)
  await expect.poll(() => worstOf('Text'), { timeout: 30_000 }).not.toBe(long)
  await page.getByRole('link', { name: /^Fit/ }).click()
  await expect.poll(() => heading.innerText()).toBe(own)
  expect(await heading.getAttribute('contenteditable')).toBe('plaintext-only')
  expect(await undo.getAttribute('aria-label')).toBe(last)
})

it('is that of the poster alone on phones that show nothing else', async () => {
  await open('Winter stops')
  await page.getByRole('link', { name: /^Behaviour/ }).click()
  await page
    .getByRole('radiogroup', { name: /^Phones/ })
    .getByRole('radio')
    .last()
    .click()
  await page.getByRole('link', { name: /^Legibility/ }).click()
  await measured()
  await page.getByRole('tab', { name: 'Text × screen' }).click()
  // The bright fourth slide never comes there: on other screens it is the worst.
  const cell = page.getByRole('button', { name: /^Heading, phone: / })
  const [, ratio, seconds] = /: ([\d.]+) to 1 at ([\d.]+) s/.exec(
    (await cell.getAttribute('aria-label'))!,
  )!
  expect(Number(ratio)).toBeGreaterThan(4)
  expect(Number(seconds)).toBe(0)
})
