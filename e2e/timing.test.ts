import { AxeBuilder } from '@axe-core/playwright'
import type { Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import type { BackdropRecord, SourceCard } from '../core/api/wire'
import type { TestServer } from '../server/testing/testServer'
import { inStudio } from './inStudio'

let server: TestServer
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, page, complaints } = studio))

const stage = () => page.frameLocator('iframe[title^="The backdrop on"]')
const saved = () =>
  page
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()
const playhead = () => page.getByRole('slider', { name: 'Playhead on the clip' })
const start = () => page.getByRole('slider', { name: 'Start of the cut' })
const end = () => page.getByRole('slider', { name: 'End of the cut' })
const at = async (slider: ReturnType<typeof start>): Promise<number> =>
  Number(await slider.getAttribute('aria-valuenow'))
/** The number of the source frame that the stage shows exactly; null while the clip plays. */
const shownFrame = () =>
  stage()
    .locator('.stage-frame')
    .evaluate((canvas: HTMLCanvasElement) =>
      canvas.hidden ? null : Number(canvas.dataset['frame']),
    )

async function demoProject(): Promise<{ id: string }> {
  const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as {
    id: string
  }[]
  return project!
}

/** A new backdrop of a clip of the demonstration, open at a readout. */
async function openClip(clip: string, readout = 'timing'): Promise<BackdropRecord> {
  const { id } = await demoProject()
  const [project, found] = (await Promise.all([
    fetch(`${server.url}/api/projects/${id}`).then((answer) => answer.json()),
    fetch(`${server.url}/api/projects/${id}/sources?search=${clip}`).then((answer) =>
      answer.json(),
    ),
  ])) as [{ pages: { spots: { id: string }[] }[] }, { sources: SourceCard[] }]
  const answer = await fetch(
    `${server.url}/api/spots/${project.pages[0]!.spots[1]!.id}/backdrops`,
    {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: server.url },
      body: JSON.stringify({ name: `Trial of ${clip}`, sourceId: found.sources[0]!.id }),
    },
  )
  const made = (await answer.json()) as BackdropRecord
  await page.goto(`${server.url}/backdrops/${made.id}/${readout}`)
  await stage().locator('.tln-heading').waitFor()
  return made
}

describe('the filmstrip', () => {
  it('zooms by keys and wheel from the whole clip to single frames, and back', async () => {
    await openClip('tunnel-mouth')
    await playhead().waitFor()
    const ruler = page.getByText(/f · \d+\.\d\d s$/)
    expect(await ruler.count()).toBe(0)
    await playhead().focus()
    for (let press = 0; press < 12; press++) await page.keyboard.press('+')
    await expect.poll(() => ruler.count()).toBeGreaterThan(3)
    await page.keyboard.press('0')
    await expect.poll(() => ruler.count()).toBe(0)
    const box = (await playhead().boundingBox())!
    await page.mouse.move(box.x + box.width / 2, box.y + 60)
    for (let turn = 0; turn < 14; turn++) await page.mouse.wheel(0, -240)
    await expect.poll(() => ruler.count()).toBeGreaterThan(3)
    const before = await ruler.first().textContent()
    await page.mouse.wheel(600, 0)
    await expect.poll(() => ruler.first().textContent()).not.toBe(before)
    await page.getByRole('button', { name: 'Show the whole clip' }).click()
    await expect.poll(() => ruler.count()).toBe(0)
    expect(complaints).toEqual([])
  })

  it('steps the playhead by frames and shows exactly that frame, until the loop plays on', async () => {
    await openClip('tunnel-mouth')
    await page.getByText('proof', { exact: true }).waitFor({ timeout: 60_000 })
    await playhead().focus()
    await page.keyboard.press('Home')
    const first = await at(playhead())
    await page.keyboard.press('ArrowRight')
    await page.keyboard.press('Shift+ArrowRight')
    expect(await at(playhead())).toBe(first + 11)
    await expect.poll(shownFrame).toBe(first + 11)
    await page.keyboard.press('ArrowLeft')
    await expect.poll(shownFrame).toBe(first + 10)
    await page.getByText(`exact source frame ${first + 10}`).waitFor()
    // Half a second before the cut's end: there the loop goes on.
    await page.keyboard.press('End')
    for (let press = 0; press < 12; press++) await page.keyboard.press('ArrowLeft')
    const parked = await at(playhead())
    // As slowly as browsers play: a slow machine must not be past the frame before it is read.
    await stage()
      .locator('.tln-video')
      .evaluate((video: HTMLVideoElement) => (video.playbackRate = 1 / 16))
    await page.getByRole('button', { name: 'Resume playback' }).click()
    await expect.poll(shownFrame).toBeNull()
    expect(Math.abs((await at(playhead())) - parked)).toBeLessThan(24)
  })

  it('sets start and end at the playhead by keys, each one step to undo', async () => {
    await openClip('tunnel-mouth')
    await playhead().focus()
    await page.keyboard.press('Home')
    const [first, last] = [await at(playhead()), await at(end())]
    await page.keyboard.press('Shift+ArrowRight')
    await page.keyboard.press('[')
    await expect.poll(() => at(start())).toBe(first + 10)
    await page.keyboard.press('End')
    for (let press = 0; press < 2; press++) await page.keyboard.press('Shift+ArrowLeft')
    await page.keyboard.press(']')
    await expect.poll(() => at(end())).toBe(last - 20)
    await page.getByRole('button', { name: 'Undo: cut' }).click()
    await expect.poll(() => at(end())).toBe(last)
    expect(await at(start())).toBe(first + 10)
    await saved()
  })

  it('is drawn to what was found, unless that is switched off', async () => {
    await openClip('dusk-window')
    await start().waitFor()
    const box = (await start().boundingBox())!
    const track = (await playhead().boundingBox())!
    // The title card ends at frame 44: a hand that lets go a few pixels beside it means that.
    const card = track.x + (track.width * 44) / 336
    const drag = async (to: number): Promise<void> => {
      const from = (await start().boundingBox())!
      await page.mouse.move(from.x + from.width / 2, box.y + 40)
      await page.mouse.down()
      await page.mouse.move(to + 30, box.y + 40)
      await page.mouse.move(to, box.y + 40, { steps: 3 })
    }
    await drag(card + 60)
    await page.mouse.up()
    await drag(card + 6)
    await page.getByText('title card ends', { exact: true }).waitFor()
    await page.mouse.up()
    expect(await at(start())).toBe(44)
    await page.getByRole('button', { name: 'Snap to findings and loops' }).click()
    await drag(card + 60)
    await page.mouse.up()
    await drag(card + 6)
    await page.mouse.up()
    expect(await at(start())).toBeGreaterThan(44)
    await saved()
  })

  it('moves the whole cut without changing its length', async () => {
    await openClip('dusk-window')
    await start().waitFor()
    const [first, last] = [await at(start()), await at(end())]
    const bar = page.getByRole('slider', { name: 'Move the cut' })
    await bar.focus()
    await page.keyboard.press('Shift+ArrowRight')
    await expect.poll(() => at(start())).toBe(first + 10)
    expect(await at(end())).toBe(last + 10)
    await saved()
  })
})

describe('the seam', () => {
  it('is told with its meaning, blended over a length that suits the motion, and drawn as two ramps', async () => {
    // A backdrop of its own: which one of the demonstration was changed last depends on the tests
    // before this one, and so do its cut and the words of its seam.
    await openClip('dusk-window')
    await page.getByText(/times an ordinary step: a visible jump/).waitFor({ timeout: 100_000 })
    await page.getByRole('radio', { name: /Blended/ }).click()
    await page.getByRole('button', { name: 'Suggest overlap' }).click()
    await page
      .getByText(/other step: invisible|too small to see/)
      .first()
      .waitFor({ timeout: 120_000 })
    await page.getByText(/Straight seam of this cut: \d+\.\d/).waitFor()
    const overlap = page.getByRole('slider', { name: 'Overlap of the seam' })
    const seconds = async (): Promise<number> =>
      parseFloat((await overlap.getAttribute('aria-valuetext'))!)
    const before = await seconds()
    await overlap.focus()
    await page.keyboard.press('ArrowRight')
    expect((await seconds()) - before).toBeCloseTo(1 / 24, 2)
    await expect
      .poll(() => page.getByRole('link', { name: /^Timing/ }).textContent(), { timeout: 60_000 })
      .toMatch(/seam \d\.\d/)
    await saved()
  })

  it('is seen close: the second around it at two speeds, both frames and their difference', async () => {
    await openClip('viaduct-crossing')
    await page.getByRole('button', { name: 'Preview seam' }).click()
    for (const name of ['Full speed', 'Quarter speed', 'Last frame', 'First frame', 'Difference'])
      await page.getByRole('img', { name }).waitFor()
    const brightness = () =>
      page.getByRole('img', { name: 'Difference' }).evaluate((canvas: HTMLCanvasElement) =>
        canvas
          .getContext('2d')!
          .getImageData(0, 0, canvas.width, canvas.height)
          .data.reduce((sum, value, index) => sum + (index % 4 === 3 ? 0 : value), 0),
      )
    const plain = await brightness()
    await page.getByRole('button', { name: '1 ×', exact: true }).click()
    await expect.poll(brightness).toBeLessThan(plain * 0.6)
    await page.getByRole('button', { name: '16 ×' }).click()
    await expect.poll(brightness).toBeGreaterThan(plain)
    const frames = await page
      .getByRole('img', { name: 'Full speed' })
      .evaluate(async (canvas: HTMLCanvasElement) => {
        const seen = new Set<string>()
        for (let turn = 0; turn < 60; turn++) {
          seen.add(
            canvas
              .getContext('2d')!
              .getImageData(0, canvas.height / 2, canvas.width, 1)
              .data.join(),
          )
          await new Promise(requestAnimationFrame)
        }
        return seen.size
      })
    expect(frames).toBeGreaterThan(8)
    expect(
      (
        await new AxeBuilder({ page }).include('section[aria-label="Timing deck"]').analyze()
      ).violations.map(({ id }) => id),
    ).toEqual([])
  })

  it('has none where the clip plays once, which may fade back to the poster', async () => {
    await openClip('viaduct-crossing')
    await page.getByRole('radio', { name: /^Play once/ }).click()
    await page.getByRole('radio', { name: /^Fade to poster/ }).click()
    await page.getByText('plays once, fades to the poster').waitFor()
    await page.getByRole('tab', { name: 'Seam' }).click()
    await page.getByText('The clip plays once: there is no seam.').waitFor()
    await expect
      .poll(
        () =>
          stage()
            .locator('.tln-backdrop')
            .evaluate(
              (root) =>
                root.classList.contains('tln-ended') &&
                getComputedStyle(root.querySelector('.tln-video')!).opacity,
            ),
        { timeout: 40_000 },
      )
      .toBe('0')
    await saved()
  })

  it('turns there and back, which shows in length and strip', async () => {
    await openClip('tunnel-mouth')
    await page.getByRole('radio', { name: /^Ping-pong/ }).click()
    await page.getByText('↩ backward').waitFor()
    await page
      .getByText(/^\d+\.\d\d s, \d+ frames$/)
      .first()
      .waitFor()
    await saved()
  })
})

describe('finding a loop', () => {
  it('offers joins as small looping pictures, and taking one is one step to undo', async () => {
    await openClip('rain-platform')
    const [first, last] = [await at(start()), await at(end())]
    await page.getByRole('button', { name: 'Find loop' }).click()
    await page.getByLabel('Shortest').fill('2')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Find loops' }).click()
    const loops = page.getByRole('list', { name: 'Loops found' }).getByRole('listitem')
    await loops.first().waitFor({ timeout: 60_000 })
    const seams = (await loops.allTextContents()).map((text) =>
      parseFloat(/seam (\d+\.\d+)/.exec(text)![1]!),
    )
    expect([...seams].sort((a, b) => a - b)).toEqual(seams)
    expect(seams[0]).toBeLessThan(1.2)
    await page.getByRole('button', { name: 'Use loop 1' }).click()
    await page.getByRole('button', { name: 'Loop 1 is used' }).waitFor()
    await page.getByRole('tab', { name: 'Filmstrip' }).click()
    await expect.poll(async () => [await at(start()), await at(end())]).not.toEqual([first, last])
    await page.getByRole('button', { name: 'Undo: take a found loop' }).click()
    await expect.poll(async () => [await at(start()), await at(end())]).toEqual([first, last])
    await saved()
    expect(complaints).toEqual([])
  })

  it('says so when nothing fits, and can be stopped without a trace', async () => {
    await openClip('dusk-window')
    await page.getByRole('tab', { name: 'Find loop' }).click()
    await page.getByLabel('Longest').fill('60')
    await page.keyboard.press('Enter')
    await page.getByLabel('Shortest').fill('50')
    await page.keyboard.press('Enter')
    await page.getByText('This part is shorter than the shortest loop asked for.').waitFor()
    expect(await page.getByRole('button', { name: 'Find loops' }).isDisabled()).toBe(true)
    await page.getByLabel('Shortest').fill('4')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Find loops' }).click()
    await page.getByRole('button', { name: 'Stop search' }).click()
    await page.getByText('Stopped. Nothing was changed.').waitFor()
  })
})

describe('the poster', () => {
  it('is compared with the first frame by a line that is dragged, and the swap is measured', async () => {
    await openClip('archive-reel')
    await page.getByRole('tab', { name: 'Poster' }).click()
    const wipe = page.getByRole('slider', { name: 'Compare poster with first frame' })
    await wipe.waitFor({ timeout: 60_000 })
    await page.getByText('The poster swap is invisible.', { exact: true }).waitFor()
    await wipe.focus()
    await page.keyboard.press('ArrowRight')
    // The same wipe stands on the stage, behind the copy.
    await expect.poll(shownFrame).toBe(-1)
    await page.getByRole('button', { name: 'Suggest frames' }).click()
    const offers = page.getByRole('list', { name: 'Suggested poster frames' }).getByRole('listitem')
    await expect.poll(() => offers.count(), { timeout: 60_000 }).toBe(3)
    await offers
      .filter({ hasNotText: '0.00 s' })
      .first()
      .getByRole('button', { name: 'Use as poster' })
      .click()
    await page.getByText(/Differs from the first frame/).waitFor()
    await page
      .getByText(/The poster swap is visible/)
      .first()
      .waitFor({ timeout: 60_000 })
    await page.getByRole('button', { name: 'Undo: poster' }).click()
    await page.getByText('Identical to the first frame').waitFor()
    await saved()
  })

  it('may be one from the shelf, or the frame at the playhead', async () => {
    await openClip('viaduct-crossing')
    await page.getByRole('button', { name: /^Poster shows/ }).click()
    await page.getByRole('option', { name: 'fjord-night.webp' }).click()
    await saved()
    await page.getByRole('tab', { name: 'Poster' }).click()
    await page
      .getByText(/The poster swap is visible/)
      .first()
      .waitFor({ timeout: 60_000 })
    await page.getByRole('tab', { name: 'Filmstrip' }).click()
    await playhead().focus()
    await page.keyboard.press('Home')
    await page.keyboard.press('Shift+ArrowRight')
    await page.getByRole('button', { name: 'Use frame at playhead' }).click()
    await page.getByRole('button', { name: /^Poster shows: The frame at \d/ }).waitFor()
    await saved()
    expect(complaints).toEqual([])
  })
})

describe('crop and straighten', () => {
  it('takes bars away at a click, turns and flips, and shows it on the stage', async () => {
    await openClip('archive-reel', 'material')
    await page.getByText(/Black bars take 20 % of the picture/).waitFor()
    await page.getByRole('button', { name: 'Crop the black bars' }).click()
    await page.getByText('1022 × 720 left').waitFor()
    await expect
      .poll(
        () =>
          stage()
            .locator('video')
            .evaluate((video: HTMLVideoElement) => video.videoWidth / video.videoHeight),
        { timeout: 60_000 },
      )
      .toBeCloseTo(1022 / 720, 1)
    await page.getByRole('button', { name: 'Turn a quarter to the right' }).click()
    await page.getByText('720 × 1022 left').waitFor()
    await page.getByRole('button', { name: 'Flip' }).click()
    expect(await page.getByRole('button', { name: 'Flip' }).getAttribute('aria-pressed')).toBe(
      'true',
    )
    await page.getByRole('button', { name: 'Reset crop' }).click()
    await page.getByText('uncropped', { exact: true }).waitFor()
    await saved()
  })

  it('moves edges by keyboard, typed pixels and pointer', async () => {
    await openClip('archive-reel', 'material')
    const left = page.getByRole('slider', { name: 'left edge of the crop' })
    await left.focus()
    await page.keyboard.press('Shift+ArrowRight')
    expect(await left.getAttribute('aria-valuenow')).toBe('20')
    await page.getByLabel('Bottom', { exact: true }).fill('600')
    await page.keyboard.press('Enter')
    await page.getByText('1260 × 600 left').waitFor()
    const right = page.getByRole('slider', { name: 'right edge of the crop' })
    const box = (await right.boundingBox())!
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
    await page.mouse.down()
    await page.mouse.move(box.x - 30, box.y + box.height / 2, { steps: 4 })
    await page.mouse.up()
    expect(Number(await right.getAttribute('aria-valuenow'))).toBeLessThan(1220)
    await page.getByRole('button', { name: 'Reset crop' }).click()
    // What a crop takes away is no longer told, and so is offered no more.
    await page.getByRole('button', { name: 'Crop out the mark' }).click()
    await page.getByText(/1280 × 6\d\d left/).waitFor()
    expect(await page.getByRole('button', { name: 'Crop out the mark' }).count()).toBe(0)
    await saved()
  })
})
