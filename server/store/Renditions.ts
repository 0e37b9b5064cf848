import type { Transaction } from 'sequelize'
import {
  renditionFactsSchema,
  type Rendition,
  type RenditionFacts,
} from '../../core/api/renditions'
import { recipeSchema, type AnyRecipe } from '../../core/api/recipes'
import { recipeKey } from '../../core/backdrop/recipe'
import { ApiError } from '../ApiError'
import type { BlobStore, StoredBlob } from '../blobs/BlobStore'
import type { FileProber } from '../probing/FileProber'
import type { Database } from './database'

interface Announcement {
  readonly recipe: AnyRecipe
  readonly facts: RenditionFacts
  readonly bytes: number
}

/**
 * Finished files by recipe. A file is announced with its recipe, its bytes are streamed in and read
 * by the core, and only what is what its recipe says is kept.
 */
export class Renditions {
  private readonly database: Database
  private readonly blobs: BlobStore
  private readonly prober: FileProber

  constructor(database: Database, blobs: BlobStore, prober: FileProber) {
    this.database = database
    this.blobs = blobs
    this.prober = prober
  }

  /**
   * Which of some recipes are rendered. Keys that are asked for count as used: they are about to be
   * shown.
   */
  async find(
    keys: readonly string[],
    transaction: Transaction | null = null,
  ): Promise<Rendition[]> {
    if (keys.length === 0) return []
    const rows = await this.database.query<{
      key: string
      sha256: string
      bytes: string
      facts: unknown
      unused: boolean
    }>(
      'SELECT key, sha256, bytes, facts, unused_since IS NOT NULL AS unused FROM renditions WHERE key = ANY($1::text[])',
      [[...keys]],
      transaction,
    )
    const unused = rows.filter((row) => row.unused).map((row) => row.key)
    if (unused.length > 0) {
      await this.database.query(
        'UPDATE renditions SET unused_since = NULL WHERE key = ANY($1::text[]) RETURNING key',
        [unused],
        transaction,
      )
    }
    return rows.map(({ key, sha256, bytes, facts }) => ({
      key,
      sha256,
      bytes: Number(bytes),
      facts: renditionFactsSchema.parse(facts),
    }))
  }

  /**
   * Announces a file: gives the id under which its bytes are expected, or the file that is there
   * already.
   */
  async announce({
    recipe,
    facts,
    bytes,
  }: Announcement): Promise<{ id: string | null; rendition: Rendition | null }> {
    const key = recipeKey(recipe)
    const [held] = await this.find([key])
    if (held) return { id: null, rendition: held }
    const id = crypto.randomUUID()
    await this.database.transaction(async (transaction) => {
      await this.blobs.begin(id, bytes, transaction)
      await this.database.query(
        'INSERT INTO announced_renditions (id, key, recipe, facts) VALUES ($1, $2, $3, $4)',
        [id, key, JSON.stringify(recipe), JSON.stringify(facts)],
        transaction,
      )
    })
    return { id, rendition: null }
  }

  /** How much of an announced file is there; null where none is announced under the id. */
  async announced(id: string): Promise<{ size: number; received: number } | null> {
    const [found] = await this.database.query<{ size: string; received: string }>(
      'SELECT size, received FROM announced_renditions JOIN blobs USING (id) WHERE id = $1',
      [id],
    )
    return found ? { size: Number(found.size), received: Number(found.received) } : null
  }

  /**
   * Stores the bytes of an announced file in one go. If anything fails, nothing of it is kept.
   * Errors: those of `finish`; `request/invalid` for too few bytes; `upload/too-large` for more
   * than announced.
   */
  async fill(id: string, stream: AsyncIterable<Uint8Array>): Promise<Rendition> {
    const announced = await this.announced(id)
    if (!announced) throw new ApiError('rendition/not-found')
    const { size } = announced
    try {
      const received = await this.blobs.append(id, 0, stream)
      if (received < size)
        throw new ApiError('request/invalid', `The body has ${received} bytes, not ${size}.`)
      return await this.finish(id)
    } catch (error) {
      await this.blobs.discard(id).catch(() => undefined)
      throw error
    }
  }

  /**
   * Reads an announced file whose bytes are all there, and keeps it where it is what its recipe
   * says; else nothing of it is kept. Errors: `rendition/not-found`; `rendition/mismatch` with what
   * differs; `storage/incomplete`.
   */
  async finish(id: string): Promise<Rendition> {
    const [announced] = await this.database.query<{
      key: string
      recipe: unknown
      facts: unknown
      size: string
    }>(
      `SELECT key, recipe, facts, blobs.size FROM announced_renditions JOIN blobs USING (id) WHERE id = $1`,
      [id],
    )
    if (!announced) throw new ApiError('rendition/not-found')
    const recipe = recipeSchema.parse(announced.recipe)
    const facts = renditionFactsSchema.parse(announced.facts)
    const source = this.blobs.source({ id, size: Number(announced.size) })
    const verified = await this.prober.verify(source, recipe, facts)
    if (!verified.ok) {
      await this.blobs.discard(id)
      throw new ApiError('rendition/mismatch', verified.error)
    }
    return this.database.transaction(async (transaction) => {
      const blob = await this.blobs.seal(id, { transaction })
      await this.database.query('DELETE FROM announced_renditions WHERE id = $1', [id], transaction)
      return this.keep(announced.key, blob, facts, transaction)
    })
  }

  /** Records a stored file under its recipe; a recipe that is recorded already does not change. */
  async keep(
    key: string,
    blob: StoredBlob,
    facts: RenditionFacts,
    transaction: Transaction | null = null,
  ): Promise<Rendition> {
    await this.database.query(
      `INSERT INTO renditions (key, sha256, bytes, facts) VALUES ($1, $2, $3, $4)
      ON CONFLICT (key) DO UPDATE SET unused_since = NULL`,
      [key, blob.sha256, blob.size, JSON.stringify(facts)],
      transaction,
    )
    const [kept] = await this.find([key], transaction)
    return kept!
  }

  /**
   * Coded frames and times of two contents are the same: what was rendered from the one holds for
   * the other.
   */
  async carryOver(fromSha256: string, toSha256: string, transaction: Transaction): Promise<void> {
    await this.database.query(
      `INSERT INTO renditions (key, sha256, bytes, facts)
      SELECT replace(key, $1, $2), sha256, bytes, facts FROM renditions WHERE position($1 in key) > 0
      ON CONFLICT (key) DO NOTHING`,
      [fromSha256, toSha256],
      transaction,
    )
  }
}
