import type { QueryInterface } from 'sequelize'

/** Projects with their pages, spots, shelf and backdrops; media in chunk rows. */
export const first = {
  name: '0001-first',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      CREATE TABLE projects (
        id uuid PRIMARY KEY, name text NOT NULL, created_at timestamptz NOT NULL
      );
      CREATE TABLE pages (
        id uuid PRIMARY KEY, project_id uuid NOT NULL REFERENCES projects ON DELETE CASCADE, name text NOT NULL, created_at timestamptz NOT NULL
      );
      CREATE TABLE spots (
        id uuid PRIMARY KEY, page_id uuid NOT NULL REFERENCES pages ON DELETE CASCADE, name text NOT NULL,
        scope text NOT NULL CHECK (scope IN ('region', 'page')), height jsonb NOT NULL, created_at timestamptz NOT NULL
      );
      CREATE TABLE blobs (
        id uuid PRIMARY KEY, sha256 text UNIQUE, size bigint NOT NULL, received bigint NOT NULL, metadata jsonb NOT NULL, created_at timestamptz NOT NULL
      );
      CREATE TABLE chunks (
        blob_id uuid NOT NULL REFERENCES blobs ON DELETE CASCADE, seq integer NOT NULL, data bytea NOT NULL, PRIMARY KEY (blob_id, seq)
      );
      -- Footage is compressed already: keep it out of line and as it is, so that a part of a chunk is read without unpacking.
      ALTER TABLE chunks ALTER COLUMN data SET STORAGE EXTERNAL;
      CREATE TABLE sources (
        id uuid PRIMARY KEY, project_id uuid NOT NULL REFERENCES projects ON DELETE CASCADE, name text NOT NULL,
        sha256 text NOT NULL REFERENCES blobs (sha256), facts jsonb NOT NULL, created_at timestamptz NOT NULL
      );
      CREATE TABLE backdrops (
        id uuid PRIMARY KEY, spot_id uuid NOT NULL REFERENCES spots ON DELETE CASCADE, source_id uuid NOT NULL REFERENCES sources,
        name text NOT NULL, revision integer NOT NULL, document jsonb NOT NULL, history jsonb NOT NULL,
        created_at timestamptz NOT NULL, updated_at timestamptz NOT NULL
      );
      CREATE TABLE revisions (
        id uuid PRIMARY KEY, backdrop_id uuid NOT NULL REFERENCES backdrops ON DELETE CASCADE, revision integer NOT NULL,
        label text NOT NULL, document jsonb NOT NULL, created_at timestamptz NOT NULL, UNIQUE (backdrop_id, revision)
      );
      CREATE TABLE renditions (
        key text PRIMARY KEY, sha256 text NOT NULL REFERENCES blobs (sha256), bytes bigint NOT NULL, facts jsonb NOT NULL
      );
      CREATE INDEX ON pages (project_id);
      CREATE INDEX ON spots (page_id);
      CREATE INDEX ON sources (project_id);
      CREATE INDEX ON sources (sha256);
      CREATE INDEX ON backdrops (spot_id);
      CREATE INDEX ON backdrops (source_id);
      CREATE INDEX ON renditions (sha256);
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(
      'DROP TABLE renditions, revisions, backdrops, sources, chunks, blobs, spots, pages, projects',
    )
  },
}
