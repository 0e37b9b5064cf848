import { cp, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { LegibilityLine } from '../core/api/legibilityLine'
import { lettersWith } from '../core/copy/letters'
import { SCREENS } from '../core/fit/screens'
import { letterRules } from '../core/handoff/lettersCss'
import { toneFilter } from '../core/handoff/toneCss'
import { PLAIN_TONE } from '../core/tone/Tone'
import { textureImage, textureSize } from '../core/handoff/layers/texture'
import type { BlendMode } from '../core/picture/blend'
import { parseHex } from '../core/picture/srgb'
import { relativeLuminance } from '../core/scrim/contrast'
import { evenLayer, type ScrimLayer } from '../core/scrim/Scrim'
import type { Pattern } from '../core/texture/Texture'
import { CLIPS, launchWhole, telon } from './harness'
import { barePage, SEEN_TEXTS, seenAround, seenContrast } from './seenContrast'

/* What Telon says of copy in front of a backdrop, against what visitors see of it. */

const CLIP = join(CLIPS, 'dusk-window.mov')
const CUT = ['--start', '1', '--end', '2.5'] as const
let folder: string
let browser: Browser
let delivered: Awaited<ReturnType<typeof telon>>
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'contrast-'))
  browser = await launchWhole()
  delivered = await telon(
    'deliver',
    CLIP,
    ...CUT,
    '--formats',
    'h264',
    '--out',
    folder,
    '--heading',
    'A night train to the north',
    '--strict',
  )
})
afterAll(async () => {
  await browser?.close()
  await rm(folder, { recursive: true, force: true })
})

/** The contrast of a text on a page whose clip is held at a moment. */
async function seen(page: Page, text: string, seconds: number): Promise<number> {
  const { ratio, frameSeconds } = await seenContrast(page, text, seconds)
  if (frameSeconds !== null) expect(frameSeconds).toBeCloseTo(seconds, 2)
  return ratio
}

/** Changes the style of a delivered folder, as a site may. */
async function restyled(at: string, change: (style: string) => string): Promise<void> {
  const name = (await readdir(at)).find((each) => /^backdrop.*\.css$/.test(each))!
  await writeFile(join(at, name), change(await readFile(join(at, name), 'utf8')))
}

const ON_PHONES = `
  [data-tln] { --tln-scrim: linear-gradient(0deg, rgb(20 30 60 / 0.8), rgb(90 20 20 / 0.6)); }
  .tln-region .tln-scrim.tln-scrim { background-size: auto; }`

/** What is told of a folder on some screens. */
const lineOf = async (at: string, screens: string): Promise<LegibilityLine> =>
  JSON.parse((await telon('legibility', at, '--screens', screens)).out) as LegibilityLine

/** A scrim as a style writes it: its image, and how an element shows it. */
interface WrittenScrim {
  readonly image: string
  readonly rules: string
  readonly more?: string
}

const FILTER = toneFilter({ ...PLAIN_TONE, brightness: 1.4, contrast: 0.6, saturation: 0.5 })

const gradient = (blend: BlendMode): WrittenScrim => ({
  image: 'linear-gradient(90deg, rgb(150 90 50 / 0.9), rgb(40 60 120 / 0.5))',
  rules: `mix-blend-mode: ${blend};`,
})

function texture(pattern: Pattern, scale: number, blend: BlendMode): WrittenScrim {
  const layer: ScrimLayer = {
    ...evenLayer('#101030', 0.7),
    shape: 'texture',
    texture: { pattern, scale, tile: null },
  }
  return {
    image: textureImage(layer),
    rules: `background-size: ${textureSize(layer)}; image-rendering: pixelated; mix-blend-mode: ${blend};`,
  }
}

describe('the worst contrast that Telon tells', () => {
  it('ends a delivery, which fails where copy does and is asked to', () => {
    expect(delivered.err).toMatch(
      /\ncontrast: \d+\.\d\d : 1, needs (3|4\.5) \([a-z ]+, [a-z]+, \d\.\d\d s\)/,
    )
    const [, ratio, needed] = /contrast: ([\d.]+) : 1, needs ([\d.]+)/.exec(delivered.err)!
    expect(delivered.code).toBe(Number(ratio) < Number(needed) ? 3 : 0)
  })
  it('is what screenshots of the delivered page show, and no frame is worse', async () => {
    const { out, code } = await telon('legibility', folder)
    const line = JSON.parse(out) as LegibilityLine
    expect(code).toBe(line.passes ? 0 : 3)
    expect(new Set(line.texts!.map(({ screen }) => screen)).size).toBe(4)
    for (const screen of ['phone', 'laptop', 'wide'] as const) {
      const page = await barePage(browser, folder, screen)
      for (const each of line.texts!) {
        if (each.screen !== screen || !SEEN_TEXTS[each.text]) continue
        const found = await seen(page, each.text, each.seconds)
        expect(Math.abs(found / each.ratio - 1), `${screen} ${each.text}`).toBeLessThan(0.03)
      }
      // No other frame is worse than what was told.
      const { ratio } = line.texts!.find(
        (each) => each.screen === screen && each.text === 'heading',
      )!
      for (let frame = 0; frame < 36; frame += 3)
        expect(await seen(page, 'heading', frame / 24)).toBeGreaterThan(ratio * 0.97)
      await page.close()
    }
  })
  it.each([
    [
      'slides that are blurred behind the copy',
      [
        join(CLIPS, 'stop-snow-line.jpg'),
        join(CLIPS, 'cabin-berth.jpg'),
        '--hold',
        '0.5',
        '--transition',
        '0.3',
        '--copy-blur',
        '0.8',
      ],
    ],
    ['a gradient', ['--paint', 'linear 120deg #1b2350 #b5563c']],
    ['live particles', [join(CLIPS, 'fjord-night.webp'), '--particles', 'first-frost']],
  ])('is found in the delivered page itself, too: %s', async (_, what) => {
    const other = await mkdtemp(join(tmpdir(), 'contrast-'))
    try {
      const { err } = await telon('deliver', ...what, '--heading', 'A night train', '--out', other)
      const [, ratio, text, screen] = /contrast: ([\d.]+) : 1, needs [\d.]+ \((.+), (\w+), /.exec(
        err,
      )!
      const line = await lineOf(other, screen!)
      const same = line.texts!.find((each) => each.text === text && each.screen === screen)!
      expect(Math.abs(same.ratio / Number(ratio) - 1)).toBeLessThan(0.03)
      // What it takes for the worst of all is it, or as bad.
      expect(line.worst!.ratio / line.worst!.needed).toBeGreaterThan(
        (same.ratio / same.needed) * 0.97,
      )
      expect(new Set(line.texts!.map((each) => each.screen))).toEqual(new Set([screen]))
    } finally {
      await rm(other, { recursive: true, force: true })
    }
  })
  it('is found window after window where the region is higher than one', async () => {
    const other = await mkdtemp(join(tmpdir(), 'contrast-'))
    try {
      await telon('deliver', '--paint', '#000000', '--heading', 'North', '--out', other)
      await restyled(other, (style) =>
        style.concat(
          '[data-tln][data-tln] { --tln-height: 300vh; --tln-scrim: none; }',
          '.tln-region.tln-region .tln-backdrop * { background: none; }',
          '.tln-region.tln-region .tln-paint { background: linear-gradient(#000000, #707070); }',
          '.tln-region.tln-region .tln-copy { margin: auto 0 60vh; }',
        ),
      )
      const line = await lineOf(other, 'laptop')
      const page = await browser.newPage({ viewport: SCREENS.laptop })
      await page.goto(pathToFileURL(join(other, 'index.html')).href)
      const { height } = SCREENS.laptop
      const worst = line.texts!.find((each) => each.screen === 'laptop' && each.text === 'heading')!
      const { top, bottom } = await page.evaluate(() => {
        const range = document.createRange()
        range.selectNodeContents(document.querySelector('.tln-heading')!)
        return range.getBoundingClientRect()
      })
      await page.close()
      // In the third window, where the gradient is bright: one of 20 pixels is brighter than this.
      expect(top).toBeGreaterThan(2 * height)
      expect(worst.place.y).toBeGreaterThan(top)
      const y = bottom - (bottom - top) / 20
      const grey = parseHex('#707070').r * (y / (3 * height))
      const ratio = 1.05 / (relativeLuminance({ r: grey, g: grey, b: grey }) + 0.05)
      expect(Math.abs(worst.ratio / ratio - 1)).toBeLessThan(0.03)
    } finally {
      await rm(other, { recursive: true, force: true })
    }
  })
  it.each([
    ['overlay', gradient('overlay')],
    ['color', gradient('color')],
    ['fine texture', texture('weave', 1, 'normal')],
    ['coarse texture, multiplied', texture('checks', 4, 'multiply')],
    [
      'over a clip with a filter',
      {
        image: 'none',
        rules: '',
        more: `.tln-region.tln-region :is(.tln-video, .tln-poster) { filter: ${FILTER}; }`,
      },
    ],
  ])(
    'follows a scrim that is blended or repeated, and another one on phones: %s',
    async (_, { image, rules, more = '' }: WrittenScrim) => {
      const other = await mkdtemp(join(tmpdir(), 'contrast-'))
      try {
        await cp(folder, other, { recursive: true })
        await restyled(other, (style) =>
          style
            .replace(/--tln-scrim: [^;]*;/, `--tln-scrim: ${image};`)
            .concat(`.tln-region .tln-scrim.tln-scrim { ${rules} }\n${more}\n`)
            .concat(`@media (max-width: 640px) { ${ON_PHONES} }\n`),
        )
        const line = await lineOf(other, 'laptop,phone')
        for (const screen of ['laptop', 'phone'] as const) {
          const page = await barePage(browser, other, screen)
          for (const each of line.texts!) {
            if (each.screen !== screen || !SEEN_TEXTS[each.text]) continue
            const found = await seen(page, each.text, each.seconds)
            const what = `${found} seen of ${JSON.stringify(each)}`
            expect(Math.abs(found / each.ratio - 1), what).toBeLessThan(0.03)
          }
          await page.close()
        }
      } finally {
        await rm(other, { recursive: true, force: true })
      }
    },
  )
  it.each(['outline', 'shadow'] as const)(
    'counts what letters have around them, and never for more than it is: %s',
    async (around) => {
      const other = await mkdtemp(join(tmpdir(), 'contrast-'))
      try {
        await cp(folder, other, { recursive: true })
        const rules = letterRules('[data-tln]', {
          ...lettersWith(around, '#000000'),
          strength: 0.5,
        })
        await restyled(other, (style) =>
          style.replace(/--tln-scrim: [^;]*;/, '--tln-scrim: none;').concat(rules),
        )
        const line = await lineOf(other, 'laptop')
        const told = line.texts!.find(
          ({ text, screen }) => text === 'heading' && screen === 'laptop',
        )!
        const page = await barePage(browser, other, 'laptop')
        // The frame that is told, with what letters have around them but without letters.
        const { ratio: bare } = await seenContrast(page, 'heading', told.seconds)
        const found = await seenAround(page, 'heading', await page.screenshot())
        const what = `${found} seen of ${told.ratio}, ${bare} in all`
        expect(told.ratio, what).toBeLessThan(found * 1.03)
        expect(told.ratio, what).toBeGreaterThan(found * 0.95)
        await page.close()
      } finally {
        await rm(other, { recursive: true, force: true })
      }
    },
  )
  it('cannot be told where a site has put something else in the place of the scrim', async () => {
    const other = await mkdtemp(join(tmpdir(), 'contrast-'))
    try {
      await cp(folder, other, { recursive: true })
      await restyled(other, (style) =>
        style.replace(/--tln-scrim: [^;]*;/, '--tln-scrim: url("veil.png");'),
      )
      const { out, code } = await telon('legibility', other)
      expect(code).toBe(1)
      expect((JSON.parse(out) as LegibilityLine).error!.message).toContain('(--tln-scrim)')
    } finally {
      await rm(other, { recursive: true, force: true })
    }
  })
  it('is the same where the files are written for another address', async () => {
    const here = JSON.parse((await telon('legibility', folder)).out) as LegibilityLine
    const elsewhere = await mkdtemp(join(tmpdir(), 'contrast-'))
    try {
      await cp(folder, elsewhere, { recursive: true })
      for (const file of ['index.html', 'manifest.json']) {
        const text = await readFile(join(elsewhere, file), 'utf8')
        const moved = text
          .replace('"baseUrl": ""', '"baseUrl": "https://media.example/hero/"')
          .replaceAll(/(src|href)="(?!#)/g, '$1="https://media.example/hero/')
          .replaceAll(/srcset="/g, 'srcset="https://media.example/hero/')
        await writeFile(join(elsewhere, file), moved)
      }
      const there = JSON.parse((await telon('legibility', elsewhere)).out) as LegibilityLine
      expect(there).toEqual({ ...here, file: elsewhere })
    } finally {
      await rm(elsewhere, { recursive: true, force: true })
    }
  })
  it('is told of the screens that are asked for, and of no others there are', async () => {
    const { texts } = await lineOf(folder, 'tablet')
    expect(new Set(texts!.map(({ screen }) => screen))).toEqual(new Set(['tablet']))
    const { code, err } = await telon('legibility', folder, '--screens', 'tablet,watch')
    expect(code).toBe(2)
    expect(err).toContain('There is no screen called watch: they are phone, tablet, laptop, wide.')
  })
  it('cannot be told of what is no clip, image or folder of Telon’s', async () => {
    const { out, code } = await telon('legibility', 'package.json', 'nowhere.mp4', 'docs')
    const lines = out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as LegibilityLine)
    expect(code).toBe(1)
    expect(lines.map(({ file }) => file)).toEqual(['package.json', 'nowhere.mp4', 'docs'])
    for (const { error } of lines) {
      expect(error!.message).toMatch(/\.$/)
      expect(error!.message).not.toMatch(/\n|\s{4}at /)
    }
  })
})
