import type { QueryInterface } from 'sequelize'

/**
 * A backdrop may be made from several sources or from none: which, stands in `used_sources`. Files
 * on their way when the server was upgraded are announced again, with a recipe of today.
 */
export const kinds = {
  name: '0008-kinds',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      ALTER TABLE backdrops DROP COLUMN source_id;
      DELETE FROM announced_renditions;
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      ALTER TABLE backdrops ADD COLUMN source_id uuid REFERENCES sources;
      UPDATE backdrops SET source_id = (
        SELECT used_sources.source_id FROM used_sources
          WHERE used_sources.backdrop_id = backdrops.id AND reach = 'document' AND sha256 IS NULL
          LIMIT 1);
      DELETE FROM announced_renditions;
    `)
  },
}
