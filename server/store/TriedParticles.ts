import { createHash } from 'node:crypto'
import { triedCostSchema, type SlowOrder, type TriedCost } from '../../core/api/slowMachines'
import { costingParts } from '../../core/particles/costingParts'
import type { Database } from './database'

/** So many are kept, the latest ones: each takes about a kilobyte, and can be tried again. */
const MAX_KEPT = 1_000

type Tried = Pick<SlowOrder, 'definition' | 'frameRate'>

/** What particles cost on slowed machines when they were tried the last time, in PostgreSQL. */
export class TriedParticles {
  private readonly database: Database

  constructor(database: Database) {
    this.database = database
  }

  /** The last try of what costs as much; null where there was none. */
  async find(tried: Tried): Promise<TriedCost | null> {
    const [row] = await this.database.query<{ cost: unknown }>(
      'SELECT cost FROM tried_particles WHERE key = $1',
      [keyOf(tried)],
    )
    return row ? (triedCostSchema.safeParse(row.cost).data ?? null) : null
  }

  async keep(tried: Tried, cost: TriedCost): Promise<void> {
    await this.database.query(
      `INSERT INTO tried_particles (key, cost) VALUES ($1, $2)
         ON CONFLICT (key) DO UPDATE SET cost = excluded.cost, tried_at = now()`,
      [keyOf(tried), JSON.stringify(cost)],
    )
    await this.database.query(
      `DELETE FROM tried_particles WHERE key IN (
         SELECT key FROM tried_particles ORDER BY tried_at DESC OFFSET ${MAX_KEPT})`,
    )
  }
}

const keyOf = ({ definition, frameRate }: Tried): string =>
  createHash('sha256')
    .update(JSON.stringify([costingParts(definition), frameRate]))
    .digest('hex')
