import type { QueryInterface } from 'sequelize'

/**
 * Storage that cannot contain half of anything: chunks have a bounded length, uploads are rows of
 * their own with a durable state, and the server's own records are in one small table.
 */
export const exactStorage = {
  name: '0004-exact-storage',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      -- NOT VALID: chunks that an older Telon wrote too long stay readable; new ones are checked.
      ALTER TABLE chunks
        ADD CONSTRAINT chunks_length CHECK (octet_length(data) BETWEEN 1 AND 1048576) NOT VALID,
        ADD CONSTRAINT chunks_seq CHECK (seq >= 0);
      ALTER TABLE blobs
        ADD CONSTRAINT blobs_received CHECK (received BETWEEN 0 AND size) NOT VALID,
        ADD CONSTRAINT blobs_sealed_whole CHECK (sha256 IS NULL OR received = size) NOT VALID,
        ADD COLUMN touched_at timestamptz NOT NULL DEFAULT now();
      CREATE TABLE uploads (
        id uuid PRIMARY KEY,
        project_id uuid NOT NULL REFERENCES projects ON DELETE CASCADE,
        blob_id uuid REFERENCES blobs ON DELETE SET NULL,
        name text NOT NULL,
        size bigint NOT NULL,
        state text NOT NULL CHECK (state IN ('receiving', 'sealed', 'shelved', 'refused')),
        client_sha256 text,
        source_id uuid REFERENCES sources ON DELETE SET NULL,
        known boolean NOT NULL DEFAULT false,
        refusal jsonb,
        created_at timestamptz NOT NULL DEFAULT now(),
        updated_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX ON uploads (project_id);
      CREATE INDEX ON uploads (blob_id);
      CREATE INDEX ON uploads (source_id);
      INSERT INTO uploads (id, project_id, blob_id, name, size, state, created_at)
        SELECT blobs.id, projects.id, blobs.id, coalesce(blobs.metadata ->> 'filename', 'clip'), blobs.size, 'receiving', blobs.created_at
        FROM blobs JOIN projects ON projects.id::text = blobs.metadata ->> 'projectId'
        WHERE blobs.sha256 IS NULL;
      ALTER TABLE blobs DROP COLUMN metadata;
      CREATE TABLE server_state (key text PRIMARY KEY, value jsonb NOT NULL, updated_at timestamptz NOT NULL DEFAULT now());
      INSERT INTO server_state (key, value) SELECT 'demo', '{"state": "done"}' WHERE EXISTS (SELECT FROM blobs) OR EXISTS (SELECT FROM projects);
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      DROP TABLE server_state;
      ALTER TABLE blobs ADD COLUMN metadata jsonb NOT NULL DEFAULT '{}';
      UPDATE blobs SET metadata = jsonb_build_object('projectId', uploads.project_id, 'filename', uploads.name) FROM uploads WHERE uploads.blob_id = blobs.id;
      DROP TABLE uploads;
      ALTER TABLE blobs DROP CONSTRAINT blobs_received, DROP CONSTRAINT blobs_sealed_whole, DROP COLUMN touched_at;
      ALTER TABLE chunks DROP CONSTRAINT chunks_length, DROP CONSTRAINT chunks_seq;
    `)
  },
}
