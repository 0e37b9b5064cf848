import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { seedDemo } from '../demo/seedDemo'
import { trySlowMachines } from '../headless/slowMachines'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import { startTestServer } from '../server/testing/testServer'
import { launch } from './harness'

/*
 * Renders the pictures in docs/screenshots/ from the demonstration data: all, or those named as
 * arguments (some show what others have done before them).
 */

const wanted = process.argv.slice(2)

const out = (name: string): string =>
  fileURLToPath(new URL(`../docs/screenshots/${name}.png`, import.meta.url))
const TOKEN = `tln_${'s'.repeat(43)}`
const server = await startTestServer({
  prepare: seedDemo,
  workerToken: TOKEN,
  trySlow: async (order, signal) =>
    trySlowMachines(order, await readDeliveredScripts(inProject('dist')), signal),
})
// As npm start has one.
const worker = spawn(process.execPath, [inProject('dist/server/renderWorker.js')], {
  env: { ...process.env, TELON_SERVER: server.url, TELON_WORKER_TOKEN: TOKEN },
  stdio: 'ignore',
})
const browser = await launch()
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as {
    id: string
    latestBackdropId: string
  }[]
  const shoot = async (
    name: string,
    path: string,
    prepare: () => Promise<void> = async () => undefined,
    waitMs = 2500,
  ): Promise<void> => {
    if (wanted.length > 0 && !wanted.includes(name)) return
    await page.goto(server.url + path)
    await page.waitForTimeout(waitMs)
    await prepare()
    await page.screenshot({ path: out(name) })
    console.log(name)
  }
  const bench = `/backdrops/${project!.latestBackdropId}`
  /** A backdrop of another clip of the demonstration, to show what it is good for. */
  const trial = async (clip: string): Promise<string> => {
    const read = async <T>(path: string): Promise<T> =>
      (await (await fetch(server.url + path)).json()) as T
    const { pages } = await read<{ pages: { spots: { id: string }[] }[] }>(
      `/api/projects/${project!.id}`,
    )
    const { sources } = await read<{ sources: { id: string }[] }>(
      `/api/projects/${project!.id}/sources?search=${clip}`,
    )
    const made = await fetch(`${server.url}/api/spots/${pages[0]!.spots[0]!.id}/backdrops`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: server.url },
      body: JSON.stringify({ name: 'A trial', sourceId: sources[0]!.id }),
    })
    return ((await made.json()) as { id: string }).id
  }
  await shoot('projects', '/')
  await shoot('chooser', `/projects/${project!.id}`, async () => {
    await page.getByRole('button', { name: 'Make a backdrop' }).nth(1).click()
    await page.getByRole('radio', { name: /^Slideshow/ }).click()
    await page.getByRole('button', { name: /^Cabins and stops/ }).click()
    await page.waitForTimeout(1200)
  })
  const open = async (name: string, room: RegExp): Promise<void> => {
    await page.getByRole('link', { name, exact: true }).click()
    await page.getByRole('link', { name: room }).click()
    await page.waitForTimeout(2500)
  }
  await shoot('particles', `/projects/${project!.id}`, async () => {
    await open('Galley fire', /^Material/)
    await page.getByRole('tab', { name: /^Particles/ }).click()
    await page.waitForTimeout(4000)
    await page.getByRole('button', { name: 'Try on slow machines' }).click()
    await page.getByRole('button', { name: 'Try again' }).waitFor({ timeout: 120_000 })
    await page.getByRole('radio', { name: 'Ember drift' }).scrollIntoViewIfNeeded()
    await page.waitForTimeout(1500)
  })
  await shoot('slideshow-deck', `/projects/${project!.id}`, async () => {
    await open('Winter stops', /^Timing/)
    const playhead = page.getByRole('slider', { name: 'Playhead' })
    await playhead.focus()
    for (let press = 0; press < 3; press++) await page.keyboard.press('ArrowRight')
    for (let press = 0; press < 18; press++) await page.keyboard.press('Shift+ArrowLeft')
    await page.waitForTimeout(1200)
  })
  await shoot('slideshow-transitions', `/projects/${project!.id}`, async () => {
    await open('Winter stops', /^Timing/)
    await page.getByRole('button', { name: /^Edge/ }).click()
    await page.getByRole('slider', { name: /^Angle/ }).scrollIntoViewIfNeeded()
    const playhead = page.getByRole('slider', { name: 'Playhead' })
    await playhead.focus()
    await page.keyboard.press('ArrowRight')
    for (let press = 0; press < 17; press++) await page.keyboard.press('Shift+ArrowLeft')
    await page.getByRole('group', { name: 'Style of the transition' }).scrollIntoViewIfNeeded()
    await page.waitForTimeout(1200)
  })
  await shoot('paint', `/projects/${project!.id}`, async () => {
    await open('Cabin light', /^Paint/)
    await page.getByRole('radio', { name: /^Front/ }).click()
    await page.waitForTimeout(600)
  })
  await shoot('shelf', `/projects/${project!.id}/shelf`)
  const [dusk] = (
    (await (
      await fetch(`${server.url}/api/projects/${project!.id}/sources?search=dusk`)
    ).json()) as { sources: { id: string }[] }
  ).sources
  await shoot('source', `/projects/${project!.id}/sources/${dusk!.id}`, async () => {
    const strip = page.getByRole('slider', { name: 'Moment of the clip' })
    const box = (await strip.boundingBox())!
    await page.mouse.click(box.x + box.width * 0.45, box.y + 30)
    await page.waitForTimeout(1500)
  })
  const tab = (name: string): Promise<void> => page.getByRole('tab', { name, exact: true }).click()
  /** The proof of the present settings is there, and its seam is measured. */
  const proven = async (): Promise<void> => {
    await page.waitForTimeout(2000)
    const left = { state: 'detached', timeout: 120_000 } as const
    await page.getByRole('button', { name: 'Stop', exact: true }).waitFor(left)
    await page.getByText(/^The seam is (being )?measured/).waitFor(left)
    await page.waitForTimeout(1500)
  }
  await shoot('workbench-timing', `${bench}/timing`, async () => {
    await page.getByRole('radio', { name: /Blended/ }).click()
    await page.getByRole('button', { name: 'Suggest overlap' }).click()
    await proven()
  })
  await shoot('timing-seam', `${bench}/timing`, async () => {
    await proven()
    await tab('Seam')
    await page.getByRole('img', { name: 'Difference' }).waitFor()
    await page.waitForTimeout(800)
  })
  const rain = await trial('rain-platform')
  await shoot('timing-loops', `/backdrops/${rain}/timing`, async () => {
    await tab('Find loop')
    await page.getByLabel('Shortest').fill('1.5')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Find loops' }).click()
    await page.getByRole('list', { name: 'Loops found' }).waitFor({ timeout: 60_000 })
    await page.waitForTimeout(800)
  })
  await shoot('workbench-legibility', `${bench}/legibility`, async () => {
    await page.getByText('click a time to see it on the stage').waitFor({ timeout: 120_000 })
    const find = page.getByRole('button', { name: 'Find remedies' })
    await find.click()
    await find.waitFor({ timeout: 180_000 })
    await page.getByRole('list', { name: 'Remedies' }).evaluate((list) => list.scrollIntoView())
    await page.waitForTimeout(800)
  })
  const textured = await trial('dusk-window')
  await shoot('legibility-textures', `/backdrops/${textured}/legibility`, async () => {
    await page.getByRole('button', { name: 'Add a layer' }).click()
    await page.getByRole('radio', { name: 'Texture' }).click()
    const patterns = page.getByRole('group', { name: 'Pattern' })
    await patterns.getByRole('button', { name: 'Weave' }).click()
    await page.getByRole('button', { name: 'Measure copy with each pattern' }).click()
    await page.getByText('without this layer it is').waitFor({ timeout: 120_000 })
    await patterns.getByRole('button', { name: 'Paper' }).getByText(/: 1/).waitFor()
    await page.getByRole('radio', { name: 'Texture' }).evaluate((one) => one.scrollIntoView())
    await page.waitForTimeout(2500)
  })
  await shoot('workbench-fit', `${bench}/fit`, async () => {
    await page.getByRole('button', { name: /^Phone/ }).click()
    await page.waitForTimeout(1200)
  })
  await shoot('workbench-weight', `${bench}/weight`, async () => {
    await page.getByRole('button', { name: /^Render (files|\d+ missing)/ }).click()
    await page.getByText('All files are up to date').waitFor({ timeout: 600_000 })
    await page.waitForTimeout(1500)
  })
  await shoot('weight-closer', `${bench}/weight`, async () => {
    await tab('Files and quality')
    await page.getByRole('button', { name: 'Look closer at Laptop, AV1' }).click()
    await page.getByRole('dialog').getByRole('img').waitFor()
    await page.waitForTimeout(1500)
  })
  await shoot('workbench-handoff', `${bench}/handoff`)
  const reel = await trial('archive-reel')
  await shoot('workbench-material', `/backdrops/${reel}/material`, async () => {
    await page.getByRole('button', { name: 'Crop the black bars' }).click()
    await page.getByRole('button', { name: 'Flip' }).scrollIntoViewIfNeeded()
    await page.waitForTimeout(6000)
  })
  await shoot('work', `${bench}/weight`, async () => {
    await page.getByRole('radio', { name: 'Smallest' }).click()
    await page
      .getByRole('button', { name: /^Render (files|\d+ missing)/ })
      .click({ timeout: 60_000 })
    await page.getByText(/You can close this page/).waitFor()
    await page.goto(`${server.url}/work`)
    await page.getByText(/encoding, .* left/).waitFor({ timeout: 120_000 })
    await page.waitForTimeout(8000)
  })
} finally {
  worker.kill('SIGTERM')
  await browser.close()
  await server.stop()
}
