import type { FreeingState, ProjectSpace, SpaceReport } from '../../core/api/space'
import type { Database } from '../store/database'

interface Sum {
  bytes: string
  files: string
}
const toFiles = (sum: Sum | undefined): { bytes: number; files: number } => ({
  bytes: Number(sum?.bytes ?? 0),
  files: Number(sum?.files ?? 0),
})

/** What takes space in a database. Unused files before `cutoff` can go now. */
export async function reportSpace(
  database: Database,
  freeing: FreeingState | null,
  cutoff: Date,
): Promise<SpaceReport> {
  const [[disk], [stored], [now], [later], projects] = await Promise.all([
    database.query<{ bytes: string }>('SELECT pg_database_size(current_database()) AS bytes'),
    database.query<Sum>('SELECT coalesce(sum(received), 0) AS bytes, count(*) AS files FROM blobs'),
    database.query<Sum>(
      'SELECT coalesce(sum(size), 0) AS bytes, count(*) AS files FROM blobs WHERE unused_since <= $1',
      [cutoff],
    ),
    database.query<Sum & { next: Date | null }>(
      `SELECT coalesce(sum(size), 0) AS bytes, count(*) AS files, min(unused_since) + $2 * interval '1 ms' AS next
      FROM blobs WHERE unused_since > $1`,
      [cutoff, Date.now() - cutoff.getTime()],
    ),
    projectsOf(database),
  ])
  return {
    onDisk: Number(disk?.bytes ?? 0),
    stored: toFiles(stored),
    projects,
    freeable: {
      now: toFiles(now),
      later: toFiles(later),
      nextAt: later?.next?.toISOString() ?? null,
    },
    freeing,
  }
}

async function projectsOf(database: Database): Promise<ProjectSpace[]> {
  const rows = await database.query<Record<string, string>>(`
    SELECT projects.id, projects.name, sources.*, renditions.*, uploads.*, revisions.*
    FROM projects
    LEFT JOIN LATERAL (
      SELECT coalesce(sum(blobs.size), 0) AS source_bytes, count(*) AS source_files FROM blobs WHERE blobs.sha256 IN (
        SELECT sha256 FROM sources WHERE sources.project_id = projects.id
        UNION SELECT strip_sha256 FROM sources WHERE sources.project_id = projects.id
      )
    ) sources ON true
    LEFT JOIN LATERAL (
      -- A rendition belongs to the projects whose shelf holds the clip that its key names.
      SELECT coalesce(sum(blobs.size), 0) AS rendition_bytes, count(*) AS rendition_files FROM blobs WHERE blobs.sha256 IN (
        SELECT renditions.sha256 FROM renditions
        WHERE split_part(renditions.key, ':', 2) IN (SELECT sha256 FROM sources WHERE sources.project_id = projects.id)
      )
    ) renditions ON true
    LEFT JOIN LATERAL (
      SELECT coalesce(sum(blobs.received), 0) AS upload_bytes, count(*) AS upload_files
      FROM uploads JOIN blobs ON blobs.id = uploads.blob_id
      WHERE uploads.project_id = projects.id AND uploads.state = 'receiving'
    ) uploads ON true
    LEFT JOIN LATERAL (
      SELECT count(*) AS revision_count FROM revisions
      JOIN backdrops ON backdrops.id = revisions.backdrop_id
      JOIN spots ON spots.id = backdrops.spot_id JOIN pages ON pages.id = spots.page_id
      WHERE pages.project_id = projects.id
    ) revisions ON true
    ORDER BY projects.created_at`)
  return rows.map((row) => ({
    id: row['id']!,
    name: row['name']!,
    sources: { bytes: Number(row['source_bytes']), files: Number(row['source_files']) },
    renditions: { bytes: Number(row['rendition_bytes']), files: Number(row['rendition_files']) },
    uploads: { bytes: Number(row['upload_bytes']), files: Number(row['upload_files']) },
    revisions: Number(row['revision_count']),
  }))
}
