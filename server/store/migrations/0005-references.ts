import type { QueryInterface } from 'sequelize'

/**
 * Uses are stored in tables: the sources of every document, undo step and kept revision. Files
 * record since when they are unused, and saves have an id, so that a save sent twice is one
 * revision.
 */
export const references = {
  name: '0005-references',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      CREATE TABLE used_sources (
        backdrop_id uuid NOT NULL REFERENCES backdrops ON DELETE CASCADE,
        -- 'document': what hangs there now; 'history': what undo and redo lead to; 'revision': a kept revision.
        reach text NOT NULL CHECK (reach IN ('document', 'history', 'revision')),
        revision integer,
        source_id uuid NOT NULL REFERENCES sources,
        -- The content that a document names by its digest, where it does.
        sha256 text REFERENCES blobs (sha256),
        CHECK ((reach = 'revision') = (revision IS NOT NULL))
      );
      CREATE INDEX ON used_sources (backdrop_id, reach, revision);
      CREATE INDEX ON used_sources (source_id);
      CREATE INDEX ON used_sources (sha256);
      INSERT INTO used_sources (backdrop_id, reach, source_id)
        SELECT backdrops.id, 'document', backdrops.source_id FROM backdrops;
      INSERT INTO used_sources (backdrop_id, reach, source_id, sha256)
        SELECT backdrops.id, 'document', sources.id, blobs.sha256
        FROM backdrops JOIN sources ON sources.id::text = backdrops.document -> 'still' -> 'picture' ->> 'sourceId'
        LEFT JOIN blobs ON blobs.sha256 = backdrops.document -> 'still' -> 'picture' ->> 'sha256';
      INSERT INTO used_sources (backdrop_id, reach, revision, source_id)
        SELECT revisions.backdrop_id, 'revision', revisions.revision, sources.id
        FROM revisions JOIN sources ON sources.id::text = revisions.document -> 'material' ->> 'sourceId';
      INSERT INTO used_sources (backdrop_id, reach, revision, source_id, sha256)
        SELECT revisions.backdrop_id, 'revision', revisions.revision, sources.id, blobs.sha256
        FROM revisions JOIN sources ON sources.id::text = revisions.document -> 'still' -> 'picture' ->> 'sourceId'
        LEFT JOIN blobs ON blobs.sha256 = revisions.document -> 'still' -> 'picture' ->> 'sha256';
      -- Undo steps: every text in a history that is the id of a source, or the digest of a file, counts as used.
      INSERT INTO used_sources (backdrop_id, reach, source_id)
        SELECT DISTINCT backdrops.id, 'history', sources.id
        FROM backdrops CROSS JOIN LATERAL jsonb_path_query(backdrops.history, 'lax $.**') AS value
        JOIN sources ON to_jsonb(sources.id::text) = value;

      ALTER TABLE blobs ADD COLUMN unused_since timestamptz;
      ALTER TABLE renditions ADD COLUMN unused_since timestamptz, ADD COLUMN created_at timestamptz NOT NULL DEFAULT now();
      CREATE INDEX ON sources (strip_sha256);
      ALTER TABLE revisions ADD COLUMN save_id uuid;
      CREATE UNIQUE INDEX revisions_by_save ON revisions (backdrop_id, save_id);

      -- Files that were announced and whose bytes are on their way.
      CREATE TABLE announced_renditions (
        id uuid PRIMARY KEY REFERENCES blobs ON DELETE CASCADE,
        key text NOT NULL, recipe jsonb NOT NULL, facts jsonb NOT NULL
      );
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      DROP TABLE announced_renditions;
      DROP INDEX revisions_by_save, sources_strip_sha256_idx;
      ALTER TABLE revisions DROP COLUMN save_id;
      ALTER TABLE renditions DROP COLUMN unused_since, DROP COLUMN created_at;
      ALTER TABLE blobs DROP COLUMN unused_since;
      DROP TABLE used_sources;
    `)
  },
}
