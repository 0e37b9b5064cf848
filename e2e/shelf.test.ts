import { AxeBuilder } from '@axe-core/playwright'
import { copyFile, mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { memorySource } from '../core/bytes/ByteSource'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import { findingsOf } from '../core/material/findings'
import { writeMp4 } from '../core/media/isobmff/writeMp4'
import { probe } from '../core/media/probe'
import { readMedia } from '../core/media/readMedia'
import { RenderBrowser } from '../headless/RenderBrowser'
import type { TestServer } from '../server/testing/testServer'
import { CLIPS } from './harness'
import { inStudio } from './inStudio'

/* The shelf and its sources in a real Chromium, on the real server and PostgreSQL. */

let server: TestServer
let page: Page
let complaints: string[]
let shelfUrl: string
inStudio((studio) => ({ server, page, complaints } = studio))
beforeEach(async () => {
  const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as { id: string }[]
  shelfUrl = `${server.url}/projects/${project!.id}/shelf`
})

const cards = () => page.getByRole('list', { name: 'Sources' }).getByRole('listitem')
const names = async (): Promise<string[]> =>
  page.getByRole('list', { name: 'Sources' }).getByRole('heading').allTextContents()
async function openShelf(query = ''): Promise<void> {
  await page.goto(shelfUrl + query)
  await page.getByRole('heading', { name: 'Shelf' }).waitFor()
}
async function openSource(name: string): Promise<void> {
  await openShelf(`?search=${name}`)
  await page.getByRole('heading', { name }).getByRole('link').click()
  await page.getByRole('heading', { name: 'Findings' }).waitFor()
}
async function pick(filter: string | RegExp, option: string): Promise<void> {
  await page
    .getByRole('group', { name: 'Filter and sort' })
    .getByRole('button', { name: filter })
    .click()
  await page.getByRole('option', { name: option, exact: true }).click()
}

describe('finding material', () => {
  it('filters, sorts and searches, and keeps it in the address', async () => {
    await openShelf()
    await expect.poll(names).toHaveLength(17)
    await pick(/^Kind/, 'Images')
    await expect.poll(names).toHaveLength(9)
    await page.getByRole('button', { name: 'Clear' }).click()
    await pick(/^Motion/, 'Busy')
    await expect.poll(names).toEqual(['rain-platform.mp4'])
    await page.reload()
    await expect.poll(names).toEqual(['rain-platform.mp4'])
    await page.getByRole('button', { name: 'Clear' }).click()
    await page.getByLabel('Search by name').fill('fjord')
    await expect.poll(names).toHaveLength(2)
    await page.getByLabel('Search by name').fill('nothing of the kind')
    await page.getByText('No source matches these filters.').waitFor()
    await page.getByRole('button', { name: 'Clear filters' }).click()
    await pick(/^Sort/, 'By name')
    await expect.poll(async () => (await names())[0]).toBe('archive-reel.mp4')
    await page.getByRole('button', { name: 'Compact list' }).click()
    await expect
      .poll(() =>
        cards()
          .first()
          .boundingBox()
          .then((box) => Math.round(box!.height)),
      )
      .toBeLessThan(70)
    expect(complaints).toEqual([])
  })

  it('scrubs a clip’s picture with the pointer, and plays it under the keyboard', async () => {
    await openShelf('?search=rain')
    const link = page.getByRole('link', { name: 'Open rain-platform.mp4' })
    const shown = (): Promise<string> =>
      link
        .locator('[style*="background-position"]')
        .evaluate((element) => element.style.backgroundPosition)
    const box = (await link.boundingBox())!
    await page.mouse.move(box.x + box.width * 0.1, box.y + 50)
    const early = await shown()
    await page.mouse.move(box.x + box.width * 0.9, box.y + 50)
    expect(await shown()).not.toBe(early)
    await page.mouse.move(5, 5)
    await link.focus()
    const first = await shown()
    await expect.poll(shown).not.toBe(first)
  })

  it('selects several, takes them off at once, and brings them back by undo', async () => {
    await openShelf('?kind=image&sort=name')
    await page.getByLabel('Select route-map.svg').check()
    await page.getByLabel('Select window-seat.png').check()
    await page.getByText('2 selected').waitFor()
    await page.getByRole('button', { name: 'Take off the shelf' }).click()
    await expect.poll(names).toHaveLength(7)
    expect(await names()).not.toContain('route-map.svg')
    await page
      .getByRole('status', { name: 'Notices' })
      .getByRole('button', { name: 'Undo' })
      .click()
    await expect.poll(names).toHaveLength(9)
  })

  it('makes a set of images, and changes its order by keyboard', async () => {
    await openShelf('?kind=image&sort=name')
    await page.getByLabel('Select first-snow.jpg').check()
    await page.getByLabel('Select fjord-night.webp').check()
    await page.getByRole('button', { name: 'Make a set of images' }).click()
    await page.getByRole('dialog').getByLabel('Name').fill('Two of winter')
    await page.getByRole('button', { name: 'Create set' }).click()
    const set = page.getByRole('region', { name: 'Set Two of winter' })
    const order = (): Promise<string[]> =>
      set.getByRole('listitem').getByRole('link').allTextContents()
    await expect.poll(order).toEqual(['first-snow.jpg', 'fjord-night.webp'])
    await set.getByRole('button', { name: 'Move first-snow.jpg, place 1' }).focus()
    await page.keyboard.press('Space')
    await page.waitForTimeout(300)
    await page.keyboard.press('ArrowRight')
    await page.waitForTimeout(300)
    await page.keyboard.press('Space')
    await expect.poll(order).toEqual(['fjord-night.webp', 'first-snow.jpg'])
    await page.reload()
    await expect.poll(order).toEqual(['fjord-night.webp', 'first-snow.jpg'])
    await page.getByRole('button', { name: 'Delete set' }).click()
    await set.waitFor({ state: 'detached' })
  })
})

describe('a set', () => {
  it('is shown whole, whatever was filtered before', async () => {
    await openShelf('?kind=clip&liveliness=busy')
    await expect.poll(names).toEqual(['rain-platform.mp4'])
    await pick(/^Sets/, 'Set: Winter slides')
    const set = page.getByRole('region', { name: 'Set Winter slides' })
    await expect.poll(() => set.getByRole('listitem').count()).toBe(3)
    await set.getByRole('button', { name: 'Remove fjord-night.webp from the set' }).click()
    await expect.poll(() => set.getByRole('listitem').count()).toBe(2)
    await page
      .getByRole('status', { name: 'Notices' })
      .getByRole('button', { name: 'Undo' })
      .click()
    await expect.poll(() => set.getByRole('listitem').count()).toBe(3)
  })
})

describe('new material', () => {
  it('is measured by itself, image by image and clip by clip, and known content is not added twice', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-'))
    const clip = join(folder, 'my tunnel.mov')
    const bytes = await readFile(join(CLIPS, 'tunnel-mouth.mp4'))
    // A byte behind the last frame makes it other content; the name's ending is wrong, which does
    // not matter.
    await writeFile(clip, Buffer.concat([bytes, Buffer.from([0, 0, 0, 9, 102, 114, 101, 101, 1])]))
    const photo = join(folder, 'my photo.png')
    await copyFile(join(CLIPS, 'first-snow.jpg'), photo)
    await openShelf()
    await page.getByLabel('Files to add').setInputFiles([clip, photo])
    await page.getByText(/is on the shelf already, as first-snow.jpg/).waitFor()
    const card = cards().filter({ hasText: 'my tunnel.mov' })
    await card.waitFor()
    await card.getByText(/Black from 7.20 s/).waitFor({ timeout: 60_000 })
    expect(await page.getByText('my photo.png').count()).toBeLessThanOrEqual(1)
    expect(complaints).toEqual([])
  }, 120_000)

  it('can be left unmeasured, and measured later', async () => {
    const clip = join(await mkdtemp(join(tmpdir(), 'telon-')), 'stopped.mp4')
    const bytes = await readFile(join(CLIPS, 'harbour-lights.mp4'))
    await writeFile(clip, Buffer.concat([bytes, Buffer.from([0, 0, 0, 9, 102, 114, 101, 101, 2])]))
    await openShelf()
    await page.getByLabel('Files to add').setInputFiles(clip)
    const card = cards().filter({ hasText: 'stopped.mp4' })
    await card.getByRole('button', { name: 'Stop', exact: true }).click()
    await card.getByText('not measured').waitFor()
    await card.getByRole('button', { name: 'Measure', exact: true }).click()
    await card.getByText(/^Soft: detail/).waitFor({ timeout: 60_000 })
  }, 120_000)
})

describe('a source', () => {
  it('is stepped through frame by frame, by keys and along its filmstrip', async () => {
    await openSource('dusk-window.mov')
    const counter = page.getByText(/^frame \d+ of 336$/)
    await expect.poll(() => counter.textContent()).toBe('frame 1 of 336')
    await page.getByRole('button', { name: 'One frame on' }).click()
    await page.keyboard.press('ArrowRight')
    await page.keyboard.press('Shift+ArrowRight')
    await expect.poll(() => counter.textContent()).toBe('frame 13 of 336')
    await page.getByRole('img', { name: 'Frame 13 of 336' }).waitFor()
    const strip = page.getByRole('slider', { name: 'Moment of the clip' })
    const box = (await strip.boundingBox())!
    await page.mouse.click(box.x + box.width / 2, box.y + 20)
    await expect
      .poll(async () =>
        Math.abs(Number(/frame (\d+)/.exec((await counter.textContent())!)![1]) - 169),
      )
      .toBeLessThan(3)
    // The exact frame is drawn: the sun stands where the scene puts it at that moment.
    await expect
      .poll(() =>
        page
          .getByRole('img', { name: /^Frame/ })
          .evaluate((canvas: HTMLCanvasElement) => canvas.width),
      )
      .toBe(1280)
    expect(complaints).toEqual([])
  })

  it('takes the part behind its title card with one click', async () => {
    await openSource('dusk-window.mov')
    await page.getByRole('button', { name: 'Take 1.83 to 14.00 s' }).click()
    await page.getByRole('dialog').getByText('It starts with 1.83 to 14.00 s').waitFor()
    await page.getByRole('button', { name: 'Open the workbench' }).click()
    await page.waitForURL(/backdrops\/.*\/timing/)
    await expect
      .poll(() =>
        page.getByRole('slider', { name: 'Start of the cut' }).getAttribute('aria-valuenow'),
      )
      .toBe('44')
  })

  it('is repaired in place, tells what that saved, and comes back by undo', async () => {
    await openSource('dusk-window.mov')
    await page.getByRole('button', { name: 'Remove sound' }).click()
    await page.getByText(/1.67 MB → 1.44 MB, 22\d kB saved/).waitFor()
    await page.getByRole('button', { name: 'Remove sound' }).waitFor({ state: 'detached' })
    await page
      .getByRole('status', { name: 'Notices' })
      .getByRole('button', { name: 'Undo' })
      .click()
    await page.getByRole('button', { name: 'Remove sound' }).waitFor()
  })

  it('is repaired from the shelf as well', async () => {
    await openShelf('?search=dusk')
    await page.getByRole('button', { name: 'More for dusk-window.mov' }).click()
    await page.getByRole('menuitem', { name: /Remove sound/ }).click()
    await page.getByText(/22\d kB saved/).waitFor()
    await cards().first().getByText('silent').waitFor()
    await page
      .getByRole('status', { name: 'Notices' })
      .getByRole('button', { name: 'Undo' })
      .click()
    await cards().first().getByText('with sound').waitFor()
  })

  it('says where a cut really starts, and adds it as a source', async () => {
    await openSource('tunnel-mouth.mp4')
    await page.getByLabel('From').fill('4.5')
    await page.getByLabel('From').press('Enter')
    await page.getByText('it starts at 4.00 s').waitFor()
    await page.getByLabel('To', { exact: true }).fill('6.5')
    await page.getByLabel('To', { exact: true }).press('Enter')
    await page.getByRole('button', { name: 'Copy this part' }).click()
    await page.getByText('tunnel-mouth 4.5–6.5.mp4').first().waitFor()
    await page.getByText(/frame 1 of 63/).waitFor()
  })

  it('replaces another wherever it is used', async () => {
    await openShelf('?search=dusk')
    await page.getByRole('button', { name: 'More for dusk-window.mov' }).click()
    await page.getByRole('menuitem', { name: 'Replace where it is used' }).click()
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /aurora-fjord/ })
      .click()
    await page.getByRole('button', { name: 'Replace everywhere' }).click()
    await page.getByText(/aurora-fjord.webm now replaces dusk-window.mov in/).waitFor()
    await cards().filter({ hasText: 'dusk-window.mov' }).getByText('not used yet').waitFor()
  })

  it('that is an image is shown upright, with what its metadata tells', async () => {
    await openSource('first-snow.jpg')
    const size = await page
      .getByRole('img', { name: 'first-snow.jpg' })
      .evaluate((image: HTMLImageElement) => [image.naturalWidth, image.naturalHeight])
    expect(size).toEqual([1600, 900])
    await page.getByText(/It says which device made it, where it was taken/).waitFor()
  })

  it('that is a drawing is shown as one, on the shelf and by itself', async () => {
    await openShelf('?search=route')
    await expect
      .poll(() =>
        cards()
          .first()
          .locator('img')
          .evaluate((image: HTMLImageElement) => image.naturalWidth),
      )
      .toBe(800)
    await openSource('route-map.svg')
    await expect
      .poll(() =>
        page
          .getByRole('img', { name: 'route-map.svg' })
          .evaluate((image: HTMLImageElement) => image.naturalHeight),
      )
      .toBe(500)
    await page.getByText('any width').waitFor()
  })

  it('that is a GIF is a clip like any other, and tells what it would weigh as one', async () => {
    await openSource('signal-blink.gif')
    await page.getByText(/1.48 MB GIF → \d+ kB H.264/).waitFor()
    await page.getByRole('button', { name: 'One frame on' }).click()
    await page.getByRole('img', { name: 'Frame 2 of 40' }).waitFor()
    expect(
      await page
        .getByRole('img', { name: 'Frame 2 of 40' })
        .evaluate((canvas: HTMLCanvasElement) => {
          const { data } = canvas.getContext('2d')!.getImageData(125, 96, 1, 1)
          return [...data.subarray(0, 3)]
        }),
    ).toSatisfy(([r, g, b]: number[]) => r! > 150 && g! < 110 && b! < 110)
  })

  it.each(['?view=list', '?kind=image', ''])(
    'and the shelf have no accessibility violation: %s',
    async (query) => {
      await openShelf(query)
      await cards().first().waitFor()
      const onShelf = await new AxeBuilder({ page }).analyze()
      if (query === '') await openSource('tunnel-mouth.mp4')
      const found = [
        ...onShelf.violations,
        ...(await new AxeBuilder({ page }).analyze()).violations,
      ]
      expect(
        found.map(
          (violation) =>
            `${violation.id}: ${violation.nodes
              .map((node) => node.html)
              .join(' ')
              .slice(0, 300)}`,
        ),
      ).toEqual([])
    },
  )
})

describe('the demonstration’s flaws, measured anew', () => {
  it('are found where they were drawn, and nothing is found on the clean clip', async () => {
    const renderer = await RenderBrowser.start()
    const told: Record<string, string[]> = {}
    for (const name of [
      'dusk-window.mov',
      'tunnel-mouth.mp4',
      'archive-reel.mp4',
      'rain-platform.mp4',
      'harbour-lights.mp4',
      'aurora-fjord.webm',
    ]) {
      const facts = await probe(memorySource(new Uint8Array(await readFile(join(CLIPS, name)))))
      if (!facts.ok) throw facts.error
      const { analysis } = await renderer.analyse(join(CLIPS, name))
      if (name === 'dusk-window.mov')
        expect(Math.abs(analysis!.titleEndMs! - 1800)).toBeLessThanOrEqual(2000 / 24)
      if (name === 'tunnel-mouth.mp4')
        expect([analysis!.cutsMs, analysis!.black.endMs]).toEqual([[4000], 7200])
      told[name] = findingsOf(facts.value, analysis)
        .filter((finding) => finding.weight !== 'note')
        .map((finding) => finding.code)
    }
    await renderer.stop()
    expect(told).toEqual({
      'dusk-window.mov': ['title-card'],
      'tunnel-mouth.mp4': ['black-end', 'hard-cut'],
      'archive-reel.mp4': ['mark', 'bars'],
      'rain-platform.mp4': ['heavy', 'busy'],
      'harbour-lights.mp4': ['soft'],
      'aurora-fjord.webm': [],
    })
  }, 180_000)
})

describe('animated pictures', () => {
  /** Five frames of a light that wanders over grey, each coded by the browser itself. */
  const images = (type: string): Promise<number[][]> =>
    page.evaluate(async (mime) => {
      const frames: number[][] = []
      for (let frame = 0; frame < 5; frame++) {
        const canvas = new OffscreenCanvas(160, 90)
        const painter = canvas.getContext('2d')!
        painter.fillStyle = '#808080'
        painter.fillRect(0, 0, 160, 90)
        painter.fillStyle = '#ff8000'
        painter.fillRect(20 + frame * 20, 30, 30, 30)
        frames.push([
          ...new Uint8Array(
            await (await canvas.convertToBlob({ type: mime, quality: 0.9 })).arrayBuffer(),
          ),
        ])
      }
      return frames
    }, type)

  it('in WebP are footage like any other', async () => {
    await page.goto(server.url)
    const text = (value: string): number[] => [...value].map((letter) => letter.charCodeAt(0))
    const little = (value: number, bytes: number): number[] =>
      Array.from({ length: bytes }, (_, index) => (value >> (8 * index)) & 255)
    const chunk = (tag: string, body: readonly number[]): number[] => [
      ...text(tag),
      ...little(body.length, 4),
      ...body,
      ...(body.length % 2 ? [0] : []),
    ]
    /** An image's picture chunk, out of its own container. */
    const picture = (image: number[]): number[] => {
      for (let at = 12; at < image.length;) {
        const size = image[at + 4]! | (image[at + 5]! << 8) | (image[at + 6]! << 16)
        if (/^VP8[ L]$/.test(String.fromCharCode(...image.slice(at, at + 4))))
          return image.slice(at, at + 8 + size + (size & 1))
        at += 8 + size + (size & 1)
      }
      throw new Error('no picture')
    }
    const frames = (await images('image/webp')).map((image) =>
      chunk('ANMF', [
        ...little(0, 3),
        ...little(0, 3),
        ...little(159, 3),
        ...little(89, 3),
        ...little(80, 3),
        0,
        ...picture(image),
      ]),
    )
    const body = [
      ...text('WEBP'),
      ...chunk('VP8X', [2, 0, 0, 0, ...little(159, 3), ...little(89, 3)]),
      ...chunk('ANIM', [0, 0, 0, 0, 0, 0]),
      ...frames.flat(),
    ]
    const file = join(await mkdtemp(join(tmpdir(), 'telon-')), 'wandering.webm')
    await writeFile(file, Uint8Array.from([...text('RIFF'), ...little(body.length, 4), ...body]))
    await openShelf()
    await page.getByLabel('Files to add').setInputFiles(file)
    const card = cards().filter({ hasText: 'wandering.webm' })
    await card.getByText('animated WebP').waitFor()
    await card.getByText(/Only 160 pixels wide/).waitFor({ timeout: 60_000 })
    await card.getByRole('heading').getByRole('link').click()
    await page.getByText(/kB animated WebP → \d+ kB H.264/).waitFor({ timeout: 60_000 })
    await page.getByRole('button', { name: 'One frame on' }).click()
    await page.getByRole('button', { name: 'One frame on' }).click()
    const canvas = page.getByRole('img', { name: 'Frame 3 of 5' })
    const colour = (x: number): Promise<number[]> =>
      canvas.evaluate(
        (element: HTMLCanvasElement, at) => [
          ...element.getContext('2d')!.getImageData(at, 45, 1, 1).data.subarray(0, 3),
        ],
        x,
      )
    await expect
      .poll(async () => (await colour(75))[0]! - (await colour(75))[2]!)
      .toBeGreaterThan(150)
    expect(Math.abs((await colour(40))[0]! - 128)).toBeLessThan(12)
    await page.getByRole('button', { name: 'Play' }).click()
    await page.getByRole('img', { name: 'wandering.webm' }).waitFor()
  })
})

describe('clips that browsers stumble over', () => {
  let renderer: RenderBrowser
  let folder: string
  beforeAll(async () => {
    renderer = await RenderBrowser.start()
    folder = await mkdtemp(join(tmpdir(), 'telon-'))
  })
  afterAll(() => renderer.stop())
  const clip = async (): Promise<Uint8Array> =>
    new Uint8Array(await readFile(join(CLIPS, 'viaduct-crossing.mp4')))
  const put = async (name: string, bytes: Uint8Array): Promise<string> => {
    await writeFile(join(folder, name), bytes)
    return join(folder, name)
  }
  /** The bytes of every frame, changed. */
  const withFrames = async (
    change: (frame: Uint8Array, index: number) => void,
  ): Promise<Uint8Array> => {
    const bytes = await clip()
    const read = await readMedia(memorySource(bytes))
    if (!read.ok) throw read.error
    const { offsets, sizes, count } = read.value.video.samples
    for (let index = 0; index < count; index++)
      change(bytes.subarray(offsets[index]!, offsets[index]! + sizes[index]!), index)
    return bytes
  }

  it('are decoded although they declare a level that does not exist', async () => {
    const bytes = await clip()
    const at = Buffer.from(bytes).indexOf('avcC') + 4
    // The level in the record, and in the parameter set behind its length.
    bytes[at + 3] = 0
    bytes[at + 8 + 3] = 0
    const file = await put('odd-level.mp4', bytes)
    const facts = await probe(memorySource(bytes))
    expect(facts.ok && facts.value.kind === 'clip' && facts.value.video.codec).toMatch(
      /^avc1\.\w{4}00$/,
    )
    expect((await renderer.analyse(file)).analysis).toMatchObject({ frames: 225 })
  })
  it.each([
    ['frames that are nothing but zeros', (frame: Uint8Array) => void frame.fill(0)],
    [
      'frames that hold no picture',
      (frame: Uint8Array) =>
        void frame.set([0, 0, 0, frame.byteLength - 4, 0x09, 0xf0].slice(0, frame.byteLength)),
    ],
    [
      'damage from the first frame on',
      (frame: Uint8Array, index: number) => void (index === 0 && frame.fill(0xa5, 5)),
    ],
  ])('end in a sentence that tells what to do, within five seconds: %s', async (name, change) => {
    const file = await put(`${name.slice(0, 10)}.mp4`, await withFrames(change))
    const start = performance.now()
    await expect(renderer.analyse(file)).rejects.toThrow(/Export/)
    // Five seconds of waiting for a picture, and room for a busy machine; without a limit, minutes.
    expect(performance.now() - start).toBeLessThan(20_000)
  })
  it('are cut exactly although every frame is flagged as a key frame', async () => {
    const bytes = await clip()
    const at = Buffer.from(bytes).indexOf('stss')
    bytes.set(
      [...'free'].map((letter) => letter.charCodeAt(0)),
      at,
    )
    const file = await put('lying-keys.mp4', bytes)
    const recipe = {
      kind: 'poster',
      sequence: plainSequence({
        size: { width: 1280, height: 720 },
        cut: { timescale: 25, start: 140, end: 200 },
        frameRate: { num: 25, den: 1 },
        loops: true,
      }),
      copyBlur: null,
      format: 'webp',
      width: 640,
      height: 360,
      maxBytes: 100_000,
      shared: null,
      encoder: null,
      picture: { kind: 'first' },
    } as const
    const [true_, lying] = [
      await renderer.render(join(CLIPS, 'viaduct-crossing.mp4'), recipe),
      await renderer.render(file, recipe),
    ]
    expect(lying.bytes.equals(true_.bytes)).toBe(true)
  })
  it('that lack the frames before their first key frame are shown from that one on', async () => {
    const bytes = await clip()
    const read = await readMedia(memorySource(bytes))
    if (!read.ok) throw read.error
    // Two clips in one file: the first without its key frame, as a recording that was joined late.
    const { samples, codec, colour } = read.value.video
    const frames = Array.from({ length: 40 }, (_, index) => ({
      data: bytes.subarray(
        samples.offsets[index % 30]!,
        samples.offsets[index % 30]! + samples.sizes[index % 30]!,
      ),
      key: index % 30 === 0,
    })).slice(10)
    const file = await put(
      'late.mp4',
      writeMp4({
        family: 'h264',
        width: 640,
        height: 360,
        frameRate: { num: 25, den: 1 },
        frames,
        description: codec.description,
        colour: colour!,
      }),
    )
    expect((await renderer.analyse(file)).analysis).toMatchObject({ frames: 10, durationMs: 400 })
  })
})
