import { readdirSync, readFileSync } from 'node:fs'
import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import { tmpdir } from 'node:os'
import { extname, join } from 'node:path'
import { chromium } from 'playwright-core'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import { scrimImage } from '../core/handoff/layers/scrim'
import { textureSize } from '../core/handoff/layers/texture'
import { toneFilter } from '../core/handoff/toneCss'
import { PLAIN_TONE } from '../core/tone/Tone'
import { BLEND_MODES } from '../core/picture/blend'
import { evenLayer, linearLayer, type ScrimLayer } from '../core/scrim/Scrim'
import { emitRegion } from '../core/handoff/emitMarkup'
import { emitBackdropStyle, emitCopyStyle, emitPageStyle } from '../core/handoff/emitStyle'
import { assembleScript, type DeliveredScripts } from '../core/handoff/scripts'
import { paintImages } from '../core/handoff/layers/paintCss'
import { createImage, FIRST_DRIFT } from '../core/kinds/image/Image'
import { createPaint, FIRST_MOTION, type Paint, type PaintMotion } from '../core/kinds/paint/Paint'
import { STEPS_PER_SECOND } from '../core/kinds/paint/motionSteps'
import { createSlideshow, type Slideshow } from '../core/kinds/slideshow/Slideshow'
import { TRANSITION_STYLES, type Transition } from '../core/kinds/slideshow/transition'
import { newParticles } from '../core/particles/Particles'
import { STYLES, type Style } from '../core/particles/styles'
import { regionPage } from '../headless/regionPage'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import { CHROMIUM } from '../headless/RenderBrowser'
import { wideJpegs } from './wideJpegs'

/* What motion costs a visitor's processor, as ratios to a playing clip of 720 lines in one run. */

const SECONDS = 5
const TURNS = 3
const ID = 'bench'
const NO_MEDIA = { clips: [], posters: [], placeholder: null }
const PLACE = {
  picture: null,
  scope: 'region',
  height: { unit: 'svh', value: 100 },
  brand: 'Vesperline',
} as const

/** A page with only a style and what stands in its body. */
const pageOf = (style: string, body: string): string =>
  `<!doctype html><html lang="en"><meta charset="utf-8"><title>Bench</title><style>${style}</style><body>${body}`

/** The delivered markup and style of a paint; with an edge it moves in the most steps. */
function paintPage(motion: PaintMotion | null, hasEdge = false): string {
  const paint = createPaint()
  const gradients = paint.gradients.map((gradient) => ({
    ...gradient,
    stops: hasEdge ? gradient.stops.map(({ color }) => ({ at: 0.5, color })) : gradient.stops,
  }))
  const document = createBackdrop({
    base: { ...paint, gradients, motion } satisfies Paint,
    ...PLACE,
  })
  return pageOf(
    [
      emitPageStyle(document),
      emitBackdropStyle(ID, document, NO_MEDIA),
      emitCopyStyle(ID, document, NO_MEDIA),
    ].join(''),
    emitRegion(ID, document, NO_MEDIA, 'page'),
  )
}

/** The same gradient turned by its angle: painted anew in every frame. */
function repaintedPage(): string {
  const images = paintImages({ ...createPaint(), motion: null }, true)
  return pageOf(
    `@property --turn { syntax: "<angle>"; inherits: false; initial-value: 120deg; }
    @keyframes turn { to { --turn: 130deg; } }
    body { margin: 0; height: 100vh; background: ${images.replace('120deg', 'var(--turn)')};
      animation: turn 12s ease-in-out infinite alternate; }`,
    '<h1 style="color: #fff">Turned by repainting</h1>',
  )
}

/** A slow pan over an image. */
function panPage(image: string): string {
  const document = createBackdrop({
    base: { ...createImage('00000000-0000-4000-8000-000000000000'), drift: FIRST_DRIFT },
    ...PLACE,
  })
  const media = {
    ...NO_MEDIA,
    posters: [
      {
        screenClass: 'wide',
        density: 1,
        format: 'jpeg',
        url: image,
        width: 1920,
        height: 1080,
        bytes: 1,
      } as const,
    ],
  }
  return pageOf(
    [
      emitPageStyle(document),
      emitBackdropStyle(ID, document, media),
      emitCopyStyle(ID, document, media),
    ].join(''),
    emitRegion(ID, document, media, 'page'),
  )
}

/** A region of one colour with particles, drawn by the delivered script. */
function particlesPage(style: Style, frameRate: 30 | 60, scripts: DeliveredScripts): string {
  const made = createBackdrop({ base: createPaint(), ...PLACE })
  const particles = { ...newParticles(style.definition, style.id), frameRate }
  return regionPage({ ...made, particles }, scripts)
}

const SLIDES = ['stop-snow-line.jpg', 'cabin-berth.jpg', 'stop-lakeside.jpg', 'stop-salt-flats.jpg']

/** A slideshow of the demonstration's images, with the delivered script or without. */
function slidesPage(
  fields: Partial<Slideshow>,
  transition: Partial<Transition>,
  script: string | null,
): string {
  const ids = SLIDES.map((_, index) => `00000000-0000-4000-8000-00000000000${index}`)
  const base = { ...createSlideshow(ids), ...fields }
  const document = createBackdrop({
    base: { ...base, transition: { ...base.transition, ...transition } },
    ...PLACE,
  })
  const media = { ...NO_MEDIA, posters: wideJpegs(SLIDES, true) }
  return pageOf(
    [
      emitPageStyle(document),
      emitBackdropStyle(ID, document, media),
      emitCopyStyle(ID, document, media),
    ].join(''),
    `${emitRegion(ID, document, media, 'page')}${script ? `<script>${script}</script>` : ''}`,
  )
}

/** Cycles of which a fifth is a transition, holds, and transitions that hardly end. */
function slidePages(script: string): Record<string, string> {
  const pan = { from: { x: 0, y: 0, zoom: 1 }, to: { x: 0.05, y: 0.05, zoom: 1.15 } }
  const first = createSlideshow(SLIDES)
  const long = { holdSeconds: 0.5 }
  return {
    'slides, a fifth crossfade, by style': slidesPage({ holdSeconds: 4 }, { seconds: 1 }, null),
    'slides, a fifth crossfade, by script': slidesPage({ holdSeconds: 4 }, { seconds: 1 }, script),
    'slides, a hold, by style': slidesPage({ holdSeconds: 100 }, {}, null),
    'slides, a hold, by script': slidesPage({ holdSeconds: 100 }, {}, script),
    'slides, a hold with pan and zoom': slidesPage(
      { holdSeconds: 100, slides: first.slides.map((slide) => ({ ...slide, pan })) },
      {},
      null,
    ),
    ...Object.fromEntries(
      TRANSITION_STYLES.map((style) => [
        `slides, ${style}, nine tenths of the time`,
        slidesPage(long, { style, seconds: 4.5, easing: 'linear' }, null),
      ]),
    ),
    'slides, edge, hard and straight, nine tenths of the time': slidesPage(
      long,
      { style: 'edge', softness: 0, seconds: 4.5, easing: 'linear' },
      null,
    ),
  }
}

const clipPage = (file: string): string =>
  pageOf(
    'body { margin: 0 } video { width: 100vw; height: 100vh; object-fit: cover }',
    `<video src="${file}" muted loop autoplay playsinline></video>`,
  )

/** The clip under a scrim in each blend mode, as the delivered style draws it. */
function scrimPages(file: string): Record<string, string> {
  const page = (layer: ScrimLayer): string =>
    pageOf(
      `body { margin: 0; isolation: isolate } video { width: 100vw; height: 100vh; object-fit: cover }
      div { position: absolute; inset: 0; background-image: ${scrimImage([layer])}; mix-blend-mode: ${layer.blend} }`,
      `<video src="${file}" muted loop autoplay playsinline></video><div></div>`,
    )
  const even = evenLayer('#7a4a2c', 0.5)
  const textured = { ...even, shape: 'texture' as const }
  return {
    'scrim over the clip, texture': pageOf(
      `body { margin: 0; isolation: isolate } video { width: 100vw; height: 100vh; object-fit: cover }
      div { position: absolute; inset: 0; background: ${scrimImage([textured])} 0 0 / ${textureSize(textured)}; image-rendering: pixelated }`,
      `<video src="${file}" muted loop autoplay playsinline></video><div></div>`,
    ),
    'filter over the clip': pageOf(
      `body { margin: 0 } video { width: 100vw; height: 100vh; object-fit: cover; filter: ${toneFilter({ ...PLAIN_TONE, brightness: 0.8, contrast: 1.1, saturation: 0.8 })} }`,
      `<video src="${file}" muted loop autoplay playsinline></video>`,
    ),
    'scrim over the clip, linear': page(linearLayer('#7a4a2c', [0.8, 0.1], 80)),
    ...Object.fromEntries(
      BLEND_MODES.map((blend) => [`scrim over the clip, ${blend}`, page({ ...even, blend })]),
    ),
  }
}

/** Milliseconds that a process and its children have worked, by the kernel. Linux only. */
function workedMs(root: number): number {
  const parents = new Map<number, { parent: number; ticks: number }>()
  for (const name of readdirSync('/proc').filter((each) => /^\d+$/.test(each))) {
    try {
      const fields = readFileSync(`/proc/${name}/stat`, 'utf8')
        .replace(/^.*\) /s, '')
        .split(' ')
      const ticks = Number(fields[11]) + Number(fields[12])
      parents.set(Number(name), { parent: Number(fields[1]), ticks })
    } catch {
      // It ended meanwhile.
    }
  }
  const belongs = (pid: number): boolean => {
    for (let at: number | undefined = pid; at && at > 1; at = parents.get(at)?.parent)
      if (at === root) return true
    return false
  }
  const TICK_MS = 10
  return [...parents].reduce(
    (sum, [pid, { ticks }]) => sum + (belongs(pid) ? ticks * TICK_MS : 0),
    0,
  )
}

/**
 * Measures pages in turns, and prints what each takes relative to the playing clip: all of them, or
 * those with a word in their names.
 */
export async function measurePlayedCost(demoFiles: string, word = ''): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'telon-cost-'))
  const scripts = await readDeliveredScripts(inProject('dist'))
  const pages: Readonly<Record<string, string>> = {
    'a page that stands still': paintPage(null),
    'a playing clip, 1280 × 720, H.264': clipPage('rain-platform.mp4'),
    ...Object.fromEntries(
      (['angle', 'centre', 'stops'] as const).flatMap((moves) =>
        [false, true].map((hasEdge) => [
          `paint, ${moves}, ${hasEdge ? STEPS_PER_SECOND.max : STEPS_PER_SECOND.min} steps a second`,
          paintPage({ ...FIRST_MOTION, moves }, hasEdge),
        ]),
      ),
    ),
    ...scrimPages('rain-platform.mp4'),
    'paint, angle by repainting': repaintedPage(),
    'image, pan and zoom': panPage('fjord-night.webp'),
    ...slidePages(assembleScript(scripts, 'classic', ['slides'])),
    ...Object.fromEntries(
      STYLES.flatMap((style) =>
        ([30, 60] as const).map((rate) => [
          `particles, ${style.id}, ${rate} frames a second`,
          particlesPage(style, rate, scripts),
        ]),
      ),
    ),
  }
  const names = Object.keys(pages).filter((name, at) => at < 2 || name.includes(word))
  await Promise.all(names.map((name, at) => writeFile(join(folder, `${at}.html`), pages[name]!)))
  const server = createServer((request, response) => {
    const name = (request.url ?? '/').slice(1)
    const path = join(name.endsWith('.html') ? folder : demoFiles, name)
    const type = {
      '.html': 'text/html',
      '.mp4': 'video/mp4',
      '.webp': 'image/webp',
      '.jpg': 'image/jpeg',
    }[extname(name)]
    void readFile(path).then(
      (bytes) => response.writeHead(200, { 'Content-Type': type ?? 'text/plain' }).end(bytes),
      () => response.writeHead(404).end(),
    )
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  const port = typeof address === 'object' && address ? address.port : 0
  const costs = names.map((): number[] => [])
  for (let turn = 0; turn < TURNS; turn++)
    for (const [at] of names.entries()) {
      const launched = await chromium.launchServer({ ...CHROMIUM, args: [...CHROMIUM.args] })
      const browser = await chromium.connect(launched.wsEndpoint())
      const page = await browser.newPage({ viewport: { width: 1280, height: 720 } })
      await page.goto(`http://127.0.0.1:${port}/${at}.html`)
      await page.waitForTimeout(2000)
      const before = workedMs(launched.process().pid!)
      await page.waitForTimeout(SECONDS * 1000)
      costs[at]!.push((workedMs(launched.process().pid!) - before) / SECONDS)
      await launched.close()
    }
  server.close()
  const median = (values: readonly number[]): number =>
    [...values].sort((a, b) => a - b)[values.length >> 1]!
  const idle = median(costs[0]!)
  const clip = median(costs[1]!) - idle
  for (const [at, name] of names.entries()) {
    const own = median(costs[at]!) - idle
    console.log(
      `${name}: ${median(costs[at]!).toFixed(0)} ms a second, ${(own / clip).toFixed(2)} of the clip`,
    )
  }
}
