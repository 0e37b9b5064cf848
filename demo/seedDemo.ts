import { pictureOf } from '../core/api/knownSource'
import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { readFile } from 'node:fs/promises'
import { z } from 'zod'
import { renditionFactsSchema } from '../core/api/wire'
import { analysisSchema } from '../core/material/Analysis'
import { USUAL_PICTURE } from '../core/fit/screens'
import { memorySource } from '../core/bytes/ByteSource'
import { probe, type SourceFacts } from '../core/media/probe'
import type { Database } from '../server/store/database'
import type { Stores } from '../server/store/stores'
import { inProject } from '../node/projectRoot'
import { demoBackdrop, demoEmbers, demoImage, demoPaint, demoSlideshow, SCENARIO } from './scenario'

/**
 * What `npm run demo` has made besides the clips: proof, posters and probes of the half-prepared
 * backdrop, by recipe. Probes are nothing but their facts.
 */
export const madeSchema = z.array(
  z.object({ key: z.string(), file: z.string().nullable(), facts: renditionFactsSchema }),
)

/** Measurements of each source's frames, made when they were drawn. */
const analysedSchema = z.record(
  z.string(),
  z.object({ analysis: analysisSchema.nullable(), cells: z.int() }),
)

const file = (name: string): string => inProject(`demo/files/${name}`)

type DemoStores = Pick<Stores, 'projects' | 'shelf' | 'backdrops' | 'blobs' | 'renditions'>

const SEEDING_LOCK = 7_266_002

/** Progress of the seeding; stored in the database, so that an interrupted start is detected. */
const stateSchema = z.object({ state: z.enum(['seeding', 'done']), projectId: z.uuid().optional() })

/**
 * Puts Vesperline into a database that has never contained it; returns whether it did. A designer
 * who deleted the demonstration does not get it again. An interrupted seeding is removed and
 * repeated.
 */
export async function seedDemo(database: Database, stores: DemoStores): Promise<boolean> {
  return database.transaction(async (holder) => {
    // Of two servers that start at once one seeds, and the other waits until it has.
    await database.query('SELECT pg_advisory_xact_lock($1)', [SEEDING_LOCK], holder)
    return seedAlone(database, stores)
  })
}

async function seedAlone(database: Database, stores: DemoStores): Promise<boolean> {
  const [row] = await database.query<{ value: unknown }>(
    `SELECT value FROM server_state WHERE key = 'demo'`,
  )
  const before = row ? stateSchema.parse(row.value) : null
  if (before?.state === 'done') return false
  // A project that is gone already is as well.
  if (before?.projectId && (await database.models.Project.findByPk(before.projectId))) {
    await stores.projects.delete(before.projectId)
  }
  const note = (value: z.infer<typeof stateSchema>): Promise<unknown> =>
    database.query(
      `INSERT INTO server_state (key, value) VALUES ('demo', $1)
      ON CONFLICT (key) DO UPDATE SET value = EXCLUDED.value, updated_at = now() RETURNING key`,
      [JSON.stringify(value)],
    )
  const projectId = crypto.randomUUID()
  await note({ state: 'seeding', projectId })
  await database.models.Project.create({ id: projectId, name: SCENARIO.project })
  await stores.projects.changeSettings(projectId, {
    saveBrand: {
      colors: [...SCENARIO.brand.colors],
      typefaces: [...SCENARIO.brand.typefaces],
    },
  })
  await fill(projectId, stores)
  await note({ state: 'done' })
  return true
}

/** Where a backdrop of the demonstration hangs. */
interface SpotOfDemo {
  readonly name: string
  readonly page: string
  readonly spot: string
}

async function fill(
  projectId: string,
  { projects, shelf, backdrops, blobs, renditions }: DemoStores,
): Promise<void> {
  const spots = new Map<string, string>()
  for (const { name, spots: wanted } of SCENARIO.pages) {
    const page = await projects.createPage(projectId, name)
    for (const spot of wanted)
      spots.set(`${name}/${spot.name}`, (await projects.createSpot(page.id, spot)).id)
  }
  const add = ({ page, spot, name }: SpotOfDemo, document: BackdropDocument): Promise<unknown> =>
    backdrops.add(spots.get(`${page}/${spot}`)!, name, document)
  await add(SCENARIO.paint, demoPaint())
  const analysed = analysedSchema.parse(JSON.parse(await readFile(file('analysed.json'), 'utf8')))
  const ids = new Map<string, string>()
  const put = async (name: string): Promise<{ id: string; facts: SourceFacts }> => {
    const bytes = await readFile(file(name))
    const facts = await probe(memorySource(bytes))
    if (!facts.ok) throw facts.error
    const blob = await blobs.put(bytes)
    const { source } = await shelf.add(projectId, name, blob.sha256, facts.value)
    ids.set(name, source.id)
    const measured = analysed[name]
    if (measured?.analysis)
      await shelf.storeAnalysis(
        source.id,
        measured.analysis,
        await blobs.put(await readFile(file(`strip-${name}.webp`))),
        measured.cells,
      )
    return { id: source.id, facts: facts.value }
  }
  // The newest source is first on the shelf, so the clips are added last, and the first clip last
  // of all.
  for (const name of [...SCENARIO.pictures].reverse()) {
    const { id, facts } = await put(name)
    if (name === SCENARIO.image.picture) await add(SCENARIO.image, demoImage(id, pictureOf(facts)))
    if (name === SCENARIO.embers.picture)
      await add(SCENARIO.embers, demoEmbers(id, pictureOf(facts)))
  }
  for (const { name, pictures } of SCENARIO.sets) {
    const sourceIds = pictures.map((picture) => ids.get(picture)!)
    const set = await shelf.createSet(projectId, { name, sourceIds })
    if (name === SCENARIO.slideshow.set)
      await add(SCENARIO.slideshow, demoSlideshow(sourceIds, set.id, USUAL_PICTURE))
  }
  for (const name of [...SCENARIO.clips].reverse()) {
    const { id, facts } = await put(name)
    // Last of all: the first screen shows what was worked on last.
    if (name === SCENARIO.backdrop.clip && facts.kind === 'clip')
      await add(SCENARIO.backdrop, demoBackdrop(id, facts))
  }
  for (const { key, file: made, facts } of madeSchema.parse(
    JSON.parse(await readFile(file('made.json'), 'utf8')),
  )) {
    const blob = await blobs.put(
      made === null ? Buffer.from(JSON.stringify(facts)) : await readFile(file(made)),
    )
    await renditions.keep(key, blob, facts)
  }
}
