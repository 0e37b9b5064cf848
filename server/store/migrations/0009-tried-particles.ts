import type { QueryInterface } from 'sequelize'

/** What particles cost on slowed machines, so that a delivered folder can tell it. */
export const triedParticles = {
  name: '0009-tried-particles',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      CREATE TABLE tried_particles (
        key text PRIMARY KEY,
        cost jsonb NOT NULL,
        tried_at timestamptz NOT NULL DEFAULT now()
      );
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query('DROP TABLE tried_particles;')
  },
}
