import { readFile } from 'node:fs/promises'
import { z } from 'zod'
import { renditionFactsSchema } from '../core/api/wire'
import { analysisSchema } from '../core/material/Analysis'
import { memorySource } from '../core/bytes/ByteSource'
import { probe } from '../core/media/probe'
import { BlobStore } from '../server/blobs/BlobStore'
import type { Database } from '../server/store/database'
import { Shelf } from '../server/store/Shelf'
import { Workshop } from '../server/store/Workshop'
import { demoBackdrop, SCENARIO } from './scenario'

/** What `npm run demo` has made besides the clips: proof, stills and probes of the half-prepared backdrop, by recipe. Probes are nothing but their facts. */
export const madeSchema = z.array(z.object({ key: z.string(), file: z.string().nullable(), facts: renditionFactsSchema }))

/** What the frames of each source tell, measured when they were drawn. */
const analysedSchema = z.record(z.string(), z.object({ analysis: analysisSchema.nullable(), cells: z.int() }))

const FILES = new URL('./files/', import.meta.url)

/** Puts Vesperline into a database that holds no project and never held one; returns whether it did. */
export async function seedDemo(database: Database): Promise<boolean> {
  const shelf = new Shelf(database)
  const workshop = new Workshop(database, shelf)
  const blobs = new BlobStore(database)
  // A designer who deleted the demonstration does not want it back: files stay behind, so they tell.
  const [held, projects] = await Promise.all([database.models.Blob.count(), database.models.Project.count()])
  if (held > 0 || projects > 0) return false

  const project = await database.models.Project.create({ name: SCENARIO.project })
  try {
    await fill(project.id, workshop, shelf, blobs)
  } catch (error) {
    // Half a demonstration would never be completed: the next start tries anew.
    await workshop.deleteProject(project.id)
    await database.models.Blob.destroy({ where: {} })
    throw error
  }
  return true
}

async function fill(projectId: string, workshop: Workshop, shelf: Shelf, blobs: BlobStore): Promise<void> {
  const spots = new Map<string, string>()
  for (const { name, spots: wanted } of SCENARIO.pages) {
    const page = await workshop.createPage(projectId, name)
    for (const spot of wanted) spots.set(`${name}/${spot.name}`, (await workshop.createSpot(page.id, spot)).id)
  }
  const analysed = analysedSchema.parse(JSON.parse(await readFile(new URL('analysed.json', FILES), 'utf8')))
  const ids = new Map<string, string>()
  // The newest lies first on the shelf, so the clips come last, and the first of them last of all.
  for (const file of [...SCENARIO.clips, ...SCENARIO.pictures].reverse()) {
    const bytes = await readFile(new URL(file, FILES))
    const facts = await probe(memorySource(bytes))
    if (!facts.ok) throw facts.error
    const blob = await blobs.put(bytes)
    const { source } = await shelf.add(projectId, file, blob.sha256, facts.value)
    ids.set(file, source.id)
    const measured = analysed[file]
    if (measured?.analysis) await shelf.storeAnalysis(source.id, measured.analysis, await blobs.put(await readFile(new URL(`strip-${file}.webp`, FILES))), measured.cells)
    if (file !== SCENARIO.backdrop.clip || facts.value.kind !== 'clip') continue
    const { name, page, spot } = SCENARIO.backdrop
    await workshop.addBackdrop(spots.get(`${page}/${spot}`)!, name, demoBackdrop(source.id, facts.value))
  }
  for (const { name, pictures } of SCENARIO.sets) await shelf.createSet(projectId, { name, sourceIds: pictures.map((picture) => ids.get(picture)!) })
  for (const { key, file, facts } of madeSchema.parse(JSON.parse(await readFile(new URL('made.json', FILES), 'utf8')))) {
    const blob = await blobs.put(file === null ? Buffer.from(JSON.stringify(facts)) : await readFile(new URL(file, FILES)))
    await workshop.keepRendition(key, blob.sha256, blob.size, facts)
  }
}
