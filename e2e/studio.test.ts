import { AxeBuilder } from '@axe-core/playwright'
import { unzipSync } from 'fflate'
import { mkdir, mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import type { Browser, BrowserContext, Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../core/bytes/ByteSource'
import { manifestSchema } from '../core/handoff/manifest'
import { wrapBox } from '../core/media/isobmff/boxTree'
import { readMedia } from '../core/media/readMedia'
import { withSampleEntry } from '../core/testing/movies'
import { readClip } from '../server/testing/clip'
import { TestClient } from '../server/testing/TestClient'
import type { TestServer } from '../server/testing/testServer'
import { ROOM_NAMES } from '../studio/app/rooms'
import { CLIPS, complaintsOf, serveFolder } from './harness'
import { inStudio } from './inStudio'

let server: TestServer
let browser: Browser
let context: BrowserContext
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, browser, context, page, complaints } = studio))

const stage = (on: Page = page) => on.frameLocator('iframe[title^="The backdrop on"]')
const saved = (on: Page = page) =>
  on
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()

/** Opens the demonstration's backdrop at a readout, with its proof on stage. */
async function openDemo(readout = 'timing', on: Page = page): Promise<void> {
  const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as {
    latestBackdropId: string
  }[]
  await on.goto(`${server.url}/backdrops/${project!.latestBackdropId}/${readout}`)
  await stage(on).locator('.tln-heading').waitFor()
}

/** A new project with one clip on its shelf, on its project page. */
async function projectWithClip(name: string, clip: string): Promise<void> {
  await page.goto(server.url)
  await page.getByRole('button', { name: 'New project' }).first().click()
  await page.getByLabel('Name, usually the site’s').fill(name)
  await page.getByRole('button', { name: 'Add project' }).click()
  await page.getByRole('link', { name: /^Shelf/ }).click()
  await page.getByLabel('Files to add').setInputFiles(join(CLIPS, clip))
  await page.getByRole('heading', { name: clip }).waitFor()
}

describe('the first screen', () => {
  it('shows the demonstration’s hero, moving', async () => {
    await page.goto(server.url)
    await page.getByRole('heading', { name: 'Vesperline' }).waitFor()
    const hero = page.frameLocator('iframe').locator('video')
    await expect
      .poll(() => hero.evaluate((video: HTMLVideoElement) => video.currentTime))
      .toBeGreaterThan(0.3)
    expect(complaints).toEqual([])
  })

  it('adds, renames and deletes a project, saying what goes', async () => {
    await page.goto(server.url)
    await page.getByRole('button', { name: 'New project' }).first().click()
    await page.getByLabel('Name, usually the site’s').fill('Harbour lights')
    await page.keyboard.press('Enter')
    await page.getByRole('heading', { name: 'Harbour lights', level: 1 }).waitFor()
    await page.getByRole('link', { name: 'Projects' }).click()
    await page.getByRole('button', { name: 'Rename Harbour lights' }).click()
    await page.getByLabel('Name', { exact: true }).fill('Harbour lamps')
    await page.getByRole('button', { name: 'Rename', exact: true }).click()
    await page.getByRole('button', { name: 'Delete Harbour lamps' }).click()
    await page.getByText('1 page, 0 clips on the shelf and 0 backdrops').waitFor()
    await page.getByRole('button', { name: 'Delete for good' }).click()
    await page
      .getByRole('heading', { name: /Harbour lamps/ })
      .first()
      .waitFor({ state: 'detached' })
    expect(await page.getByRole('heading', { name: 'Vesperline' }).count()).toBe(1)
  })
})

describe('the whole way', () => {
  it('leads from a designer’s own clip to a folder that plays anywhere', async () => {
    await projectWithClip('Viaduct line', 'viaduct-crossing.mp4')
    await page.getByRole('link', { name: 'Viaduct line' }).click()
    await page.getByRole('button', { name: 'Make a backdrop' }).click()
    await page.getByRole('button', { name: 'Open the workbench' }).click()
    // The proof is made by itself and plays.
    await page.getByText('proof', { exact: true }).waitFor({ timeout: 60_000 })
    await expect
      .poll(() =>
        stage()
          .locator('video')
          .evaluate((video: HTMLVideoElement) => (video.paused ? 0 : video.currentTime)),
      )
      .toBeGreaterThan(0.1)
    // Cut by typing, write on the stage, raise the scrim.
    await page.getByLabel(/^Start, frame/).fill('1 s')
    await page.keyboard.press('Enter')
    await page.getByLabel(/^End, frame/).fill('75f')
    await page.keyboard.press('Enter')
    await page.getByText('2.00 s, 50 frames', { exact: true }).waitFor()
    await stage().locator('.tln-heading').fill('Across the viaduct')
    await page.getByRole('link', { name: /^Legibility/ }).click()
    await page.getByRole('slider', { name: 'Strength', exact: true }).fill('0.6')
    await page.getByText('60 %').first().waitFor()
    await saved()
    await page.getByRole('link', { name: /^Weight/ }).click()
    await page.getByRole('button', { name: 'Render files' }).click()
    await page.getByText('All files are up to date').waitFor({ timeout: 120_000 })
    await page.getByRole('link', { name: /^Handoff/ }).click()
    const folder = await downloadFolder()
    expect(complaints).toEqual([])
    await checkMarkup(folder)

    const site = await serveFolder(folder)
    try {
      const visitor = await (
        await browser.newContext({ viewport: { width: 1280, height: 800 } })
      ).newPage()
      const visitorComplaints = complaintsOf(visitor)
      await visitor.goto(`${site.url}/index.html`)
      expect(await visitor.locator('h1').textContent()).toBe('Across the viaduct')
      const video = visitor.locator('video')
      await expect
        .poll(() => video.evaluate((each: HTMLVideoElement) => each.currentTime), {
          timeout: 20_000,
        })
        .toBeGreaterThan(0.2)
      const facts = await video.evaluate((each: HTMLVideoElement) => ({
        muted: each.muted,
        loop: each.loop,
        width: each.videoWidth,
        height: each.videoHeight,
        turns: each.duration / 2,
      }))
      // The file plays its two seconds over and over, so that players need not loop themselves.
      expect(facts).toEqual({
        muted: true,
        loop: true,
        width: 640,
        height: 360,
        turns: expect.closeTo(Math.round(facts.turns), 2) as number,
      })
      expect(facts.turns).toBeGreaterThan(5)
      // It goes on after its end.
      await expect
        .poll(
          () => video.evaluate((each: HTMLVideoElement) => each.currentTime > 2.3 && !each.paused),
          { timeout: 10_000, interval: 50 },
        )
        .toBe(true)
      expect(visitorComplaints).toEqual([])
      await visitor.context().close()
    } finally {
      await site.stop()
    }
  })
})

async function downloadFolder(): Promise<string> {
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download as zip' }).click(),
  ])
  return unpack(await download.path())
}

/**
 * What is copied is what the folder has, with the address of the site; a plain index changes the
 * clips and nothing that must be rendered.
 */
async function checkMarkup(folder: string): Promise<void> {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  const copied = async (): Promise<string> => {
    await page.getByRole('button', { name: 'Copy markup' }).click()
    await page.getByRole('button', { name: 'Copied' }).waitFor()
    const text = await page.evaluate(() => navigator.clipboard.readText())
    await page.getByRole('button', { name: 'Copy markup' }).waitFor()
    return text
  }
  expect(await copied()).toBe(await readFile(join(folder, 'fragment.html'), 'utf8'))
  const address = page.getByLabel('Address of the folder on the site')
  await address.fill('bad address')
  await page.keyboard.press('Enter')
  await page.getByText(/An address of a folder begins with/).waitFor()
  await address.fill('/media/viaduct')
  await page.keyboard.press('Enter')
  await page.getByRole('radio', { name: /Background only/ }).click()
  await page.getByRole('switch', { name: 'Plain index' }).click()
  await saved()
  const alone = await copied()
  const shown = await page.getByRole('region', { name: 'Markup to paste' }).textContent()
  expect(alone.replaceAll(/-[0-9a-f]{8}\.mp4/g, '-….mp4')).toBe(shown)
  const plain = await downloadFolder()
  expect(alone).toBe(await readFile(join(plain, 'backdrop-only.html'), 'utf8'))
  const clips = async (place: string) =>
    manifestSchema.parse(JSON.parse(await readFile(join(place, 'manifest.json'), 'utf8'))).clips
  const [before, after] = [await clips(folder), await clips(plain)]
  expect(after.map(({ repeats }) => repeats)).toEqual(before.map(() => 1))
  for (const [index, { path, bytes }] of after.entries()) {
    const file = await readFile(join(plain, path))
    expect(file.byteLength).toBe(bytes)
    expect(bytes).toBeLessThan(before[index]!.bytes)
    expect(path).not.toBe(before[index]!.path)
    const read = await readMedia(memorySource(new Uint8Array(file)))
    expect(read.ok && read.value.video.samples.count).toBe(50)
  }
}

/** Unpacks a zip into a new folder; returns the folder inside it. */
async function unpack(path: string): Promise<string> {
  const target = await mkdtemp(join(tmpdir(), 'telon-e2e-'))
  const entries = Object.entries(unzipSync(new Uint8Array(await readFile(path))))
  for (const [name, bytes] of entries) {
    await mkdir(dirname(join(target, name)), { recursive: true })
    await writeFile(join(target, name), bytes)
  }
  return join(target, entries[0]![0].split('/')[0]!)
}

describe('the shelf', () => {
  it('says before the upload why a file cannot be used', async () => {
    await page.goto(server.url)
    await page.getByRole('link', { name: 'Vesperline' }).click()
    await page.getByRole('link', { name: /^Shelf/ }).click()
    await page.getByLabel('Files to add').setInputFiles([
      {
        name: 'notes.mp4',
        mimeType: 'video/mp4',
        buffer: Buffer.from('this is only text, whatever its name says'),
      },
      {
        name: 'photo.mov',
        mimeType: 'video/quicktime',
        buffer: Buffer.from([0, 0, 0, 16, 102, 116, 121, 112, 104, 101, 105, 99, 0, 0, 0, 0]),
      },
    ])
    await page.getByText(/neither a clip nor an image that Telon can read/).waitFor()
    await page.getByText(/HEIC image, which browsers do not show/).waitFor()
    expect(await page.getByText('up to 50.0 MB each').count()).toBe(1)
    await page.getByRole('button', { name: 'Dismiss notes.mp4' }).click()
    expect(await page.getByText('notes.mp4').count()).toBe(0)
  })

  it('goes on with an upload after the connection was gone, while the designer works elsewhere', async () => {
    await page.goto(server.url)
    await page.getByRole('button', { name: 'New project' }).first().click()
    await page.getByLabel('Name, usually the site’s').fill('Uploads')
    await page.getByRole('button', { name: 'Add project' }).click()
    await page.getByRole('link', { name: /^Shelf/ }).click()
    let cut = 2
    await page.route('**/api/uploads/*', (route) =>
      route.request().method() === 'PATCH' && cut-- > 0
        ? route.abort('connectionreset')
        : route.continue(),
    )
    await page.getByLabel('Files to add').setInputFiles(join(CLIPS, 'rain-platform.mp4'))
    await page.getByText(/Trying again/).waitFor()
    await page.getByRole('link', { name: 'Uploads' }).click()
    await page.getByRole('link', { name: 'Shelf, 0 sources' }).waitFor()
    await page.getByRole('link', { name: /^Shelf/ }).click()
    await page.getByRole('heading', { name: 'rain-platform.mp4' }).waitFor()
  })

  it('resumes an upload whose tab was closed, when the same file is added again', async () => {
    await page.goto(server.url)
    await page.getByRole('button', { name: 'New project' }).first().click()
    await page.getByLabel('Name, usually the site’s').fill('Closed tab')
    await page.getByRole('button', { name: 'Add project' }).click()
    await page.getByRole('link', { name: /^Shelf/ }).click()
    await page.getByText('The shelf is empty').waitFor()
    const shelf = page.url()
    const file = join(CLIPS, 'aurora-fjord.webm')
    await page.route('**/api/uploads/*', (route) =>
      route.request().method() === 'PATCH' ? route.abort() : route.continue(),
    )
    const begun = page.waitForResponse(
      (answer) => answer.request().method() === 'POST' && answer.url().endsWith('/api/uploads'),
    )
    await page.getByLabel('Files to add').setInputFiles(file)
    const location = (await (await begun).headerValue('location'))!
    await page.getByText(/Trying again/).waitFor()
    await page.close()
    // So much had arrived when the tab was closed.
    const part = (await readFile(file)).subarray(0, 1_000_000)
    await new TestClient(server).sendPart(location, 0, part)
    const again = await context.newPage()
    await again.goto(shelf)
    await again.getByText(/stopped at 52 % of 1.91 MB/).waitFor()
    const resumed = again.waitForRequest((request) => request.method() === 'PATCH')
    await again.getByLabel('Files to add').setInputFiles(file)
    expect((await resumed).headers()['upload-offset']).toBe('1000000')
    await again.getByRole('heading', { name: 'aurora-fjord.webm' }).waitFor()
  })

  it('offers to go on with an upload whose tab is gone', async () => {
    await projectWithClip('Resting', 'viaduct-crossing.mp4')
    const projectId = /projects\/([^/]+)/.exec(page.url())![1]!
    await new TestClient(server).beginUpload(5000, 'half.mov', projectId)
    await page.reload()
    await page.getByText(/stopped at 0 % of 5 kB/).waitFor()
    await page.getByRole('button', { name: 'Discard' }).click()
    await page.getByText('half.mov').waitFor({ state: 'detached' })
  })

  it('keeps a clip that a backdrop uses, and says which', async () => {
    await page.goto(server.url)
    await page.getByRole('link', { name: 'Vesperline' }).click()
    await page.getByRole('link', { name: /^Shelf/ }).click()
    await page.getByRole('button', { name: 'More for dusk-window.mov' }).click()
    await page.getByRole('menuitem', { name: 'Take off the shelf' }).click()
    await page.getByText('Used by Dusk window: replace the clip there first').waitFor()
    expect(await page.getByRole('heading', { name: 'dusk-window.mov' }).count()).toBe(1)
  })
})

describe('the workbench', () => {
  it('moves the cut by keyboard, shows the exact frame, and takes it back after a reload', async () => {
    await openDemo()
    const start = page.getByRole('slider', { name: 'Start of the cut' })
    await start.waitFor()
    const before = await start.getAttribute('aria-valuenow')
    await start.focus()
    await page.keyboard.press('Shift+ArrowRight')
    await page.keyboard.press('ArrowRight')
    expect(Number(await start.getAttribute('aria-valuenow'))).toBe(Number(before) + 11)
    await page.getByText('exact source frame').waitFor()
    await expect
      .poll(() =>
        stage()
          .locator('.stage-frame')
          .evaluate((canvas: HTMLCanvasElement) => !canvas.hidden && canvas.width),
      )
      .toBe(1280)
    await saved()
    await page.reload()
    await page.getByRole('button', { name: 'Undo: cut' }).click()
    expect(
      await page.getByRole('slider', { name: 'Start of the cut' }).getAttribute('aria-valuenow'),
    ).toBe(before)
    await page.getByRole('button', { name: 'Redo: cut' }).click()
    await page.keyboard.press('Control+z')
    await expect
      .poll(() =>
        page.getByRole('slider', { name: 'Start of the cut' }).getAttribute('aria-valuenow'),
      )
      .toBe(before)
    await saved()
  })

  it('drags an end of the cut by pointer as one undo step', async () => {
    await openDemo()
    const end = page.getByRole('slider', { name: 'End of the cut' })
    const before = Number(await end.getAttribute('aria-valuenow'))
    const box = (await end.boundingBox())!
    await page.mouse.move(box.x + box.width / 2, box.y + 30)
    await page.mouse.down()
    for (const by of [-20, -60, -100]) await page.mouse.move(box.x + box.width / 2 + by, box.y + 30)
    await page.mouse.up()
    expect(Number(await end.getAttribute('aria-valuenow'))).toBeLessThan(before - 20)
    await page.getByRole('button', { name: 'Undo: cut' }).click()
    expect(Number(await end.getAttribute('aria-valuenow'))).toBe(before)
    await saved()
  })

  it('refuses times that make no sense, with a sentence, and keeps the old ones', async () => {
    await openDemo()
    const start = page.getByLabel(/^Start, frame/)
    for (const [typed, told] of [
      ['soon', 'Type 2.5'],
      ['99', 'The clip ends at 14.00 s'],
      ['13', 'The start must be before the end'],
    ] as const) {
      await start.fill(typed)
      await page.keyboard.press('Enter')
      await page.getByText(told).waitFor()
      await page.keyboard.press('Escape')
    }
    expect(await start.inputValue()).toBe('2.00 s')
  })

  it('measures the heading’s contrast as the scrim changes', async () => {
    await openDemo('legibility')
    const figure = page.getByRole('complementary').getByRole('status').locator('span').first()
    const strength = page.getByRole('slider', { name: 'Strength', exact: true })
    await strength.fill('0')
    await expect.poll(async () => Number(await figure.textContent())).toBeLessThan(6.5)
    const faint = Number(await figure.textContent())
    await strength.fill('0.9')
    await expect.poll(async () => Number(await figure.textContent())).toBeGreaterThan(faint + 4)
    await page.keyboard.press('Control+z')
    await saved()
  })

  it('moves the focal point by keys and pointer, on the real region', async () => {
    await openDemo('fit')
    const point = page.getByRole('button', { name: /^Focal point/ })
    await point.focus()
    await page.keyboard.press('Shift+ArrowLeft')
    await expect
      .poll(() =>
        stage()
          .locator('.tln-region')
          .evaluate((region) =>
            getComputedStyle(region).getPropertyValue('--tln-focal-point').trim(),
          ),
      )
      .toBe('52% 50%')
    await page.getByRole('button', { name: 'Phone, 390 by 844' }).click()
    await expect
      .poll(() =>
        stage()
          .locator('html')
          .evaluate((html) => html.clientWidth),
      )
      .toBe(390)
    await page.getByRole('button', { name: 'Undo: focal point' }).click()
    await saved()
  })

  it('writes the copy on the stage as text only, and tells where the button leads', async () => {
    await openDemo('material')
    const button = stage().locator('.tln-button')
    await button.click()
    await page.getByLabel('Link of the button').fill('javascript:alert(1)')
    await page.keyboard.press('Enter')
    await page.getByText('Start with #, / or https://').waitFor()
    await page.keyboard.press('Escape')
    await stage().locator('.tln-body').fill('<b>Quiet</b> hours')
    await saved()
    await page.reload()
    await expect.poll(() => stage().locator('.tln-body').textContent()).toBe('<b>Quiet</b> hours')
    expect(await stage().locator('.tln-body b').count()).toBe(0)
    await page.getByRole('button', { name: 'Undo: text' }).click()
    await saved()
  })

  it('swaps the clip, says what is stale, and brings the old one back by undo', async () => {
    await openDemo('material')
    await page.getByRole('button', { name: /^aurora-fjord/ }).click()
    await page.getByText('aurora-fjord.webm, 25 fps').waitFor()
    await page.getByText('not rendered for this cut').waitFor()
    await page.getByRole('button', { name: 'Undo: swap the clip' }).click()
    await page.getByText('dusk-window.mov, 24 fps').waitFor()
    await saved()
  })

  it('cancels what is rendering, keeps what is finished, and reports a failure without losing work', async () => {
    await openDemo('weight')
    await page.getByRole('button', { name: /^Render / }).click()
    await page.getByRole('progressbar', { name: 'Files rendered' }).waitFor()
    await page.getByRole('button', { name: /^Cancel/ }).click()
    await page.getByRole('button', { name: /^Render / }).waitFor()
  })

  it('says when a proof failed, and makes it again when asked', async () => {
    await openDemo()
    await page.route('**/api/renditions/*', (route) => route.abort())
    await page.getByLabel('Speed, 0.25 to 4').fill('3.3')
    await page.keyboard.press('Enter')
    const alert = page
      .getByRole('alert')
      .filter({ hasText: /proof could not be .*does not answer/ })
    await alert.waitFor()
    await page.unroute('**/api/renditions/*')
    await alert.getByRole('button', { name: 'Try again' }).click()
    await alert.waitFor({ state: 'detached' })
    await page.getByText('proof', { exact: true }).waitFor()
    await expect.poll(() => page.getByRole('button', { name: 'Render proof' }).count()).toBe(0)
    await page.getByRole('button', { name: 'Undo: speed' }).click()
    await saved()
  })

  it('leads on from a clip that this browser cannot decode, however long its name', async () => {
    const client = new TestClient(server)
    const project = await client.makeProject('Night trains')
    const hevc = withSampleEntry(
      await readClip(),
      'hvc1',
      wrapBox('hvcC', Uint8Array.from([1, ...new Uint8Array(22)])),
    )
    await client.upload(project.id, Buffer.from(hevc), `${'a-long-name-'.repeat(15)}.mp4`)
    await page.setViewportSize({ width: 1024, height: 768 })
    await page.goto(`${server.url}/projects/${project.id}`)
    await page.getByRole('button', { name: 'Make a backdrop' }).first().click()
    await page.getByText('No picture in this browser').waitFor()
    await page.getByRole('button', { name: 'Open the workbench' }).click()
    const alert = page.getByRole('alert').filter({ hasText: /proof could not be rendered.*HEVC/ })
    await alert.waitFor()
    for (const width of [1024, 1280, 1920]) {
      await page.setViewportSize({ width, height: 768 })
      const overflow = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      )
      expect(overflow).toBe(0)
      const bench = page.getByRole('heading', { name: 'Cut', exact: true })
      expect((await bench.boundingBox())!.x).toBeLessThan(width - 200)
    }
    await alert.getByRole('link', { name: 'Choose another clip' }).click()
    await page.getByText('Another clip keeps copy, scrim').waitFor()
  })

  it('tells the second of two tabs, and offers both versions', async () => {
    await openDemo('legibility')
    const other = await context.newPage()
    await openDemo('legibility', other)
    await page.getByLabel('Copy colour', { exact: true }).fill('#ffeecc')
    await page.keyboard.press('Enter')
    await saved()
    await other.getByLabel('Button colour', { exact: true }).fill('#88ccaa')
    await other.keyboard.press('Enter')
    await other.getByRole('heading', { name: 'This backdrop was changed in another tab' }).waitFor()
    await other.getByText(/differ in copy/).waitFor()
    await other.getByRole('button', { name: /Use the other tab/ }).click()
    await saved(other)
    expect(await other.getByLabel('Copy colour', { exact: true }).inputValue()).toBe('#ffeecc')
    await other.getByRole('button', { name: 'Undo: take the other version' }).click()
    expect(await other.getByLabel('Button colour', { exact: true }).inputValue()).toBe('#88ccaa')
    await saved(other)
  })

  it('says when it cannot save, goes on trying, and saves in the end', async () => {
    await openDemo('legibility')
    await page.route('**/api/backdrops/*', (route) =>
      route.request().method() === 'PUT' ? route.abort() : route.continue(),
    )
    await page.getByRole('slider', { name: 'Strength', exact: true }).fill('0.42')
    await page.getByText('Not saved').waitFor()
    await page.unroute('**/api/backdrops/*')
    await saved()
  })
})

/**
 * What axe finds on the page, by rule and place. The stage shows what is delivered, which has a
 * test of its own (`markup.test.ts`).
 */
async function violations(): Promise<string[]> {
  const found = await new AxeBuilder({ page }).exclude('iframe').analyze()
  return found.violations.map(
    (violation) =>
      `${violation.id}: ${violation.nodes
        .map((node) => node.html)
        .join(' ')
        .slice(0, 300)}`,
  )
}

describe('every view', () => {
  const views = ['projects', 'project', 'shelf', ...ROOM_NAMES.map((name) => `workbench ${name}`)]
  it.each(views)('has no accessibility violation: %s', async (view) => {
    // A clip that plays makes the search slow and finds nothing more.
    await page.emulateMedia({ reducedMotion: 'reduce' })
    const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as { id: string }[]
    if (view.startsWith('workbench')) await openDemo(view.split(' ')[1])
    else
      await page.goto(
        `${server.url}${{ projects: '/', project: `/projects/${project!.id}`, shelf: `/projects/${project!.id}/shelf` }[view] ?? '/'}`,
      )
    await page.getByRole('heading', { level: 1 }).waitFor({ state: 'attached' })
    await page.waitForTimeout(700)
    expect(await violations()).toEqual([])
  })

  it('has no accessibility violation in its dialogs', async () => {
    await page.goto(server.url)
    const found: string[] = []
    for (const [open, wait] of [
      ['New project', 'Name, usually the site’s'],
      ['Rename Vesperline', 'Name'],
      ['Delete Vesperline', null],
    ] as const) {
      await page.getByRole('button', { name: open }).first().click()
      await page.getByRole('dialog').getByRole('heading').waitFor()
      if (wait) await page.getByLabel(wait, { exact: true }).waitFor()
      found.push(...(await violations()))
      await page.keyboard.press('Escape')
      await page.getByRole('dialog').waitFor({ state: 'detached' })
    }
    await page.getByRole('link', { name: 'Vesperline' }).click()
    for (const open of ['Add a page', 'Add a spot', 'Make a backdrop', 'Delete page Home']) {
      await page.getByRole('button', { name: open }).first().click()
      await page.getByRole('dialog').getByRole('heading').waitFor()
      found.push(...(await violations()))
      await page.keyboard.press('Escape')
      await page.getByRole('dialog').waitFor({ state: 'detached' })
    }
    expect(found).toEqual([])
  })

  it('can be left and opened at an address that is gone', async () => {
    await page.goto(`${server.url}/backdrops/7b1f8c1e-0000-4000-8000-000000000009`)
    await page.getByRole('alert').filter({ hasText: 'no longer exists' }).waitFor()
    await page.goto(`${server.url}/nowhere/at/all`)
    await page.getByText('There is nothing at this address').waitFor()
  })
})
