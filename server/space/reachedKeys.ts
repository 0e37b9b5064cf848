import { setImmediate as turn } from 'node:timers/promises'
import { factsSchema } from '../../core/api/wire'
import { parseBackdrop, type BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { knownSource } from '../../core/api/knownSource'
import { documentKeys } from '../../core/backdrop/documentKeys'
import { readStored } from '../../core/backdrop/storedHistory'
import { reachableDocuments } from '../../core/backdrop/usedSources'
import { kindOf } from '../../core/kinds'
import type { KnownSource, Sources } from '../../core/kinds/Kind'
import type { Database } from '../store/database'

/** Documents that are looked at before the event loop gets its turn. */
const DOCUMENTS_PER_TURN = 10
/** Revisions that are read at once. */
const REVISIONS_PER_READ = 100

/**
 * Removes from `keys` (recipe keys of stored renditions) all that any backdrop can reach: by its
 * document, by undo and redo, and by its kept revisions. The rest is unused.
 */
export async function strikeReachedKeys(
  database: Database,
  keys: Set<string>,
  options: { signal: AbortSignal; onProgress: (done: number) => void },
): Promise<void> {
  if (keys.size === 0) return
  const strike = strikerOf(keys, await sourcesById(database))
  const backdrops = await database.query<{ id: string }>('SELECT id FROM backdrops ORDER BY id')
  for (const [index, { id }] of backdrops.entries()) {
    options.signal.throwIfAborted()
    options.onProgress(index / backdrops.length)
    for await (const document of documentsOf(database, id)) await strike(document)
  }
}

/** Every document of a backdrop that can come back. */
async function* documentsOf(database: Database, id: string): AsyncGenerator<BackdropDocument> {
  const [row] = await database.query<{ document: unknown; history: unknown }>(
    'SELECT document, history FROM backdrops WHERE id = $1',
    [id],
  )
  if (!row) return
  const { document, history } = readStored(row.document, row.history)
  yield document
  yield* reachableDocuments(document, history)
  let after = -1
  for (;;) {
    const revisions = await database.query<{ revision: number; document: unknown }>(
      'SELECT revision, document FROM revisions WHERE backdrop_id = $1 AND revision > $2 ORDER BY revision LIMIT $3',
      [id, after, REVISIONS_PER_READ],
    )
    for (const revision of revisions) {
      after = revision.revision
      const parsed = parseBackdrop(revision.document)
      if (parsed.success) yield parsed.data
    }
    if (revisions.length < REVISIONS_PER_READ) return
  }
}

function strikerOf(
  keys: Set<string>,
  known: Sources,
): (document: BackdropDocument) => Promise<void> {
  const seen = new Set<string>()
  let looked = 0
  return async (document) => {
    // Most revisions differ in words or colours, which no file depends on.
    const { base, particles, poster, fit, weight, behaviour, copy, tone } = document
    const blurred = Object.values(weight.renditions).some((row) => row.copyBlur > 0)
    const matters = [
      base,
      kindOf(base)
        .sources(base)
        .map(({ sourceId }) => known.get(sourceId)?.sha256),
      particles?.form === 'rendered' ? particles : null,
      tone,
      poster,
      fit,
      weight,
      behaviour.phone,
      blurred ? copy : null,
    ]
    const fingerprint = JSON.stringify(matters)
    if (seen.has(fingerprint)) return
    seen.add(fingerprint)
    for (const key of documentKeys(document, known)) keys.delete(key)
    if (++looked % DOCUMENTS_PER_TURN === 0) await turn()
  }
}

async function sourcesById(database: Database): Promise<Sources> {
  const rows = await database.query<{ id: string; sha256: string; facts: unknown }>(
    'SELECT id, sha256, facts FROM sources',
  )
  const sources = new Map<string, KnownSource>()
  for (const { id, sha256, facts } of rows) {
    const parsed = factsSchema.safeParse(facts)
    if (parsed.success) sources.set(id, knownSource({ sha256, facts: parsed.data }))
  }
  return sources
}
