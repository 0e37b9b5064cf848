import type { QueryInterface } from 'sequelize'

/** Files that render workers make, and when each worker was last heard of. */
export const renderWork = {
  name: '0010-render-work',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      CREATE TABLE render_workers (
        id uuid PRIMARY KEY,
        name text NOT NULL,
        version text NOT NULL,
        encoders jsonb NOT NULL,
        seen_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE TABLE render_jobs (
        key text PRIMARY KEY,
        -- The job in the queue: another one each time that the file is asked for anew.
        job_id uuid NOT NULL UNIQUE,
        queue text NOT NULL,
        recipe jsonb NOT NULL,
        state text NOT NULL CHECK (state IN ('waiting', 'running', 'failed')),
        priority integer NOT NULL,
        worker_id uuid REFERENCES render_workers ON DELETE SET NULL,
        step text,
        pass integer NOT NULL DEFAULT 0,
        done real NOT NULL DEFAULT 0,
        seconds_left real,
        reason text,
        created_at timestamptz NOT NULL DEFAULT now(),
        changed_at timestamptz NOT NULL DEFAULT now()
      );
      CREATE INDEX ON render_jobs (priority DESC, created_at) WHERE state = 'waiting';
      CREATE INDEX ON render_jobs (worker_id) WHERE state = 'running';
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(
      'DROP TABLE render_jobs, render_workers; DROP SCHEMA IF EXISTS telon_queue CASCADE;',
    )
  },
}
