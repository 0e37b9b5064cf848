import type { QueryInterface } from 'sequelize'

/** What machines render workers are on, and how fast. */
export const workerSpeeds = {
  name: '0011-worker-speeds',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(
      `ALTER TABLE render_workers ADD COLUMN machine text NOT NULL DEFAULT '',
        ADD COLUMN speeds jsonb NOT NULL DEFAULT '[]'`,
    )
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(
      'ALTER TABLE render_workers DROP COLUMN machine, DROP COLUMN speeds',
    )
  },
}
