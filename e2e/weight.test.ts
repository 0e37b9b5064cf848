import { asFootage } from '../core/testing/samples'
import { AxeBuilder } from '@axe-core/playwright'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BrowserContext, Locator, Page, Request } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import type { BackdropRecord, SourceCard } from '../core/api/wire'
import { copyBox } from '../core/copy/copyBox'
import { SCREENS } from '../core/fit/screens'
import { createPaint } from '../core/kinds/paint/Paint'
import { FAMILIES, type Family } from '../core/weight/families'
import type { TestServer } from '../server/testing/testServer'
import { CLIPS, telon } from './harness'
import { inStudio } from './inStudio'

/*
 * Weight, driven as a designer does: ladder, budgets, files, the closer look, the first load,
 * advice.
 */

let server: TestServer
let context: BrowserContext
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, context, page, complaints } = studio))

const saved = () =>
  page
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()
const json = async <T>(path: string, init?: RequestInit): Promise<T> => {
  const answer = await fetch(`${server.url}${path}`, {
    headers: { 'Content-Type': 'application/json', Origin: server.url },
    ...init,
  })
  return (answer.status === 204 ? null : await answer.json()) as T
}
const make = (on: Page = page) =>
  on.getByRole('button', { name: /^Render (files|\d+ missing files)$/ })
const rows = () => page.getByRole('table', { name: 'Renditions' }).locator('tbody tr')
const screen = (name: string) =>
  page
    .getByRole('radio', { name: new RegExp(`^${name}`) })
    .first()
    .click()
/** A switch keeps its input out of sight: it is found by its name. */
const format = (name: string) => page.getByRole('switch', { name, exact: true })

/**
 * A new backdrop of one second of a small clip, at Weight; `families` are the formats that its
 * rows begin with.
 */
async function openSmall(
  seconds = 1,
  families: readonly Family[] = FAMILIES,
): Promise<BackdropRecord> {
  const [project] = await json<{ id: string }[]>('/api/projects')
  const { pages } = await json<{ pages: { spots: { id: string }[] }[] }>(
    `/api/projects/${project!.id}`,
  )
  const { sources } = await json<{ sources: SourceCard[] }>(
    `/api/projects/${project!.id}/sources?search=viaduct-crossing`,
  )
  const made = await json<BackdropRecord>(`/api/spots/${pages[0]!.spots[1]!.id}/backdrops`, {
    method: 'POST',
    body: JSON.stringify({ name: 'Trial', sourceId: sources[0]!.id }),
  })
  const { base } = asFootage(made.document)
  const { timescale } = base.timing.cut
  const { renditions } = made.document.weight
  const formats = { av1: families.includes('av1'), vp9: families.includes('vp9'), h264: true }
  const document = {
    ...made.document,
    base: {
      ...base,
      timing: {
        ...base.timing,
        cut: { timescale, start: timescale, end: (1 + seconds) * timescale },
      },
    },
    weight: {
      ...made.document.weight,
      renditions: {
        phone: { ...renditions.phone, formats },
        laptop: { ...renditions.laptop, formats },
        wide: { ...renditions.wide, formats },
      },
    },
  }
  await json(`/api/backdrops/${made.id}`, {
    method: 'PUT',
    body: JSON.stringify({
      baseRevision: made.revision,
      saveId: crypto.randomUUID(),
      label: 'cut',
      document,
      history: made.history,
    }),
  })
  await page.goto(`${server.url}/backdrops/${made.id}/weight`)
  await rows().first().waitFor()
  return made
}

const documentOf = async (id: string) =>
  (await json<BackdropRecord>(`/api/backdrops/${id}`)).document

describe('renditions', () => {
  it('has a row for each screen, which can be switched, edited and locked, each step undone', async () => {
    const { id } = await openSmall()
    await screen('Phone')
    await page.getByLabel('First visit').fill('120')
    await page.keyboard.press('Enter')
    await format('VP9').click()
    await saved()
    expect((await documentOf(id)).weight.renditions.phone).toMatchObject({
      budgetBytes: 120_000,
      formats: { av1: true, vp9: false, h264: true },
    })
    await page.getByRole('button', { name: 'Lock this row' }).click()
    await page.getByText('Locked. Unlock the row to change it.').waitFor()
    expect(await page.getByLabel('Width').isDisabled()).toBe(true)
    await page.getByRole('button', { name: 'Unlock this row' }).click()
    await page.getByRole('button', { name: 'Undo: unlock a row' }).click()
    await page.getByRole('button', { name: 'Undo: lock a row' }).click()
    await page.getByRole('button', { name: 'Undo: formats' }).click()
    await page.getByRole('button', { name: 'Undo: byte budget' }).click()
    await saved()
    expect((await documentOf(id)).weight.renditions.phone).toMatchObject({
      budgetBytes: 1_000_000,
      formats: { av1: true, vp9: true, h264: true },
      locked: false,
    })
    expect(complaints).toEqual([])
  })
  it('states which engines play a format, by its dated table, and keeps one row that all play', async () => {
    const { id } = await openSmall()
    await page
      .getByText(/Blink, Gecko, WebKit in part \(table of 2026-11-23\)/)
      .first()
      .waitFor()
    for (const name of ['Phone', 'Wide']) {
      await screen(name)
      await format('H.264').click()
      await page
        .getByText('Browsers that play none of these take Laptop’s H.264; a first visit counts it.')
        .waitFor()
    }
    await screen('Laptop')
    await page
      .getByText('Required for at least one screen, because every browser plays it.')
      .waitFor()
    await format('H.264').click()
    expect(await format('H.264').getAttribute('aria-checked')).toBe('true')
    await saved()
    expect(
      Object.values((await documentOf(id)).weight.renditions).map(({ formats }) => formats.h264),
    ).toEqual([false, true, false])
  })
  it('takes the project’s windows where it has others', async () => {
    const { id, project } = await openSmall()
    const settings = await json<{ breakpoints: object }>(`/api/projects/${project.id}/settings`)
    await json(`/api/projects/${project.id}/settings`, {
      method: 'PATCH',
      body: JSON.stringify({ breakpoints: { phone: 700, laptop: 1500 } }),
    })
    await page.reload()
    await page
      .getByText('Screens of the project: phones up to 700 px, laptops up to 1500 px.')
      .waitFor()
    await page.getByRole('button', { name: 'Use them' }).click()
    await page.getByText('to 700 px').waitFor()
    await saved()
    expect((await documentOf(id)).weight.breakpoints).toEqual({ phone: 700, laptop: 1500 })
    await json(`/api/projects/${project.id}/settings`, {
      method: 'PATCH',
      body: JSON.stringify({ breakpoints: settings.breakpoints }),
    })
  })
  it('can be worked on in a narrow window: nothing runs out of it', async () => {
    await page.setViewportSize({ width: 420, height: 900 })
    await openSmall()
    await page.getByRole('figure', { name: /^Quality against bytes/ }).scrollIntoViewIfNeeded()
    for (const tab of ['Bytes over the loop', 'First load', 'Files and quality']) {
      await page.getByRole('tab', { name: tab }).click()
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(
        420,
      )
    }
    // The bar of readouts does run out of it, but the open one is in view.
    const readout = await page
      .getByRole('navigation', { name: 'Balance' })
      .getByRole('link', { name: /^Weight/ })
      .boundingBox()
    expect(readout!.x).toBeGreaterThanOrEqual(0)
    expect(readout!.x + readout!.width).toBeLessThanOrEqual(421)
  })
  it('keeps what the project has, however late that comes and whoever else changes it', async () => {
    const [project] = await json<{ id: string }[]>('/api/projects')
    const path = `/api/projects/${project!.id}/settings`
    const budgets = { phone: 700_000, laptop: 2_400_000, wide: 3_900_000 }
    const change = (body: object) => json(path, { method: 'PATCH', body: JSON.stringify(body) })
    const { budgets: before } = await json<{ budgets: object }>(path)
    await change({ budgets })
    let answer = (): void => undefined
    const late = new Promise<void>((resolve) => (answer = resolve))
    await page.route(`**${path}`, async (route) => {
      if (route.request().method() === 'GET') await late
      await route.continue()
    })
    await page.goto(`${server.url}/projects/${project!.id}`)
    await page.getByRole('button', { name: 'Budgets and browsers' }).click()
    expect(await page.getByRole('button', { name: 'Keep' }).isDisabled()).toBe(true)
    answer()
    const phone = page.getByLabel('Phone budget')
    await expect.poll(() => phone.inputValue()).toBe('700')
    // Another tab saves a paint meanwhile.
    const paint = { name: 'Dusk', paint: createPaint() }
    await change({ savePaint: paint })
    await phone.fill('650')
    await page.keyboard.press('Tab')
    await page.getByRole('button', { name: 'Keep' }).click()
    await page.getByRole('dialog').waitFor({ state: 'detached' })
    const kept = await json<{ budgets: object; paints: object[] }>(path)
    expect(kept.budgets).toEqual({ ...budgets, phone: 650_000 })
    expect(kept.paints).toEqual([paint])
    await page.unroute(`**${path}`)
    await change({ budgets: before, deletePaint: 'Dusk' })
  })
  it('begins with what the project decides', async () => {
    const [project] = await json<{ id: string }[]>('/api/projects')
    await page.goto(`${server.url}/projects/${project!.id}`)
    await page.getByRole('button', { name: 'Budgets and browsers' }).click()
    await page.getByLabel('Laptop budget').fill('2000')
    await page.keyboard.press('Tab')
    for (const [field, value] of [
      ['Optimise for width', '800'],
      ['Height', '500'],
      ['Density', '0.5'],
    ] as const) {
      await page
        .getByRole('group', { name: 'Laptop: files are made for' })
        .getByLabel(field)
        .fill(value)
      await page.keyboard.press('Tab')
    }
    await page.getByRole('textbox', { name: /^Formats that browser engines/ }).fill('{ "date": 1 }')
    await page.getByRole('button', { name: 'Keep' }).click()
    await page.getByRole('alert').filter({ hasText: 'support.date' }).waitFor()
    await page.getByRole('button', { name: 'Telon’s own table' }).click()
    await page.getByRole('button', { name: 'Keep' }).click()
    await page.getByRole('dialog').waitFor({ state: 'detached' })
    const { id } = await openSmall()
    const { laptop, wide } = (await documentOf(id)).weight.renditions
    expect(laptop.budgetBytes).toBe(2_000_000)
    expect(laptop.width).toBeLessThan(wide.width)
  })
})

describe('the ground behind the copy', () => {
  it('is where the words stand: the estimate holds the real ones, on every screen', async () => {
    const { id } = await openSmall()
    const { copy, fit } = await documentOf(id)
    for (const [name, window] of [
      ['Phone', SCREENS.phone],
      ['Laptop', SCREENS.laptop],
      ['Wide', SCREENS.wide],
    ] as const) {
      await page
        .getByRole('region', { name: 'Stage' })
        .getByRole('button', { name: new RegExp(name) })
        .click()
      const inner = page.frameLocator('iframe[title^="The backdrop"]')
      await inner.locator('.tln-heading').waitFor()
      await expect.poll(() => inner.locator('body').evaluate(() => innerWidth)).toBe(window.width)
      const real = await inner.locator('.tln-region').evaluate((region) => {
        const bounds = region.getBoundingClientRect()
        const boxes = [...region.querySelectorAll('.tln-heading, .tln-body, .tln-button')].map(
          (element) => {
            const range = document.createRange()
            range.selectNodeContents(element)
            return range.getBoundingClientRect()
          },
        )
        const edge = (
          side: 'left' | 'top' | 'right' | 'bottom',
          pick: (...values: number[]) => number,
        ): number => pick(...boxes.map((box) => box[side]))
        return {
          left: edge('left', Math.min) / bounds.width,
          right: edge('right', Math.max) / bounds.width,
          top: (edge('top', Math.min) - bounds.top) / bounds.height,
          bottom: (edge('bottom', Math.max) - bounds.top) / bounds.height,
        }
      })
      const told = copyBox(copy, fit.height, window)
      for (const [a, b] of [
        [told.x, real.left],
        [told.x + told.width, real.right],
        [told.y, real.top],
        [told.y + told.height, real.bottom],
      ] as const)
        expect(
          Math.abs(a - b),
          `${name}: told ${JSON.stringify(told)}, is ${JSON.stringify(real)}`,
        ).toBeLessThan(0.12)
    }
  })
  it('is blurred in the files of one screen, which the stage then plays there, and costs fewer bytes', async () => {
    const { id } = await openSmall(1.2, ['vp9', 'h264'])
    const bytes = async (): Promise<number[]> =>
      (await rows().filter({ hasText: 'Phone' }).locator('td:nth-child(4)').allTextContents()).map(
        (text) => Number(/[\d.]+/.exec(text)![0]),
      )
    await make().click()
    await page.getByText('All files are up to date').waitFor({ timeout: 120_000 })
    await screen('Phone')
    const sharp = await bytes()
    const slider = page.getByRole('slider', { name: /^Blur behind the copy/ })
    await slider.focus()
    for (let step = 0; step < 8; step++) await page.keyboard.press('ArrowRight')
    await page.getByText(/Visible on the stage once the files are rendered/).waitFor()
    await saved()
    expect((await documentOf(id)).weight.renditions.phone.copyBlur).toBe(0.8)
    await make().click()
    await page.getByText('All files are up to date').waitFor({ timeout: 120_000 })
    const soft = await bytes()
    expect(soft.reduce((sum, each) => sum + each, 0)).toBeLessThan(
      sharp.reduce((sum, each) => sum + each, 0),
    )
    const playing = () =>
      page
        .frameLocator('iframe[title^="The backdrop"]')
        .locator('video')
        .evaluate((video: HTMLVideoElement) => video.videoWidth / video.videoHeight)
    await expect.poll(playing).toBeGreaterThan(1.7)
    await page.getByRole('region', { name: 'Stage' }).getByRole('button', { name: /Phone/ }).click()
    // The phone's own file is cropped to what phones show.
    await expect.poll(playing).toBeLessThan(1.6)
    expect(complaints).toEqual([])
  })
})

describe('files', () => {
  it('go on rendering after a reload, keep their budgets, and can be looked at closely', async () => {
    const { id } = await openSmall()
    await make().click()
    await page.getByRole('progressbar', { name: 'Files rendered' }).waitFor()
    await page.waitForTimeout(2500)
    await page.reload()
    // What was under way begins by itself again.
    await page.getByRole('progressbar', { name: 'Files rendered' }).waitFor()
    await page.getByText('All files are up to date').waitFor({ timeout: 150_000 })
    const cells = await rows().first().locator('td').allTextContents()
    expect(cells[2]).toContain('AV1')
    expect(Number(cells[5])).toBeGreaterThan(0.95)
    expect(cells[4]).toMatch(/% of/)

    await page
      .getByRole('button', { name: /^Look closer at/ })
      .first()
      .click()
    const look = page.getByRole('dialog')
    const frame = look.getByRole('slider', { name: 'Frame' })
    const picture = look.getByRole('img')
    await picture.waitFor()
    const pixels = () =>
      picture.evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
        return {
          mean:
            data.reduce((sum, value, at) => (at % 4 === 3 ? sum : sum + value), 0) /
            ((data.length / 4) * 3),
          shown: canvas.getBoundingClientRect().width / canvas.width,
        }
      })
    const wiped = await pixels()
    expect(wiped.shown).toBeCloseTo(1, 2)
    const middle = async (of: Locator): Promise<number[]> =>
      of.evaluate((element) => {
        const { left, right, top, bottom } = element.getBoundingClientRect()
        return [Math.round((left + right) / 2), Math.round((top + bottom) / 2)]
      })
    // A picture that is smaller than the window stands in its middle.
    expect(await middle(picture)).toEqual(
      await middle(look.getByRole('region', { name: 'Comparison' })),
    )
    const worst = Number(await frame.inputValue())
    // The figure can be checked: it opens at the worst frame, which is measured anew from what is
    // seen.
    const told = async (what: RegExp): Promise<number> =>
      Number(what.exec(await look.innerText())?.[1] ?? NaN)
    await expect.poll(() => told(/this frame\s+SSIM (0\.\d{3})/)).toBeGreaterThan(0)
    expect(
      Math.abs(
        (await told(/this frame\s+SSIM (0\.\d{3})/)) - (await told(/worst of \d+ (0\.\d{3})/)),
      ),
    ).toBeLessThan(0.004)
    // Keyboard: size, difference, frames, back to the worst one.
    await page.keyboard.press('2')
    await expect.poll(async () => (await pixels()).shown).toBeCloseTo(2, 2)
    await page.keyboard.press('d')
    await look.getByRole('button', { name: 'Difference × 8', pressed: true }).waitFor()
    await expect.poll(async () => (await pixels()).mean).toBeLessThan(wiped.mean / 2)
    expect((await pixels()).mean).toBeGreaterThan(0)
    await page.keyboard.press('Home')
    await expect.poll(() => frame.inputValue()).toBe('0')
    await page.keyboard.press('ArrowRight')
    await expect.poll(() => frame.inputValue()).toBe('1')
    await page.keyboard.press('w')
    await expect.poll(async () => Number(await frame.inputValue())).toBe(worst)
    await look.getByRole('button', { name: 'Wipe' }).click()
    await page.keyboard.press('.')
    // Any two renditions against each other.
    await look.getByRole('button', { name: /^Left:/ }).click()
    await page
      .getByRole('option', { name: /H\.264/ })
      .first()
      .click()
    await look.getByRole('button', { name: 'Swap' }).click()
    await look.getByRole('button', { name: /^Right: .*H\.264/ }).waitFor()
    expect(
      (await new AxeBuilder({ page }).include('[role=dialog]').analyze()).violations.map(
        ({ id: rule }) => rule,
      ),
    ).toEqual([])
    await page.keyboard.press('Escape')
    await look.waitFor({ state: 'detached' })

    await page.getByRole('tab', { name: 'Bytes over the loop' }).click()
    await page.getByRole('img', { name: /^Bytes a second over the loop/ }).waitFor()
    await page.getByText(/heaviest frames take \d+ %/).waitFor()
    await page.getByRole('tab', { name: 'First load' }).click()
    await page.getByRole('img', { name: /^Waterfall: poster after/ }).waitFor()
    const poster = async (): Promise<number> =>
      Number(
        /poster after ([\d.]+) s/.exec(
          (await page.getByRole('img', { name: /^Waterfall/ }).getAttribute('aria-label'))!,
        )![1],
      )
    const slow = await poster()
    // Its scale reaches as far as the poster.
    const ticks = (await page.getByRole('img', { name: /^Waterfall/ }).innerText())
      .match(/^[\d.]+ s$/gm)!
      .map(parseFloat)
    expect(ticks[0]).toBe(0)
    expect(ticks.at(-1)! * 1.5).toBeGreaterThan(slow)
    await page.getByRole('button', { name: /^Line:/ }).click()
    await page.getByRole('option', { name: 'Fast line' }).click()
    await expect.poll(poster).toBeLessThan(slow / 3)
    expect(
      (await new AxeBuilder({ page }).exclude('iframe').analyze()).violations.map(
        ({ id: rule }) => rule,
      ),
    ).toEqual([])

    // Nothing is encoded twice: another budget shares the probes, and what it does not touch stays.
    await page.getByRole('tab', { name: 'Files and quality' }).click()
    await screen('Phone')
    // The table follows the screen that is worked on.
    await expect
      .poll(() =>
        rows()
          .filter({ hasText: 'Phone' })
          .first()
          .evaluate((row) => {
            const [{ top, bottom }, frame] = [
              row.getBoundingClientRect(),
              row.closest('[role=region]')!.getBoundingClientRect(),
            ]
            return top >= frame.top && bottom <= frame.bottom
          }),
      )
      .toBe(true)
    await page.getByLabel('First visit').fill('90')
    await page.keyboard.press('Enter')
    await page.getByRole('link', { name: /^Weight.*phone not rendered yet/s }).waitFor()
    await make().click()
    await page.getByText('All files are up to date').waitFor({ timeout: 60_000 })
    await saved()
    expect((await documentOf(id)).weight.renditions.phone.budgetBytes).toBe(90_000)
    const phone = await rows()
      .filter({ hasText: 'Phone' })
      .filter({ hasText: 'MP4' })
      .allTextContents()
    expect(phone).toHaveLength(3)
    expect(phone.some((text) => text.includes('over'))).toBe(false)
    expect(complaints).toEqual([])
  })

  it('are made by one tab at a time: a second one finds them made', async () => {
    const { id } = await openSmall(1.5, ['h264'])
    // The first tab stays at work until the second has asked, however quick it is.
    let letGo = (): void => undefined
    const asked = new Promise<void>((resolve) => (letGo = resolve))
    const kindOf = (request: Request): string =>
      (request.postDataJSON() as { recipe: { kind: string } }).recipe.kind
    // Proofs and traces are each tab's own: only the files are shared.
    const isFile = (request: Request): boolean =>
      request.method() === 'POST' && ['clip', 'poster', 'probe'].includes(kindOf(request))
    await page.route('**/api/renditions', async (route) => {
      if (isFile(route.request())) await asked
      await route.continue()
    })
    await make().click()
    await page.getByRole('progressbar', { name: 'Files rendered' }).waitFor()
    const second = await context.newPage()
    second.setDefaultTimeout(60_000)
    const stored: string[] = []
    second.on('request', (request) => {
      if (request.url().endsWith('/api/renditions') && isFile(request)) stored.push(kindOf(request))
    })
    await second.goto(`${server.url}/backdrops/${id}/weight`)
    await make(second).click()
    letGo()
    await page.getByText('All files are up to date').waitFor({ timeout: 150_000 })
    await second.getByText('All files are up to date').waitFor({ timeout: 60_000 })
    expect(stored).toEqual([])
  })

  it('that fail say why, and are made when asked again', async () => {
    // A length of its own: files of the tests before would be found made.
    await openSmall(0.75, ['h264'])
    await page.route('**/api/renditions', (route) => {
      const { recipe } = route.request().postDataJSON() as { recipe: { kind: string } }
      return recipe.kind === 'poster' ? route.continue() : route.abort()
    })
    await make().click()
    // The proof fails as well, and offers the same on the stage.
    const again = page.getByLabel('Weight bench').getByRole('button', { name: 'Try again' })
    await again.waitFor({ timeout: 150_000 })
    await page
      .getByText(/H\.264 .*The server does not answer/)
      .first()
      .waitFor()
    await page.unroute('**/api/renditions')
    await again.click()
    await page.getByText('All files are up to date').waitFor({ timeout: 150_000 })
  })

  it('can hold a likeness instead, and a place on a curve sets it', async () => {
    // The demonstration's backdrop comes with its probes.
    const [project] = await json<{ id: string }[]>('/api/projects')
    const { pages } = await json<{
      pages: { spots: { backdrops: { id: string; name: string }[] }[] }[]
    }>(`/api/projects/${project!.id}`)
    const dusk = pages
      .flatMap(({ spots }) => spots.flatMap(({ backdrops }) => backdrops))
      .find(({ name }) => name === 'Dusk window')!
    await page.goto(`${server.url}/backdrops/${dusk.id}/weight`)
    await rows().first().waitFor()
    // Before anything is made, the probes tell what it will come to.
    await rows()
      .filter({ hasText: 'VP9' })
      .first()
      .getByText(/≈ \d+ kB/)
      .waitFor()
    await rows()
      .filter({ hasText: 'VP9' })
      .first()
      .getByText(/≈ 0\.9\d\d/)
      .waitFor()
    const curve = page.getByTestId(/^curve-vp9-/).nth(8)
    await curve.click({ force: true })
    await page.getByRole('button', { name: 'Undo: byte budget' }).waitFor()
    // By keyboard too: along a curve, to the next one, and set.
    const places = page.getByRole('slider', { name: 'Place on the curves' })
    const budget = async (): Promise<number> =>
      (await documentOf(dusk.id)).weight.renditions.laptop.budgetBytes
    await saved()
    const before = await budget()
    await places.focus()
    await expect.poll(() => places.getAttribute('aria-valuetext')).toMatch(/^AV1 \d+ kB, 0\.\d{3}$/)
    for (const key of ['ArrowLeft', 'ArrowLeft', 'ArrowDown']) await page.keyboard.press(key)
    await expect.poll(() => places.getAttribute('aria-valuetext')).toMatch(/^VP9/)
    await page.keyboard.press('Enter')
    await expect.poll(budget).not.toBe(before)
    await page.getByRole('radio', { name: /^Constant quality/ }).click()
    await page
      .getByTestId(/^curve-h264-/)
      .nth(20)
      .click({ force: true })
    await page
      .getByText(/^0\.9\d\d$/)
      .first()
      .waitFor()
    await saved()
  })

  it('are made lighter by what is measured to help', async () => {
    const { id } = await openSmall()
    await page.getByRole('button', { name: 'Test options' }).click()
    await page.getByRole('button', { name: 'Measure again' }).waitFor({ timeout: 90_000 })
    const offers = page.getByRole('button', { name: /^Use: / })
    expect(await offers.count()).toBeGreaterThan(1)
    await page
      .getByText(/saves [\d.]+ [kM]?B, \d+ %/)
      .first()
      .waitFor()
    const before = await documentOf(id)
    await page.getByRole('button', { name: /^Use: Smaller/ }).click()
    await saved()
    expect(await documentOf(id)).not.toEqual(before)
  })
})

describe('the command line', () => {
  it('measures what could be given up where a budget lies below what an encoder can do', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-floor-'))
    const { code, err } = await telon(
      'deliver',
      join(CLIPS, 'viaduct-crossing.mp4'),
      '--out',
      folder,
      '--start',
      '2',
      '--end',
      '7',
      '--width',
      '640',
      '--budget',
      '25',
      '--formats',
      'h264',
    )
    expect(code).toBe(0)
    expect(err).toContain('H.264 cannot encode this clip any smaller')
    expect(err).toMatch(
      /^first visit, laptop: \d+ kB of 25 kB, over \(poster \d+ kB, clip \d+ kB, page \d+ kB\)$/m,
    )
    const proposals = err
      .split('\n')
      .filter((line) => /^ {2}\S.* \(--.*\): saves \d+ kB, \d+ %$/.test(line))
    expect(proposals.length).toBeGreaterThan(1)
    const shares = proposals.map((line) => Number(/(\d+) %$/.exec(line)![1]))
    expect(shares).toEqual([...shares].sort((a, b) => b - a))
    expect(shares.every((share) => share >= 2 && share <= 100)).toBe(true)
    await rm(folder, { recursive: true })
  })
  it.each([
    [['--budget', 'watch=20'], 'There is no screen called watch'],
    [['--budget', 'phone=2'], '20 to 1000000'],
    [['--formats', 'vp9'], 'h264 is required'],
    [['--formats', 'mpeg'], 'There is no format called mpeg'],
    [['--quality', '2'], '0.8 to 0.995'],
    [['--noise-reduction', '7'], '0 to 1'],
    [['--copy-blur', '2'], '0 to 1'],
    [['--fps', '3'], '5 to 60'],
  ])('refuses %j with 2 and a clear message', async (args, told) => {
    const { code, err } = await telon(
      'deliver',
      'demo/files/viaduct-crossing.mp4',
      '--out',
      '/tmp/x',
      ...args,
    )
    expect([code, err]).toEqual([2, expect.stringContaining(told)])
  })
})
