import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import type { BackdropRecord } from '../core/api/wire'
import { manifestSchema } from '../core/handoff/manifest'
import { STYLES } from '../core/particles/styles'
import type { TestServer } from '../server/testing/testServer'
import { telon } from './harness'
import { inStudio } from './inStudio'

/* Particles in the workbench and on the command line. */

let server: TestServer
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, page, complaints } = studio))

const json = async <T>(path: string): Promise<T> =>
  (await (await fetch(server.url + path)).json()) as T
const inner = () => page.frameLocator('iframe[title^="The backdrop"]')
const saved = () =>
  page
    .getByRole('status')
    .filter({ hasText: /^Saved/ })
    .waitFor()
const particlesNow = async () =>
  (await json<BackdropRecord>(`/api/backdrops/${page.url().split('/')[4]}`)).document.particles
const readout = () => page.getByRole('link', { name: /^(Material|Paint)/ })
/** What is drawn on the stage's canvas, as a sum that tells pictures apart. */
const drawn = (): Promise<number> =>
  inner()
    .locator('.stage-particles')
    .evaluate((element) => {
      const canvas = element as HTMLCanvasElement
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      return data.reduce((sum, value) => (Math.imul(sum, 31) + value) | 0, 7)
    })

/** Opens the particles of a backdrop, without motion where it is of no matter: it takes time. */
async function open(name: string, isCalm = true): Promise<void> {
  await page.emulateMedia({ reducedMotion: isCalm ? 'reduce' : 'no-preference' })
  const [project] = await json<{ id: string }[]>('/api/projects')
  await page.goto(`${server.url}/projects/${project!.id}`)
  await page.getByRole('link', { name }).click()
  await inner().locator('.tln-heading').waitFor()
  await readout().click()
  await page.getByRole('tab', { name: /^Particles/ }).click()
}

describe('particles in the workbench', () => {
  it('are chosen as a style, shown at once, measured, stopped, and taken back', async () => {
    await open('Cabin light', false)
    await page.getByText('Choose a style to see here what it costs').waitFor()
    await page.getByRole('radio', { name: 'Lantern night' }).click()
    await expect.poll(drawn).not.toBe(0)
    const before = await drawn()
    await expect.poll(drawn).not.toBe(before)
    await page.getByText(/^\+ Lantern night, \d+$/).waitFor()
    await saved()
    expect((await particlesNow())?.style).toBe('lantern-night')
    await page.getByText(/^\d+\.\d ms, \d+ fps$/).waitFor()
    await page.getByRole('button', { name: 'Try on slow machines' }).click()
    // The test's server has no browser; the refusal is told, and nothing else is lost.
    await page.getByRole('alert').filter({ hasText: 'no browser' }).waitFor()
    expect(await page.getByRole('button', { name: 'Try on slow machines' }).count()).toBe(1)
    await page.getByRole('button', { name: 'Pause the stage' }).click()
    await page.getByRole('button', { name: 'Play the stage' }).waitFor()
    const held = await drawn()
    await page.waitForTimeout(400)
    expect(await drawn()).toBe(held)
    await page.getByRole('button', { name: 'Undo: particles' }).click()
    await expect.poll(() => inner().locator('.stage-particles').count()).toBe(0)
    await saved()
    expect(await particlesNow()).toBe(null)
    // The refused try, and nothing else.
    expect(complaints.filter((each) => !each.includes('501'))).toEqual([])
  })
  it('are adjusted by controls, by keyboard too, and begin anew with another seed', async () => {
    await open('Galley fire')
    const count = page.getByRole('slider', { name: 'Elements', exact: true })
    const before = (await particlesNow())!.definition
    await count.focus()
    await page.keyboard.press('Home')
    await expect.poll(async () => (await particlesNow())!.definition.perMegapixel).toBeLessThan(2)
    await page.getByRole('button', { name: 'As in the style' }).click()
    await expect.poll(async () => (await particlesNow())!.definition).toEqual(before)
    await page.getByRole('button', { name: 'New seed' }).click()
    await expect.poll(async () => (await particlesNow())!.definition.seed).not.toBe(before.seed)
    expect(await page.getByRole('button', { name: 'Undo: particles: new seed' }).count()).toBe(1)
    // One drag of a slider is one step.
    await page.getByRole('slider', { name: 'Spread of directions' }).focus()
    for (let press = 0; press < 4; press++) await page.keyboard.press('ArrowRight')
    await expect
      .poll(async () => (await particlesNow())!.definition.motion.spread)
      .toBe(before.motion.spread + 4)
    await page.keyboard.press('Control+z')
    await expect
      .poll(async () => (await particlesNow())!.definition.motion.spread)
      .toBe(before.motion.spread)
    expect(complaints).toEqual([])
  })
  it('are turned and made faster on the stage, by drag and by keys', async () => {
    await open('Galley fire')
    const arrow = page.getByRole('button', { name: /^Direction \d+ degrees/ })
    const motion = async () => (await particlesNow())!.definition.motion
    const before = await motion()
    await arrow.focus()
    await page.keyboard.press('ArrowRight')
    await expect.poll(async () => (await motion()).direction).toBe(before.direction + 5)
    await page.keyboard.press('ArrowUp')
    await expect.poll(async () => (await motion()).speed.to).toBeGreaterThan(before.speed.to)
    const box = (await arrow.boundingBox())!
    const stage = (await page.locator('iframe[title^="The backdrop"]').boundingBox())!
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
    await page.mouse.down()
    // To the right of the middle of the arrow.
    await page.mouse.move(stage.x + stage.width * 0.75, stage.y + stage.height * 0.5, { steps: 4 })
    await page.mouse.up()
    await expect.poll(async () => Math.abs((await motion()).direction - 90)).toBeLessThan(3)
    const depth = async () => (await particlesNow())!.definition.depth.size
    const deep = await depth()
    await page.getByRole('button', { name: /^Depth: far ones/ }).press('ArrowLeft')
    await expect.poll(depth).toBeCloseTo(deep - 0.01, 5)
    expect(complaints).toEqual([])
  })
  it('have a definition as text, refused line by line, taken as one step', async () => {
    await open('Galley fire')
    await page.getByRole('tab', { name: 'Definition' }).click()
    const text = page.getByRole('textbox', { name: 'Definition as text' })
    const present = await text.inputValue()
    await text.fill(present.replace('"period": 12', '"period": 1'))
    await page.getByText('Line 6.').waitFor()
    expect(await page.getByRole('button', { name: 'Apply' }).isDisabled()).toBe(true)
    await text.fill(present.replace('"period": 12', '"period": 9').replace('Ember drift', 'Hearth'))
    await page.getByRole('button', { name: 'Apply' }).click()
    await expect.poll(async () => (await particlesNow())!.definition.period).toBe(9)
    expect((await particlesNow())!.style).toBe(null)
    expect(await page.getByRole('radio', { name: 'Hearth' }).isChecked()).toBe(true)
    await page.getByRole('button', { name: 'Undo: particles' }).click()
    await expect.poll(async () => (await particlesNow())!.style).toBe('ember-drift')
    expect(complaints).toEqual([])
  })
  it('are compared with one clip of them and their base, and delivered as that', async () => {
    await open('Galley fire')
    await page.getByRole('button', { name: 'Compare both' }).click()
    const table = page.getByRole('table', { name: 'Live or rendered' })
    await table.getByText(/^about \d+\.\d without graphics processor$/).waitFor()
    await table.getByText('up to 2.50 MB, its budget').waitFor()
    await page.getByText(/^Recommended: live\./).waitFor()
    await page.getByRole('button', { name: 'Deliver as one clip' }).click()
    await expect.poll(async () => (await particlesNow())!.form).toBe('rendered')
    // Until it is rendered they are drawn in front of the base, as before.
    expect(await inner().locator('.stage-particles').count()).toBe(1)
    await page.getByRole('link', { name: /^Handoff/ }).click()
    await page
      .getByText(/clip-laptop|of \d+ media files/)
      .first()
      .waitFor()
    await page.getByRole('link', { name: /^Material/ }).click()
    await page.getByRole('tab', { name: /^Base/ }).click()
    await page.getByRole('tab', { name: /^Particles/ }).click()
    await page.getByRole('button', { name: 'Undo: particles rendered' }).click()
    await expect.poll(async () => (await particlesNow())!.form).toBe('live')
    expect(complaints).toEqual([])
  })
  it('are images from the shelf, small copies that are tinted and taken away', async () => {
    await open('Galley fire')
    const before = (await particlesNow())!.definition.shapes
    await page.getByRole('button', { name: 'Add an image from the shelf' }).click()
    await page.getByRole('option', { name: 'route-map.svg' }).click()
    const shapes = async () => (await particlesNow())!.definition.shapes
    await expect.poll(async () => (await shapes())[0]?.sprite ?? '').toMatch(/^data:image\/webp/)
    expect(await shapes()).toHaveLength(1)
    await page.getByRole('switch', { name: 'In the colours of the palette' }).click()
    await expect.poll(async () => (await shapes())[0]!.tinted).toBe(true)
    await page.getByRole('button', { name: 'Take this sprite away' }).click()
    await expect.poll(shapes).toEqual([{ shape: 'disc', weight: 1 }])
    for (let step = 0; step < 3; step++) await page.keyboard.press('Control+z')
    await expect.poll(shapes).toEqual(before)
    expect(complaints).toEqual([])
  })
  it('follow the loop below, in whole shares of it', async () => {
    await open('Dusk window')
    await page.getByRole('radio', { name: 'Beam dust' }).click()
    await page.getByRole('link', { name: /^Timing/ }).click()
    await page.getByText('period 8 s').waitFor()
    await page.getByRole('radio', { name: 'Half' }).click()
    await page.getByText('period 4 s').waitFor()
    await page.getByRole('button', { name: 'Undo: period of particles' }).click()
    await page.getByRole('button', { name: 'Undo: particles' }).click()
    await expect.poll(particlesNow).toBe(null)
  })
})

describe('particles on the command line', () => {
  it('are listed, printed, changed and delivered over a paint', async () => {
    const listed = await telon('particles')
    const names = listed.out
      .trim()
      .split('\n')
      .map((line) => line.split(' ')[0])
    expect(names).toEqual(STYLES.map(({ id }) => id))
    const folder = await mkdtemp(join(tmpdir(), 'telon-particles-'))
    const file = join(folder, 'mine.json')
    const printed = await telon('particles', 'route-net')
    await writeFile(file, printed.out.replace('Route net', 'My net'))
    const out = join(folder, 'out')
    const paint = ['deliver', '--paint', 'linear 120deg #1b2350 #b5563c', '--out', out]
    const done = await telon(...paint, '--particles', file)
    expect([done.code, done.err]).toEqual([0, expect.stringContaining('written to')])
    const manifest = manifestSchema.parse(
      JSON.parse(await readFile(join(out, 'manifest.json'), 'utf8')),
    )
    expect(manifest.layers.map(({ type }) => type)).toEqual(['paint', 'particles', 'scrim'])
    expect(manifest.scriptParts).toEqual(['particlePointer', 'particleLinks', 'particles'])
    expect(manifest.particles).toMatchObject({ name: 'My net', style: null, periodSeconds: 40 })
    expect(await readFile(join(out, 'README.txt'), 'utf8')).toContain('tln:fewer')
  })
  it('are rendered into one clip with what is below them', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-particles-'))
    const file = join(folder, 'mine.json')
    const printed = await telon('particles', 'quiet-snowfall')
    await writeFile(file, printed.out.replace(/"period": \d+/, '"period": 2'))
    const out = join(folder, 'out')
    const done = await telon(
      ...['deliver', '--paint', '#1b2350', '--out', out, '--particles', file],
      ...['--render', '--width', '320', '--formats', 'h264'],
    )
    expect([done.code, done.err]).toEqual([0, expect.stringContaining('written to')])
    const manifest = manifestSchema.parse(
      JSON.parse(await readFile(join(out, 'manifest.json'), 'utf8')),
    )
    expect(manifest.layers.map(({ type }) => type)).toEqual(['picture', 'video', 'scrim'])
    expect(manifest.particles).toMatchObject({ form: 'rendered', periodSeconds: 2, cost: null })
    expect(manifest.clips).toHaveLength(1)
    expect(manifest.posters.length).toBeGreaterThan(1)
    // In the shape of the screen that it is made for.
    expect(manifest.clips[0]).toMatchObject({ width: 320, height: 180, screen: 'wide' })
  })
  it('are refused where they are no style, or no definition', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-particles-'))
    const file = join(folder, 'wrong.json')
    await writeFile(file, '{\n  "format": "telon-particles",\n  "version": 2\n}\n')
    const paint = ['deliver', '--paint', '#1b2350', '--out', join(folder, 'out')]
    for (const [named, words] of [
      [file, 'line 3: version'],
      ['no-such-style', '“telon particles” lists the styles'],
      [folder, 'no file'],
    ] as const) {
      const done = await telon(...paint, '--particles', named)
      expect([done.code, done.err]).toEqual([2, expect.stringContaining(words)])
    }
    expect(await telon('particles', 'no-such-style')).toMatchObject({ code: 2 })
    const alone = await telon(...paint, '--render')
    expect([alone.code, alone.err]).toEqual([2, expect.stringContaining('with --particles')])
  })
})
