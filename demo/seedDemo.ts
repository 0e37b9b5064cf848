import { readFile } from 'node:fs/promises'
import { z } from 'zod'
import { renditionFactsSchema } from '../core/api/wire'
import { memorySource } from '../core/bytes/ByteSource'
import { probe } from '../core/media/probe'
import { BlobStore } from '../server/blobs/BlobStore'
import type { Database } from '../server/store/database'
import { Workshop } from '../server/store/Workshop'
import { demoBackdrop, SCENARIO } from './scenario'

/** What `npm run demo` has made besides the clips: proof and stills of the half-prepared backdrop, by recipe. */
export const madeSchema = z.array(z.object({ key: z.string(), file: z.string(), facts: renditionFactsSchema }))

const FILES = new URL('./files/', import.meta.url)

/** Puts Vesperline into a database that holds no project and never held one; returns whether it did. */
export async function seedDemo(database: Database): Promise<boolean> {
  const workshop = new Workshop(database)
  const blobs = new BlobStore(database)
  // A designer who deleted the demonstration does not want it back: files stay behind, so they tell.
  const [held, projects] = await Promise.all([database.models.Blob.count(), database.models.Project.count()])
  if (held > 0 || projects > 0) return false

  const project = await database.models.Project.create({ name: SCENARIO.project })
  try {
    await fill(project.id, workshop, blobs)
  } catch (error) {
    // Half a demonstration would never be completed: the next start tries anew.
    await workshop.deleteProject(project.id)
    await database.models.Blob.destroy({ where: {} })
    throw error
  }
  return true
}

async function fill(projectId: string, workshop: Workshop, blobs: BlobStore): Promise<void> {
  const spots = new Map<string, string>()
  for (const { name, spots: wanted } of SCENARIO.pages) {
    const page = await workshop.createPage(projectId, name)
    for (const spot of wanted) spots.set(`${name}/${spot.name}`, (await workshop.createSpot(page.id, spot)).id)
  }
  for (const clip of SCENARIO.clips) {
    const bytes = await readFile(new URL(clip, FILES))
    const facts = await probe(memorySource(bytes))
    if (!facts.ok) throw facts.error
    const blob = await blobs.put(bytes)
    const source = await workshop.addSource(projectId, clip, blob.sha256, facts.value)
    if (clip !== SCENARIO.backdrop.clip) continue
    const { name, page, spot } = SCENARIO.backdrop
    await workshop.addBackdrop(spots.get(`${page}/${spot}`)!, name, demoBackdrop(source.id, facts.value))
  }
  for (const { key, file, facts } of madeSchema.parse(JSON.parse(await readFile(new URL('made.json', FILES), 'utf8')))) {
    const blob = await blobs.put(await readFile(new URL(file, FILES)))
    await workshop.keepRendition(key, blob.sha256, blob.size, facts)
  }
}
