import type { QueryInterface } from 'sequelize'

/**
 * What a project decides for all its backdrops: budgets, windows, and which engines play what.
 * Empty where it keeps Telon's own.
 */
export const settings = {
  name: '0003-settings',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(
      `ALTER TABLE projects ADD COLUMN settings jsonb NOT NULL DEFAULT '{}'`,
    )
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`ALTER TABLE projects DROP COLUMN settings`)
  },
}
