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

const wanted = process.argv[2]
const isDrawn = wanted !== 'measure' && wanted !== 'probes'
const painter = await RenderBrowser.start('/demo/generator.html')
for (const clip of !isDrawn ? [] : wanted ? [wanted] : [...SCENARIO.clips, ...SCENARIO.pictures]) {
  await painter.page.evaluate(([name, to]) => window.telonDraw(name, to), [
    clip,
    '/result/clip',
  ] as const)
  const bytes = painter.takeResult('/result/clip')
  await writeFile(`${files}${clip}`, bytes)
  console.log(`${clip}: ${bytes.byteLength} bytes`)
}
await painter.stop()

const clip = `${files}${SCENARIO.backdrop.clip}`
const bytes = await readFile(clip)
const facts = await probe(memorySource(bytes))
if (!facts.ok) throw facts.error
if (facts.value.kind !== 'clip') throw new Error(`${clip} is no clip`)
const document = demoBackdrop('demo', facts.value)
const { displayWidth: width, displayHeight: height } = facts.value.video
const sha256 = createHash('sha256').update(bytes).digest('hex')
const known = new Map([[document.base.material.sourceId, { sha256, width, height }]])
const browser = await RenderBrowser.start()
const kept = madeSchema.parse(JSON.parse(await readFile(`${files}made.json`, 'utf8')))
const made: z.infer<typeof madeSchema> =
  wanted === 'probes' ? kept.filter(({ facts }) => facts.kind !== 'probe') : []
for (const recipe of wanted === 'probes'
  ? []
  : [proofRecipe(document, known)!, ...posterRecipes(document, known).map((each) => each.recipe)]) {
  const file =
    recipe.kind === 'poster' ? `made-poster-${recipe.width}.${recipe.format}` : 'made-proof.mp4'
  const rendered = await browser.render(clip, recipe)
  await writeFile(`${files}${file}`, rendered.bytes)
  console.log(`${file}: ${rendered.bytes.byteLength} bytes`)
  made.push({ key: recipeKey(recipe), file, facts: rendered.facts })
}
// With its probes a first visitor sees at once how bytes and quality hang together.
for (const { recipe } of clipRecipes(document, known)) {
  const facts = await browser.probe(clip, probeOf(recipe))
  console.log(`${recipeKey(probeOf(recipe))}: ${facts.points.length} points`)
  made.push({ key: recipeKey(probeOf(recipe)), file: null, facts })
}
const analysed: Record<string, unknown> = {}
for (const name of wanted === 'probes' ? [] : [...SCENARIO.clips, ...SCENARIO.pictures]) {
  const { analysis, strip, cells } = await browser.analyse(`${files}${name}`)
  if (strip) await writeFile(`${files}strip-${name}.webp`, strip)
  analysed[name] = { analysis, cells }
}
if (wanted !== 'probes') await writeFile(`${files}analysed.json`, `${JSON.stringify(analysed)}\n`)
await browser.stop()
await writeFile(`${files}made.json`, `${JSON.stringify(made, null, 2)}\n`)
