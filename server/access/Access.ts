import { createHash, randomBytes } from 'node:crypto'
import { hash, verify } from '@node-rs/argon2'
import type { Context } from 'koa'
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible'
import type { ApiToken, NewToken, TokenUse } from '../../core/api/access'
import { ApiError } from '../ApiError'
import type { Database } from '../store/database'

const COOKIE = 'telon_session'
const SESSION_MS = 14 * 24 * 3600 * 1000
/** A session that is used is prolonged at most so often. */
const PROLONG_AFTER_MS = 3600 * 1000
/** Whom sessions and tokens belong to; accounts for several people would name others. */
const OWNER = 'owner'
/** Whom the tokens of render workers belong to. */
export const WORKER = 'worker'
/** Wrong passwords that one address, and all addresses together, may try in a minute. */
const TRIES = { one: 10, all: 200 } as const

/**
 * Sessions and tokens have 256 random bits: a plain digest cannot be reversed. Passwords are hashed
 * with argon2.
 */
const digest = (secret: string): string => createHash('sha256').update(secret).digest('hex')

/** Who may come in: by a session cookie after signing in with the password, or by an API token. */
export class Access {
  private readonly database: Database
  /** The argon2 hash of the password; null if sign-in is off. */
  private readonly passwordHash: string | null
  /** Digest of the token of the server's own render worker. */
  private readonly workerDigest: string | null
  private readonly tries = new RateLimiterMemory({ points: TRIES.one, duration: 60 })
  private readonly allTries = new RateLimiterMemory({ points: TRIES.all, duration: 60 })

  private constructor(database: Database, passwordHash: string | null, workerToken: string | null) {
    this.database = database
    this.passwordHash = passwordHash
    this.workerDigest = workerToken === null ? null : digest(workerToken)
  }

  /**
   * `password` is the password itself, its argon2 hash, or null. Sessions that were opened with
   * another one end. `workerToken` lets in a render worker, and nothing else.
   */
  static async open(
    database: Database,
    password: string | null,
    workerToken: string | null,
  ): Promise<Access> {
    const hashed =
      password === null || password.startsWith('$argon2') ? password : await hash(password)
    if (password !== null) await Access.endOtherSessions(database, password, hashed!)
    return new Access(database, hashed, workerToken)
  }

  private static async endOtherSessions(
    database: Database,
    password: string,
    hashed: string,
  ): Promise<void> {
    const [noted] = await database.query<{ value: { hash?: string } }>(
      `SELECT value FROM server_state WHERE key = 'password'`,
    )
    const before = noted?.value.hash ?? ''
    const same = password.startsWith('$argon2')
      ? before === password
      : before !== '' && (await verify(before, password))
    if (same) return
    await database.transaction(async (transaction) => {
      await database.query('DELETE FROM sessions RETURNING hash', [], transaction)
      await database.query(
        `INSERT INTO server_state (key, value) VALUES ('password', $1)
        ON CONFLICT (key) DO UPDATE SET value = EXCLUDED.value, updated_at = now()`,
        [JSON.stringify({ hash: hashed })],
        transaction,
      )
    })
  }

  /** Whether anyone has to sign in. */
  get isRequired(): boolean {
    return this.passwordHash !== null
  }

  /**
   * Opens a session and sets its cookie. Errors: `access/wrong-password`, `access/too-many-tries`.
   */
  async signIn(ctx: Context, password: string): Promise<void> {
    if (this.passwordHash === null) return
    await this.countTry(ctx.ip)
    if (!(await verify(this.passwordHash, password))) throw new ApiError('access/wrong-password')
    await this.tries.delete(ctx.ip)
    const secret = randomBytes(32).toString('base64url')
    await this.database.query('DELETE FROM sessions WHERE expires_at < now() RETURNING hash')
    await this.database.query(
      'INSERT INTO sessions (hash, principal, expires_at) VALUES ($1, $2, $3)',
      [digest(secret), OWNER, new Date(Date.now() + SESSION_MS)],
    )
    ctx.cookies.set(COOKIE, secret, { ...cookieOptions(ctx), maxAge: SESSION_MS })
  }

  async signOut(ctx: Context): Promise<void> {
    const secret = ctx.cookies.get(COOKIE)
    if (secret)
      await this.database.query('DELETE FROM sessions WHERE hash = $1 RETURNING hash', [
        digest(secret),
      ])
    ctx.cookies.set(COOKIE, null, cookieOptions(ctx))
  }

  /** Whose session a request carries; null where it has none, or one that has expired. */
  async principalOfSession(ctx: Context): Promise<string | null> {
    const secret = ctx.cookies.get(COOKIE)
    if (!secret) return null
    const key = digest(secret)
    const [session] = await this.database.query<{ principal: string; seen_at: Date }>(
      'SELECT principal, seen_at FROM sessions WHERE hash = $1 AND expires_at > now()',
      [key],
    )
    if (!session) return null
    if (Date.now() - session.seen_at.getTime() > PROLONG_AFTER_MS) {
      await this.database.query(
        'UPDATE sessions SET seen_at = now(), expires_at = $2 WHERE hash = $1 RETURNING hash',
        [key, new Date(Date.now() + SESSION_MS)],
      )
      ctx.cookies.set(COOKIE, secret, { ...cookieOptions(ctx), maxAge: SESSION_MS })
    }
    return session.principal
  }

  /** Whose token an Authorization field carries. Errors: `access/token`. */
  async principalOfToken(field: string): Promise<string> {
    const secret = /^Bearer (tln_[A-Za-z0-9_-]{43})$/.exec(field)?.[1]
    // Digests are compared: how long it takes tells nothing of the token.
    if (secret && digest(secret) === this.workerDigest) return WORKER
    const [token] = secret
      ? await this.database.query<{ principal: string }>(
          'UPDATE api_tokens SET used_at = now() WHERE hash = $1 RETURNING principal',
          [digest(secret)],
        )
      : []
    if (!token) throw new ApiError('access/token')
    return token.principal
  }

  async listTokens(): Promise<ApiToken[]> {
    const rows = await this.database.query<{
      id: string
      name: string
      principal: string
      created_at: Date
      used_at: Date | null
    }>('SELECT id, name, principal, created_at, used_at FROM api_tokens ORDER BY created_at DESC')
    return rows.map(({ id, name, principal, created_at, used_at }) => ({
      id,
      name,
      use: principal === WORKER ? 'worker' : 'program',
      createdAt: created_at.toISOString(),
      usedAt: used_at?.toISOString() ?? null,
    }))
  }

  /** A new token; its secret is returned only here and stored as a digest. */
  async createToken(name: string, use: TokenUse): Promise<NewToken> {
    const id = crypto.randomUUID()
    const secret = `tln_${randomBytes(32).toString('base64url')}`
    await this.database.query(
      'INSERT INTO api_tokens (id, hash, principal, name) VALUES ($1, $2, $3, $4)',
      [id, digest(secret), use === 'worker' ? WORKER : OWNER, name],
    )
    return { id, secret }
  }

  /** Errors: `access/token-not-found`. */
  async revokeToken(id: string): Promise<void> {
    const gone = await this.database.query('DELETE FROM api_tokens WHERE id = $1 RETURNING id', [
      id,
    ])
    if (gone.length === 0) throw new ApiError('access/token-not-found')
  }

  private async countTry(address: string): Promise<void> {
    try {
      await this.tries.consume(address)
      await this.allTries.consume('all')
    } catch (refused) {
      if (refused instanceof RateLimiterRes) throw new ApiError('access/too-many-tries')
      throw refused
    }
  }
}

function cookieOptions(ctx: Context) {
  return {
    httpOnly: true,
    sameSite: 'strict',
    secure: ctx.secure,
    overwrite: true,
    path: '/',
  } as const
}
