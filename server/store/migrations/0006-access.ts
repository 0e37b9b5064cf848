import type { QueryInterface } from 'sequelize'

/**
 * Who may come in: signed-in browsers and tokens for programs, each kept as a hash. Both belong to
 * a principal, of whom there is one today ('owner'), so that accounts for several people can
 * follow.
 */
export const access = {
  name: '0006-access',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      CREATE TABLE sessions (
        hash text PRIMARY KEY, principal text NOT NULL, created_at timestamptz NOT NULL DEFAULT now(),
        seen_at timestamptz NOT NULL DEFAULT now(), expires_at timestamptz NOT NULL
      );
      CREATE TABLE api_tokens (
        id uuid PRIMARY KEY, hash text NOT NULL UNIQUE, principal text NOT NULL, name text NOT NULL,
        created_at timestamptz NOT NULL DEFAULT now(), used_at timestamptz
      );
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query('DROP TABLE api_tokens, sessions')
  },
}
