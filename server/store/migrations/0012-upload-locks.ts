import type { QueryInterface } from 'sequelize'

/** Which server writes an upload: several share a database. */
export const uploadLocks = {
  name: '0012-upload-locks',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      CREATE TABLE upload_locks (
        upload_id text PRIMARY KEY,
        -- The request that holds it.
        holder uuid NOT NULL,
        -- Another request waits for it.
        wanted boolean NOT NULL DEFAULT false,
        -- Of a server that has ended by then: it says more often that it goes on.
        ends_at timestamptz NOT NULL
      )`)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query('DROP TABLE upload_locks')
  },
}
