import type { Page } from 'playwright-core'
import { expect, it } from 'vitest'
import type { ProjectSettings } from '../core/api/settings'
import type { TestServer } from '../server/testing/testServer'
import { inStudio } from './inStudio'

/* Colours of the brand, of the picture, and of the button. */

let server: TestServer
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, page, complaints } = studio))

const project = async (): Promise<string> =>
  ((await (await fetch(`${server.url}/api/projects`)).json()) as { id: string }[])[0]!.id

const settings = async (): Promise<ProjectSettings> =>
  (await (
    await fetch(`${server.url}/api/projects/${await project()}/settings`)
  ).json()) as ProjectSettings

const frame = () => page.frameLocator('iframe[title^="The backdrop"]')

async function open(name: string): Promise<void> {
  // What stands still leaves the machine to the measurement.
  await page.emulateMedia({ reducedMotion: 'reduce' })
  await page.goto(`${server.url}/projects/${await project()}`)
  await page.getByRole('link', { name }).click()
  await frame().locator('.tln-heading').waitFor()
  await page.getByRole('link', { name: /^Legibility/ }).click()
}

it('are imported, locked, exported and deleted, and an import that cannot be taken is told', async () => {
  await page.goto(`${server.url}/projects/${await project()}`)
  await page.getByRole('button', { name: 'Brand' }).click()
  const dialog = page.getByRole('dialog')
  const field = dialog.getByLabel('A style sheet’s custom properties')
  await field.fill('--veil: rgb(0 0 0 / 0.4)')
  await dialog.getByRole('button', { name: 'Import' }).click()
  await dialog.getByRole('alert').getByText('--veil is not opaque').waitFor()
  expect(await field.inputValue()).toBe('--veil: rgb(0 0 0 / 0.4)')
  await field.fill('{ "pine": { "$type": "color", "$value": "#2f4a3f" } }')
  await dialog.getByRole('button', { name: 'Import' }).click()
  await dialog.getByText('Imported 1 colour and 0 typefaces.').waitFor()
  await dialog.getByRole('button', { name: 'Lock pine' }).click()
  await expect
    .poll(async () => (await settings()).colors.at(-1))
    .toEqual({ name: 'pine', color: '#2f4a3f', isLocked: true })
  const download = page.waitForEvent('download')
  await dialog.getByRole('button', { name: 'Design Tokens' }).click()
  const stream = await (await download).createReadStream()
  const written = (await stream.toArray()).join('')
  expect(JSON.parse(written)).toMatchObject({
    color: { pine: { $value: { hex: '#2f4a3f' }, $extensions: { telon: { locked: true } } } },
  })
  await dialog.getByRole('button', { name: 'Delete pine' }).click()
  await expect
    .poll(async () => (await settings()).colors.map(({ name }) => name))
    .not.toContain('pine')
  expect(complaints).toEqual([])
})

it('are suggested for the button, and taken with those of its states in one step', async () => {
  await open('Fjord at night')
  await page.getByRole('button', { name: 'Suggest colours from the picture' }).click()
  const list = page.getByRole('list', { name: 'Suggested button colours' })
  await list.waitFor({ timeout: 120_000 })
  const offer = list.getByRole('button', { name: /^Opposite to the picture/ })
  const [, color] = /(#[0-9a-f]{6}):/.exec((await offer.getAttribute('aria-label'))!)!
  await offer.click()
  const button = frame().locator('.tln-button').first()
  const seen = () => button.evaluate((element) => getComputedStyle(element).backgroundColor)
  const rgb = (hex: string): string =>
    `rgb(${[1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16)).join(', ')})`
  await expect.poll(seen).toBe(rgb(color!))
  const hover = await page.getByLabel('Under the pointer', { exact: true }).inputValue()
  expect(hover).not.toBe(color)
  await button.hover({ force: true })
  await expect.poll(seen).toBe(rgb(hover))
  await page.mouse.move(0, 0)
  // What the suggestion says is what is measured with it.
  const [, promised] = /at least ([\d.]+) : 1/.exec((await offer.getAttribute('aria-label'))!)!
  await page.getByRole('tab', { name: 'Text × screen' }).click()
  const told = async (): Promise<number> => {
    const cells = await page.getByRole('button', { name: /^Button, \w+: / }).all()
    const names = await Promise.all(cells.map((each) => each.getAttribute('aria-label')))
    return Math.min(99, ...names.map((name) => Number(/: ([\d.]+) to 1/.exec(name!)![1])))
  }
  await expect
    .poll(async () => Math.abs((await told()) / Number(promised) - 1), { timeout: 90_000 })
    .toBeLessThan(0.03)
  await page.getByRole('button', { name: 'Undo: button colours' }).click()
  await expect.poll(seen).toBe('rgb(242, 184, 114)')
  expect(complaints).toEqual([])
})

it('of the project are offered with the contrast that each gives, and one is picked from the stage', async () => {
  await open('Fjord at night')
  await page.getByRole('button', { name: 'Copy colour: colours of the project' }).click()
  const colors = page.getByRole('list', { name: 'Colours of the project' })
  await colors
    .getByText(/\d : 1|may be lost/)
    .first()
    .waitFor({ timeout: 120_000 })
  expect(await colors.getByRole('button', { name: /^Night/ }).innerText()).toMatch(/fails|lost/)
  expect(await colors.getByRole('button', { name: /^Snow/ }).innerText()).toMatch(/\d : 1$/)
  await page.getByRole('button', { name: 'Pick from the stage' }).click()
  const target = page.getByRole('button', { name: /^Pick a colour: Copy colour/ })
  await target.waitFor()
  await page.keyboard.press('Escape')
  await expect.poll(() => target.count()).toBe(0)
  const field = page.getByLabel('Copy colour', { exact: true })
  expect(await field.inputValue()).toBe('#ffffff')
  await page.getByRole('button', { name: 'Copy colour: colours of the project' }).click()
  await page.getByRole('button', { name: 'Pick from the stage' }).click()
  await page.getByRole('status').filter({ hasText: 'click or Enter takes it' }).waitFor()
  await page.keyboard.press('Shift+ArrowUp')
  await page.keyboard.press('Enter')
  await expect.poll(() => field.inputValue()).not.toBe('#ffffff')
  const picked = await field.inputValue()
  await page.getByRole('button', { name: 'Copy colour: colours of the project' }).click()
  await page.getByLabel('Name of this colour').fill('Sky')
  await page.getByLabel('Name of this colour').press('Enter')
  await colors.getByRole('button', { name: /^Sky/ }).waitFor()
  expect((await settings()).colors.at(-1)).toEqual({ name: 'Sky', color: picked, isLocked: false })
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo: copy colour' }).click()
  expect(complaints).toEqual([])
})

it('say why their contrast cannot be told, instead of measuring for ever', async () => {
  await page.context().route(/\/media\//, (route) => route.abort())
  await open('Galley fire')
  await page.getByRole('button', { name: 'Button colour: colours of the project' }).click()
  const colors = page.getByRole('list', { name: 'Colours of the project' })
  const told = colors.locator('xpath=..').getByRole('status')
  await told.getByText(/could not be read/).waitFor()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Suggest colours from the picture' }).click()
  await page
    .getByLabel('Legibility bench')
    .getByRole('alert')
    .getByText(/could not be read/)
    .waitFor()
  await page.context().unroute(/\/media\//)
})
