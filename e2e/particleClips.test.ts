import { join } from 'node:path'
import type { Browser } from 'playwright-core'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ClipRecipe } from '../core/backdrop/recipe'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import { createPaint } from '../core/kinds/paint/Paint'
import { paintSequence } from '../core/kinds/paint/paintSequence'
import {
  frameUnder,
  particleSeconds,
  particleSequence,
  type BaseSequence,
  type ParticleSequence,
} from '../core/kinds/particleSequence'
import type { Definition } from '../core/particles/Definition'
import type { drawLinks } from '../core/particles/links'
import type { painterOf } from '../core/particles/Painter'
import { prepare } from '../core/particles/prepare'
import { styleOf } from '../core/particles/styles'
import { frameDifference } from '../core/picture/frameDifference'
import { RenderBrowser } from '../headless/RenderBrowser'
import { CLIPS, launchWhole } from './harness'
import { engineScript } from './particleEngine'

/*
 * Particles rendered with their base into one clip: frames of the studio's worker against a page
 * on which the delivered code draws its canvas in front of the base.
 */

const REEL = join(CLIPS, 'archive-reel.mp4')
const WIDTH = 480
const HEIGHT = 270
const CLIP = plainSequence({
  sourceSha256: 'a'.repeat(64),
  size: { width: 1280, height: 720 },
  cut: { timescale: 25, start: 25, end: 125 },
  frameRate: { num: 25, den: 1 },
  loops: true,
})
const PAINT = paintSequence(createPaint())

let renderer: RenderBrowser
let browser: Browser
let engine: string
beforeAll(async () => {
  renderer = await RenderBrowser.start()
  browser = await launchWhole()
  engine = await engineScript('testing/drawing')
})
afterAll(async () => {
  await renderer?.stop()
  await browser?.close()
})

const recipeOf = (sequence: ClipRecipe['sequence']): ClipRecipe => ({
  kind: 'proof',
  sequence,
  copyBlur: null,
  family: 'h264',
  width: WIDTH,
  height: HEIGHT,
  noiseReduction: 0,
  goal: null,
  encoder: null,
})
/** So many and so strong that a picture without them is another one. */
const strong = (id: string): Definition => ({
  ...styleOf(id)!.definition,
  perMegapixel: 4000,
  most: 600,
  size: { from: 12, to: 30 },
  opacity: { from: 0.7, to: 1 },
})
const rendered = (under: BaseSequence, definition: Definition): ParticleSequence =>
  particleSequence({
    under,
    definition,
    frameRate: { num: 30, den: 1 },
    region: { width: WIDTH, height: HEIGHT },
  })

/** What a page shows of a base with the canvas in front of it, at a moment. */
async function onPage(
  base: Buffer,
  { definition, area }: ParticleSequence,
  seconds: number,
): Promise<Uint8Array> {
  const png = await sharp(base, { raw: { width: WIDTH, height: HEIGHT, channels: 4 } })
    .png()
    .toBuffer()
  const page = await browser.newPage({ viewport: { width: WIDTH, height: HEIGHT } })
  try {
    await page.setContent(
      `<body style="margin:0"><img src="data:image/png;base64,${png.toString('base64')}" style="position:absolute">
<canvas width="${WIDTH}" height="${HEIGHT}" style="position:absolute"></canvas></body>`,
    )
    await page.evaluate(
      ([script, prepared, size, density, at]) => {
        const drawing = new Function(`${script};return particles`)() as {
          painterOf: typeof painterOf
          drawLinks: typeof drawLinks
        }
        const context = document.querySelector('canvas')!.getContext('2d')!
        drawing.painterOf(prepared, size, density, [drawing.drawLinks])(context, at)
      },
      [engine, prepare(definition), area, WIDTH / area.width, seconds] as const,
    )
    const shot = await page.screenshot()
    return new Uint8Array(await sharp(shot).ensureAlpha().raw().toBuffer())
  } finally {
    await page.close()
  }
}

describe.each<[string, BaseSequence]>([
  ['footage', CLIP],
  ['a paint', PAINT],
])('particles rendered over %s', (_, under) => {
  it.each(['quiet-snowfall', 'ember-drift', 'route-net'])(
    'are what the canvas shows at the same times: %s',
    async (style) => {
      const sequence = rendered(under, strong(style))
      for (const k of [31, sequence.frames - 1]) {
        const [base, made] = [
          await renderer.compose(REEL, recipeOf(under), frameUnder(sequence, k)),
          await renderer.compose(REEL, recipeOf(sequence), k),
        ]
        const page = await onPage(base.pixels, sequence, particleSeconds(sequence, k))
        const bare = frameDifference(base.pixels, page)
        expect(bare, 'how much is seen of them').toBeGreaterThan(2)
        expect(frameDifference(made.pixels, page), `frame ${k}`).toBeLessThan(Math.min(2, bare / 3))
      }
    },
  )
  it('follow the last frame with the first as any other with the next', async () => {
    const sequence = rendered(under, strong('quiet-snowfall'))
    const frame = async (k: number) => (await renderer.compose(REEL, recipeOf(sequence), k)).pixels
    const [first, second, last] = [await frame(0), await frame(1), await frame(sequence.frames - 1)]
    // Footage is cut straight here: what it jumps by is its own.
    if (under.frames > 1) return expect(sequence.frames).toBe(under.frames)
    expect(frameDifference(last, first)).toBeLessThan(1.5 * frameDifference(first, second))
  })
})
