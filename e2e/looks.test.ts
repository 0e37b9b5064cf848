import sharp from 'sharp'
import type { Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { scrim as emitter } from '../core/handoff/layers/scrim'
import { evenLayer, type ScrimLayer } from '../core/scrim/Scrim'
import { inventBackdrop, reduced } from '../core/testing/samples'
import { tileOfTexture } from '../core/texture/patterns'
import { PATTERNS, type Pattern } from '../core/texture/Texture'
import type { TestServer } from '../server/testing/testServer'
import { launchWhole } from './harness'
import { inStudio } from './inStudio'

/* Textures of the scrim: as browsers draw them, and in the workbench. */

let server: TestServer
let page: Page
let complaints: string[]
inStudio((studio) => ({ server, page, complaints } = studio))

const SIDE = 96
const CLIP = { x: 0, y: 0, width: SIDE, height: SIDE }
const GROUND = 255
const STRENGTH = 0.6

const textured = (pattern: Pattern, scale: number): ScrimLayer => ({
  ...evenLayer('#000000', STRENGTH),
  shape: 'texture',
  angleDeg: 45,
  texture: { pattern, scale, tile: null },
})

/** A page with nothing but a scrim of a delivered style over white. */
function pageOf(layer: ScrimLayer): string {
  const document = reduced(inventBackdrop(), { type: 'scrim/set', scrim: { layers: [layer] } })
  const [own, it] = ['.tln-region[data-tln="k"]', { type: 'scrim' } as const]
  const values = Object.entries(emitter.values!(it, document))
    .map(([name, value]) => `--tln-${name}: ${value};`)
    .join(' ')
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Texture</title>
    <style>${own} { position: absolute; inset: 0; background: #fff; ${values} }
    ${emitter.rules}${emitter.ownRules!(it, { own, id: 'k' }, document).join('\n')}</style>
    <div class="tln-region" data-tln="k">${emitter.markup(it, document).join('')}</div>`
}

describe('a texture on a page', () => {
  it.each([
    [1, 1],
    [2, 3],
    [1.5, 1],
    [3, 2],
  ])(
    'has a pixel of its tile for each device pixel, or several: density %d, scale %i',
    async (density, scale) => {
      // A screen of its own: emulated densities round sizes as no screen does.
      const screen = await launchWhole([`--force-device-scale-factor=${density}`])
      const context = await screen.newContext({ viewport: null })
      const other = await context.newPage()
      for (const pattern of PATTERNS) {
        const layer = textured(pattern, scale)
        await other.setContent(pageOf(layer))
        const { data, info } = await sharp(await other.screenshot({ clip: CLIP, scale: 'device' }))
          .removeAlpha()
          .raw()
          .toBuffer({ resolveWithObject: true })
        expect(await other.evaluate(() => devicePixelRatio)).toBe(density)
        expect(info.width).toBe(SIDE * density)
        const { width, height, levels } = tileOfTexture(layer.texture, layer.angleDeg)
        let most = 0
        for (let y = 0; y < info.height; y++)
          for (let x = 0; x < info.width; x++) {
            const [column, row] = [Math.floor(x / scale) % width, Math.floor(y / scale) % height]
            const alpha = (STRENGTH * Number(levels[row * width + column])) / 3
            const wanted = GROUND * (1 - alpha)
            most = Math.max(most, Math.abs(data[(y * info.width + x) * info.channels]! - wanted))
          }
        expect(most, pattern).toBeLessThanOrEqual(2)
      }
      await screen.close()
    },
  )
})

describe('in the workbench', () => {
  const bench = () => page.getByRole('complementary')
  const saved = async (id: string): Promise<BackdropDocument> =>
    (
      (await (await fetch(`${server.url}/api/backdrops/${id}`)).json()) as {
        document: BackdropDocument
      }
    ).document
  async function open(name: string): Promise<void> {
    // What stands still leaves the machine to the measurement.
    await page.emulateMedia({ reducedMotion: 'reduce' })
    const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as { id: string }[]
    await page.goto(`${server.url}/projects/${project!.id}`)
    await page.getByRole('link', { name }).click()
    await page.frameLocator('iframe[title^="The backdrop"]').locator('.tln-heading').waitFor()
  }
  it('a texture is chosen by its look and by what copy has with it', async () => {
    await open('Galley fire')
    const id = /backdrops\/([^/]+)/.exec(page.url())![1]!
    const before = await saved(id)
    await page.getByRole('link', { name: /^Legibility/ }).click()
    await page.getByRole('button', { name: 'Add a layer' }).click()
    await page.getByRole('radio', { name: 'Texture' }).click()
    const patterns = page.getByRole('group', { name: 'Pattern' })
    await patterns.getByRole('button', { name: 'Weave' }).click()
    const layerNow = async () => (await saved(id)).scrim.layers.at(-1)!
    await expect.poll(async () => (await layerNow()).texture.pattern).toBe('weave')
    // There is one texture at most: another layer cannot be one as well.
    await page.getByRole('button', { name: 'Add a layer' }).click()
    await expect.poll(() => page.getByRole('radio', { name: 'Texture' }).count()).toBe(0)
    await page.getByRole('button', { name: 'Remove this layer' }).click()
    await page.getByRole('button', { name: 'Measure copy with each pattern' }).click()
    await page.getByText('without this layer it is').waitFor({ timeout: 200_000 })
    await expect
      .poll(() => patterns.getByText(/\d : 1/).count(), { timeout: 200_000 })
      .toBe(PATTERNS.length)
    // What was measured is true for what it was measured of.
    await page.getByRole('slider', { name: /^Scale/ }).press('ArrowRight')
    await expect.poll(() => patterns.getByText(/\d : 1/).count()).toBe(0)
    await expect.poll(async () => (await layerNow()).texture.scale).toBe(2)
    await bench()
      .getByRole('button', { name: /^A tile from the shelf/ })
      .click()
    await page.getByRole('option').nth(1).click()
    await expect.poll(async () => (await layerNow()).texture.pattern).toBe('own')
    expect((await layerNow()).texture.tile!.levels).toMatch(/^[0-3]+$/)
    await page.getByRole('button', { name: /^Undo/ }).click()
    await expect.poll(async () => (await layerNow()).texture.pattern).toBe('weave')
    for (let step = 0; step < 6; step++)
      if (await page.getByRole('button', { name: /^Undo/ }).isEnabled())
        await page.getByRole('button', { name: /^Undo/ }).click()
    await expect.poll(async () => (await saved(id)).scrim).toEqual(before.scrim)
    expect(complaints).toEqual([])
  }, 420_000)
  it('a gradient is fitted to the copy, in one step', async () => {
    await open('Dusk window')
    const id = /backdrops\/([^/]+)/.exec(page.url())![1]!
    const before = await saved(id)
    await page.getByRole('link', { name: /^Legibility/ }).click()
    await page.getByRole('radio', { name: 'Radial' }).click()
    await page.getByRole('button', { name: 'Fit to the copy on all its screens' }).click()
    const layer = async () => (await saved(id)).scrim.layers.at(-1)!
    await expect.poll(async () => (await layer()).stops.length).toBe(3)
    // The copy stands left of the middle; its colour and strength are those of the layer.
    expect((await layer()).centre.x).toBeLessThan(0.5)
    const { strength, stops } = before.scrim.layers.at(-1)!
    expect(await layer()).toMatchObject({ shape: 'radial', strength })
    expect((await layer()).stops[0]!.color).toBe(stops[0]!.color)
    await page.getByRole('button', { name: /^Undo/ }).click()
    await page.getByRole('button', { name: /^Undo/ }).click()
    await expect.poll(async () => (await saved(id)).scrim).toEqual(before.scrim)
    expect(complaints).toEqual([])
  })
  it('letters have something around them, which counts as much as it gives', async () => {
    await open('Galley fire')
    const id = /backdrops\/([^/]+)/.exec(page.url())![1]!
    await page.getByRole('link', { name: /^Legibility/ }).click()
    const choice = page.getByRole('radiogroup', { name: 'Around the letters' })
    await choice.getByRole('radio', { name: 'Plate' }).click()
    await page.getByText('80 % opaque (heading)').waitFor()
    await choice.getByRole('radio', { name: 'Outline' }).click()
    const given = page.getByText('contrast is measured with that')
    await expect.poll(() => given.innerText()).not.toContain('80 % opaque (heading)')
    await page.getByRole('slider', { name: 'Width' }).press('Home')
    await expect.poll(() => given.innerText()).toMatch(/least \d+ % opaque \(heading\)/)
    await expect
      .poll(async () => (await saved(id)).copy.letters)
      .toMatchObject({ around: 'outline', size: 1 })
    const heading = page.frameLocator('iframe[title^="The backdrop"]').locator('.tln-heading')
    await expect
      .poll(() => heading.evaluate((element) => getComputedStyle(element).textShadow))
      .toContain('1px')
    await choice.getByRole('radio', { name: 'Nothing' }).click()
    await expect.poll(async () => (await saved(id)).copy.letters).toBeNull()
    expect(complaints).toEqual([])
  })
  it('the picture has another tone, by a filter or in its files', async () => {
    await open('Dusk window')
    const id = /backdrops\/([^/]+)/.exec(page.url())![1]!
    await page.getByRole('link', { name: /^Legibility/ }).click()
    const contrast = async (): Promise<number> =>
      Number(
        /[\d.]+/.exec(
          await page.getByRole('status').filter({ hasText: ': 1' }).first().innerText(),
        )![0],
      )
    await expect.poll(contrast).toBeGreaterThan(1)
    const before = await contrast()
    const files = async () => await page.getByRole('link', { name: /^Handoff/ }).innerText()
    const unmade = await files()
    await page.getByRole('radio', { name: /^By a CSS filter/ }).click()
    await page.getByRole('slider', { name: 'Brightness' }).press('Home')
    await expect
      .poll(async () => (await saved(id)).tone)
      .toMatchObject({ brightness: 0.2, form: 'filter' })
    const shown = page
      .frameLocator('iframe[title^="The backdrop"]')
      .locator('.tln-video, .tln-poster')
      .first()
    await expect
      .poll(() => shown.evaluate((element) => getComputedStyle(element).filter))
      .toBe('brightness(0.2) contrast(1) saturate(1)')
    // A darker picture under white words, and no file that has to be made.
    await expect.poll(contrast).toBeGreaterThan(before * 1.3)
    expect(await files()).toBe(unmade)
    await page.getByRole('radio', { name: /^In the files/ }).click()
    await expect.poll(files).not.toBe(unmade)
    await page.getByRole('button', { name: 'Colours as they are' }).click()
    await expect.poll(async () => (await saved(id)).tone.brightness).toBe(1)
    await expect.poll(files).toBe(unmade)
    expect(complaints).toEqual([])
  })
})
