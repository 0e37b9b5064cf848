import type { Transaction } from 'sequelize'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { History } from '../../core/backdrop/history'
import { sourcesInHistory, usedSources } from '../../core/backdrop/usedSources'
import type { SourceRef } from '../../core/kinds/Kind'
import { ApiError } from '../ApiError'
import type { Database } from './database'

/*
 * The table of used sources: which sources each backdrop's document, its undo steps and its kept
 * revisions use. It is written in the transaction that writes the document, so that it is never
 * behind. Kinds of backdrops add to it through `usedSources` in the core.
 */

/** A document that is being written. */
export interface Written {
  readonly backdropId: string
  readonly projectId: string
  readonly revision: number
  readonly document: BackdropDocument
  readonly history: History
}

/**
 * Records the sources of a document, its history and its revision. Sources that had been taken off
 * the shelf are restored, because they are used. Errors: `backdrop/unknown-source` if the document
 * uses a source of another project.
 */
export async function writeUsedSources(
  database: Database,
  written: Written,
  transaction: Transaction,
): Promise<void> {
  const { backdropId, projectId, revision, document, history } = written
  const used = usedSources(document)
  await claimSources(database, used, projectId, transaction)
  await database.query(
    `DELETE FROM used_sources WHERE backdrop_id = $1 AND reach IN ('document', 'history')`,
    [backdropId],
    transaction,
  )
  await insertUses(
    database,
    used,
    { backdropId, projectId, reach: 'document', revision: null },
    transaction,
  )
  await insertUses(
    database,
    used,
    { backdropId, projectId, reach: 'revision', revision },
    transaction,
  )
  const inHistory = sourcesInHistory(document, history)
  await insertUses(
    database,
    inHistory,
    { backdropId, projectId, reach: 'history', revision: null },
    transaction,
  )
}

async function claimSources(
  database: Database,
  used: readonly SourceRef[],
  projectId: string,
  transaction: Transaction,
): Promise<void> {
  const ids = [...new Set(used.map(({ sourceId }) => sourceId))]
  const found = await database.query<{ id: string }>(
    'UPDATE sources SET deleted_at = NULL WHERE id = ANY($1::uuid[]) AND project_id = $2 RETURNING id',
    [ids, projectId],
    transaction,
  )
  const missing = ids.filter((id) => !found.some((row) => row.id === id))
  if (missing.length > 0) throw new ApiError('backdrop/unknown-source', { sourceIds: missing })
}

interface Place {
  readonly backdropId: string
  readonly projectId: string
  readonly reach: 'document' | 'history' | 'revision'
  readonly revision: number | null
}

/** Sources that are no longer there are left out: undo steps of old backdrops may name such. */
async function insertUses(
  database: Database,
  uses: readonly SourceRef[],
  { backdropId, projectId, reach, revision }: Place,
  transaction: Transaction,
): Promise<void> {
  if (uses.length === 0) return
  await database.query(
    `INSERT INTO used_sources (backdrop_id, reach, revision, source_id, sha256)
    SELECT $1, $2, $3, sources.id, blobs.sha256
    FROM unnest($4::text[], $5::text[]) AS used (source_id, sha256)
    JOIN sources ON sources.id::text = used.source_id AND sources.project_id = $6
    LEFT JOIN blobs ON blobs.sha256 = used.sha256`,
    [
      backdropId,
      reach,
      revision,
      uses.map((use) => use.sourceId),
      uses.map((use) => use.sha256),
      projectId,
    ],
    transaction,
  )
}

/** Names of the backdrops whose present documents use any of some sources. */
export async function usersOf(
  database: Database,
  sourceIds: readonly string[],
  transaction: Transaction | null = null,
): Promise<{ sourceId: string; name: string }[]> {
  if (sourceIds.length === 0) return []
  return database.query<{ sourceId: string; name: string }>(
    `SELECT DISTINCT used_sources.source_id AS "sourceId", backdrops.name
    FROM used_sources JOIN backdrops ON backdrops.id = used_sources.backdrop_id
    WHERE used_sources.reach = 'document' AND used_sources.source_id = ANY($1::uuid[])
    ORDER BY backdrops.name`,
    [[...sourceIds]],
    transaction,
  )
}

/** A source of each backdrop's base, by backdrop: what it can be known by. */
export async function shownSources(
  database: Database,
  backdropIds: readonly string[],
): Promise<Map<string, string>> {
  if (backdropIds.length === 0) return new Map()
  const rows = await database.query<{ backdropId: string; sourceId: string }>(
    `SELECT DISTINCT ON (backdrop_id) backdrop_id AS "backdropId", source_id AS "sourceId"
    FROM used_sources
    WHERE reach = 'document' AND sha256 IS NULL AND backdrop_id = ANY($1::uuid[])
    ORDER BY backdrop_id`,
    [[...backdropIds]],
  )
  return new Map(rows.map(({ backdropId, sourceId }) => [backdropId, sourceId]))
}
