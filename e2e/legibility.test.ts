import type { Page } from 'playwright-core'
import { expect, it } from 'vitest'
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
const row = (name: string) =>
  page
    .getByRole('table', { name: 'Worst contrast of each text' })
    .getByRole('row')
    .filter({ has: page.getByRole('cell', { name, exact: true }) })
const measured = () =>
  expect.poll(() => page.getByText(/measuring, \d+ %/).count(), { timeout: 60_000 }).toBe(0)
/** What the bench tells of the frame on the stage. */
const present = async (): Promise<number> =>
  parseFloat(await page.getByRole('status').filter({ hasText: ': 1' }).first().innerText())

it.each([
  ['Dusk window', 'footage'],
  ['Galley fire', 'an image under particles'],
])('is told for every text with its worst moment, where the stage agrees: %s, %s', async (name) => {
  await open(name)
  await row('Heading').waitFor()
  await measured()
  for (const each of ['Brand', 'Links', 'Heading', 'Text', 'Button'])
    expect(await row(each).count(), each).toBe(1)
  const worst = parseFloat(await row('Heading').getByRole('cell').nth(1).innerText())
  await row('Heading').getByRole('button').click()
  await page.locator('[data-mark]').waitFor()
  await expect
    .poll(async () => Math.abs((await present()) / worst - 1), { timeout: 20_000 })
    .toBeLessThan(0.05)
  expect(complaints).toEqual([])
})

it('follows what the copy lies on, and its colour', async () => {
  await open('Galley fire')
  await row('Text').waitFor()
  await measured()
  const worst = async (): Promise<number> =>
    parseFloat(await row('Text').getByRole('cell').nth(1).innerText())
  const before = await worst()
  await page.getByRole('slider', { name: 'Strength', exact: true }).fill('0')
  await page.getByRole('slider', { name: 'Strength at its end' }).fill('0')
  await expect.poll(worst, { timeout: 30_000 }).toBeLessThan(before * 0.9)
  await measured()
  expect(await row('Text').getByRole('cell').nth(2).innerText()).toBe('4.5')
})
