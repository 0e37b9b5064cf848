import type { Transaction } from 'sequelize'
import type { UnfinishedUpload } from '../../core/api/wire'
import type { SourceFacts } from '../../core/media/probe'
import { ApiError, type ApiErrorCode } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { Database } from '../store/database'
import { requireProject } from '../store/Projects'
import type { Shelf } from '../store/Shelf'

/**
 * The state of an upload. `receiving` with all its bytes means received and not yet checked. Each
 * step is one transaction, so after any crash the next start continues from the last completed
 * step.
 */
export type UploadStage = 'receiving' | 'sealed' | 'shelved' | 'refused'

/** Why an upload was refused; stored for clients whose answer was lost. */
export interface Refusal {
  readonly code: ApiErrorCode
  readonly message: string
}

export interface UploadState {
  readonly id: string
  readonly projectId: string
  readonly blobId: string | null
  readonly name: string
  readonly size: number
  /** Bytes that are stored. */
  readonly received: number
  readonly stage: UploadStage
  /** The sender's own SHA-256 of the file, if it sent one. */
  readonly clientSha256: string | null
  readonly sourceId: string | null
  /** Whether the content lay on the shelf already. */
  readonly known: boolean
  readonly refusal: Refusal | null
  readonly createdAt: Date
}

interface UploadColumns {
  id: string
  project_id: string
  blob_id: string | null
  name: string
  size: string
  received: string | null
  state: UploadStage
  client_sha256: string | null
  source_id: string | null
  known: boolean
  refusal: Refusal | null
  created_at: Date
}

const COLUMNS = `
  SELECT uploads.*, blobs.received FROM uploads LEFT JOIN blobs ON blobs.id = uploads.blob_id`

function toState(row: UploadColumns): UploadState {
  return {
    id: row.id,
    projectId: row.project_id,
    blobId: row.blob_id,
    name: row.name,
    size: Number(row.size),
    received: row.state === 'receiving' ? Number(row.received ?? 0) : Number(row.size),
    stage: row.state,
    clientSha256: row.client_sha256,
    sourceId: row.source_id,
    known: row.known,
    refusal: row.refusal,
    createdAt: row.created_at,
  }
}

/** Uploads and their progress, in PostgreSQL. */
export class UploadStore {
  private readonly database: Database
  private readonly blobs: BlobStore
  private readonly shelf: Shelf

  constructor(database: Database, blobs: BlobStore, shelf: Shelf) {
    this.database = database
    this.blobs = blobs
    this.shelf = shelf
  }

  /** Begins an upload for a project. Errors: `project/not-found`. */
  async begin(upload: {
    id: string
    projectId: string
    name: string
    size: number
  }): Promise<void> {
    const { id, projectId, name, size } = upload
    await this.database.transaction(async (transaction) => {
      await requireProject(this.database, projectId, transaction)
      await this.blobs.begin(id, size, transaction)
      await this.database.query(
        `INSERT INTO uploads (id, project_id, blob_id, name, size, state) VALUES ($1, $2, $1, $3, $4, 'receiving')`,
        [id, projectId, name, size],
        transaction,
      )
    })
  }

  /** An upload; null where there is none, or its project has gone. */
  async find(id: string, transaction: Transaction | null = null): Promise<UploadState | null> {
    const rows = await this.database.query<UploadColumns>(
      `${COLUMNS} WHERE uploads.id = $1`,
      [id],
      transaction,
    )
    return rows[0] ? toState(rows[0]) : null
  }

  /** A project's uploads whose bytes have not all come, newest first. */
  async unfinished(projectId: string): Promise<UnfinishedUpload[]> {
    const rows = await this.database.query<UploadColumns>(
      `${COLUMNS} WHERE uploads.project_id = $1 AND state = 'receiving' AND blobs.received < uploads.size
      ORDER BY uploads.created_at DESC LIMIT 500`,
      [projectId],
    )
    return rows.map(toState).map(({ id, name, size, received, createdAt }) => ({
      id,
      filename: name,
      bytes: size,
      received,
      createdAt: createdAt.toISOString(),
    }))
  }

  /**
   * Ids of uploads that are completely received and not on the shelf yet: a start continues them.
   */
  async interrupted(): Promise<string[]> {
    const rows = await this.database.query<{ id: string }>(
      `SELECT uploads.id FROM uploads JOIN blobs ON blobs.id = uploads.blob_id
      WHERE state = 'sealed' OR (state = 'receiving' AND blobs.received = uploads.size) ORDER BY uploads.created_at`,
    )
    return rows.map(({ id }) => id)
  }

  /** What the source is called that an upload became; null where it is gone. */
  async nameOnShelf(id: string): Promise<string | null> {
    const rows = await this.database.query<{ name: string }>(
      'SELECT sources.name FROM uploads JOIN sources ON sources.id = uploads.source_id WHERE uploads.id = $1',
      [id],
    )
    return rows[0]?.name ?? null
  }

  /**
   * Keeps the digest that the sender has of the file; the file is compared with it before it is
   * sealed.
   */
  async expectDigest(id: string, sha256: string): Promise<void> {
    await this.database.query(
      `UPDATE uploads SET client_sha256 = $2 WHERE id = $1 AND state = 'receiving'`,
      [id, sha256],
    )
  }

  /**
   * Seals the content, or joins it to equal content that is stored. Errors: `upload/damaged`,
   * `upload/not-found`.
   */
  async seal(id: string): Promise<void> {
    await this.database.transaction(async (transaction) => {
      const upload = await this.lock(id, transaction)
      if (upload.stage !== 'receiving') return
      const blob = await this.blobs.seal(upload.blobId!, {
        transaction,
        expectedSha256: upload.clientSha256,
      })
      await this.database.query(
        `UPDATE uploads SET state = 'sealed', blob_id = $2, updated_at = now() WHERE id = $1`,
        [id, blob.id],
        transaction,
      )
    })
  }

  /** Puts sealed content on the shelf. Errors: `upload/not-found`, `project/not-found`. */
  async shelve(id: string, facts: SourceFacts): Promise<void> {
    await this.database.transaction(async (transaction) => {
      const upload = await this.lock(id, transaction)
      if (upload.stage !== 'sealed') return
      const blob = await this.blobs.find(upload.blobId!, transaction)
      if (!blob?.sha256) throw new ApiError('storage/incomplete')
      const { id: sourceId, known } = await this.shelf.place(
        { projectId: upload.projectId, name: upload.name, sha256: blob.sha256, facts },
        transaction,
      )
      await this.database.query(
        `UPDATE uploads SET state = 'shelved', source_id = $2, known = $3, updated_at = now() WHERE id = $1`,
        [id, sourceId, known],
        transaction,
      )
    })
  }

  /** Refuses an upload and lets its bytes go; the reason stays. */
  async refuse(id: string, refusal: Refusal): Promise<void> {
    await this.database.transaction(async (transaction) => {
      const upload = await this.lock(id, transaction)
      if (upload.stage === 'shelved' || upload.stage === 'refused') return
      await this.database.query(
        `UPDATE uploads SET state = 'refused', refusal = $2, blob_id = NULL, updated_at = now() WHERE id = $1`,
        [id, JSON.stringify(refusal)],
        transaction,
      )
      if (upload.blobId) await this.blobs.discard(upload.blobId, transaction)
    })
  }

  /**
   * Gives an upload up. Errors: `upload/not-found`, also for uploads that are on the shelf: their
   * content stays.
   */
  async cancel(id: string): Promise<void> {
    await this.database.transaction(async (transaction) => {
      const upload = await this.lock(id, transaction)
      if (upload.stage === 'shelved') throw new ApiError('upload/not-found')
      await this.database.query('DELETE FROM uploads WHERE id = $1', [id], transaction)
      if (upload.blobId) await this.blobs.discard(upload.blobId, transaction)
    })
  }

  private async lock(id: string, transaction: Transaction): Promise<UploadState> {
    const held = await this.database.query(
      'SELECT id FROM uploads WHERE id = $1 FOR UPDATE',
      [id],
      transaction,
    )
    const upload = held.length > 0 ? await this.find(id, transaction) : null
    if (!upload) throw new ApiError('upload/not-found')
    return upload
  }
}
