import { createHash } from 'node:crypto'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { fileURLToPath } from 'node:url'
import type { z } from 'zod'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  proofRecipe,
  recipeKey,
} from '../core/backdrop/recipe'
import { memorySource } from '../core/bytes/ByteSource'
import { probe } from '../core/media/probe'
import { RenderBrowser } from '../headless/RenderBrowser'
import { demoBackdrop, SCENARIO } from './scenario'
import { madeSchema } from './seedDemo'

/*
 * Draws Vesperline's clips and renders the first proof and posters. The results are committed: `npm
 * start` is then quick and needs no browser. With the name of a clip only that one is drawn; with
 * `measure` none, and what exists is measured again; with `probes` only the probes are made again.
 */

const files = fileURLToPath(new URL('./files/', import.meta.url))
await mkdir(files, { recursive: true })

/** What to do: `measure`, `probes`, one clip by its name, or everything. */
const wanted = process.argv[2]
const drawn =
  wanted === 'measure' || wanted === 'probes'
    ? []
    : wanted
      ? [wanted]
      : [...SCENARIO.clips, ...SCENARIO.pictures]
type Made = z.infer<typeof madeSchema>

async function draw(names: readonly string[]): Promise<void> {
  const painter = await RenderBrowser.start('/demo/generator.html')
  for (const name of names) {
    await painter.page.evaluate(([clip, to]) => window.telonDraw(clip, to), [
      name,
      '/result/clip',
    ] as const)
    const bytes = painter.takeResult('/result/clip')
    await writeFile(`${files}${name}`, bytes)
    console.log(`${name}: ${bytes.byteLength} bytes`)
  }
  await painter.stop()
}

/** The half-prepared backdrop, its clip, and what its recipes need to know of that. */
async function openBackdrop() {
  const clip = `${files}${SCENARIO.backdrop.clip}`
  const bytes = await readFile(clip)
  const facts = await probe(memorySource(bytes))
  if (!facts.ok) throw facts.error
  if (facts.value.kind !== 'clip') throw new Error(`${clip} is no clip`)
  const document = demoBackdrop('demo', facts.value)
  const { displayWidth: width, displayHeight: height } = facts.value.video
  const sha256 = createHash('sha256').update(bytes).digest('hex')
  const known = new Map([[document.base.material.sourceId, { sha256, width, height }]])
  return { clip, document, known }
}
type Opened = Awaited<ReturnType<typeof openBackdrop>>

/** Its proof and its posters. */
async function render(browser: RenderBrowser, { clip, document, known }: Opened): Promise<Made> {
  const made: Made = []
  for (const recipe of [
    proofRecipe(document, known)!,
    ...posterRecipes(document, known).map((each) => each.recipe),
  ]) {
    const file =
      recipe.kind === 'poster' ? `made-poster-${recipe.width}.${recipe.format}` : 'made-proof.mp4'
    const { bytes, facts } = await browser.render(clip, recipe)
    await writeFile(`${files}${file}`, bytes)
    console.log(`${file}: ${bytes.byteLength} bytes`)
    made.push({ key: recipeKey(recipe), file, facts })
  }
  return made
}

/** With its probes a first visitor sees at once how bytes and quality hang together. */
async function probeClips(
  browser: RenderBrowser,
  { clip, document, known }: Opened,
): Promise<Made> {
  const made: Made = []
  for (const { recipe } of clipRecipes(document, known)) {
    const facts = await browser.probe(clip, probeOf(recipe))
    const key = recipeKey(probeOf(recipe))
    console.log(`${key}: ${facts.points.length} points`)
    made.push({ key, file: null, facts })
  }
  return made
}

async function analyse(browser: RenderBrowser): Promise<void> {
  const analysed: Record<string, unknown> = {}
  for (const name of [...SCENARIO.clips, ...SCENARIO.pictures]) {
    const { analysis, strip, cells } = await browser.analyse(`${files}${name}`)
    if (strip) await writeFile(`${files}strip-${name}.webp`, strip)
    analysed[name] = { analysis, cells }
  }
  await writeFile(`${files}analysed.json`, `${JSON.stringify(analysed)}\n`)
}

/** What was made before, but for its probes. */
async function filesMadeBefore(): Promise<Made> {
  const made = madeSchema.parse(JSON.parse(await readFile(`${files}made.json`, 'utf8')))
  return made.filter(({ facts }) => facts.kind !== 'probe')
}

if (drawn.length > 0) await draw(drawn)
const backdrop = await openBackdrop()
const browser = await RenderBrowser.start()
const rendered = wanted === 'probes' ? await filesMadeBefore() : await render(browser, backdrop)
const made = [...rendered, ...(await probeClips(browser, backdrop))]
if (wanted !== 'probes') await analyse(browser)
await browser.stop()
await writeFile(`${files}made.json`, `${JSON.stringify(made, null, 2)}\n`)
