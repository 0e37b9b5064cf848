import type { QueryInterface } from 'sequelize'

/**
 * The shelf grows: images beside clips, measurements, sets of images; sources taken off it can be
 * restored.
 */
export const material = {
  name: '0002-material',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      ALTER TABLE sources
        ADD COLUMN kind text NOT NULL DEFAULT 'clip' CHECK (kind IN ('clip', 'still')),
        ADD COLUMN width integer NOT NULL DEFAULT 0, ADD COLUMN height integer NOT NULL DEFAULT 0,
        ADD COLUMN bytes bigint NOT NULL DEFAULT 0, ADD COLUMN duration_ms double precision NOT NULL DEFAULT 0,
        ADD COLUMN widest integer NOT NULL DEFAULT 0, ADD COLUMN liveliness text,
        ADD COLUMN findings jsonb NOT NULL DEFAULT '[]', ADD COLUMN analysis jsonb,
        ADD COLUMN strip_sha256 text REFERENCES blobs (sha256), ADD COLUMN strip_cells integer,
        ADD COLUMN deleted_at timestamptz;
      UPDATE sources SET
        width = (facts -> 'video' ->> 'displayWidth')::integer, height = (facts -> 'video' ->> 'displayHeight')::integer,
        widest = (facts -> 'video' ->> 'displayWidth')::integer, bytes = (facts ->> 'bytes')::bigint, duration_ms = (facts ->> 'durationMs')::double precision;
      CREATE INDEX sources_newest ON sources (project_id, created_at DESC) WHERE deleted_at IS NULL;
      CREATE INDEX sources_by_name ON sources (project_id, lower(name)) WHERE deleted_at IS NULL;
      CREATE TABLE still_sets (
        id uuid PRIMARY KEY, project_id uuid NOT NULL REFERENCES projects ON DELETE CASCADE, name text NOT NULL, created_at timestamptz NOT NULL
      );
      CREATE TABLE set_members (
        set_id uuid NOT NULL REFERENCES still_sets ON DELETE CASCADE, source_id uuid NOT NULL REFERENCES sources ON DELETE CASCADE,
        place integer NOT NULL, PRIMARY KEY (set_id, source_id)
      );
      CREATE INDEX ON still_sets (project_id);
      CREATE INDEX ON set_members (source_id);
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      DROP TABLE set_members, still_sets;
      DELETE FROM sources WHERE kind = 'still';
      ALTER TABLE sources DROP COLUMN kind, DROP COLUMN width, DROP COLUMN height, DROP COLUMN bytes, DROP COLUMN duration_ms, DROP COLUMN widest,
        DROP COLUMN liveliness, DROP COLUMN findings, DROP COLUMN analysis, DROP COLUMN strip_sha256, DROP COLUMN strip_cells, DROP COLUMN deleted_at;
    `)
  },
}
