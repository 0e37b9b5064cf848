import { z } from 'zod'

/** A list with commas: `a, b`. */
const list = z
  .string()
  .default('')
  .transform((text) =>
    text
      .split(',')
      .map((part) => part.trim())
      .filter((part) => part !== ''),
  )

const flag = z
  .enum(['0', '1', 'true', 'false', ''])
  .default('')
  .transform((text) => text === '1' || text === 'true')

const optional = z.string().min(1).optional()

const schema = z
  .object({
    PORT: z.coerce.number().int().min(0).max(65535).default(4600),
    HOST: z.string().min(1).default('127.0.0.1'),
    DATABASE_URL: z.string().regex(/^postgres(ql)?:\/\//, 'It begins with postgres://.'),
    MAX_UPLOAD_BYTES: z.coerce.number().int().min(1).max(1e12).default(1_000_000_000),
    LOG_LEVEL: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('warn'),
    TELON_HOSTS: list,
    TELON_PASSWORD: z.string().min(8, 'A password has at least 8 characters.').optional(),
    TELON_BEHIND_PROXY: flag,
    TELON_TLS_CERT: optional,
    TELON_TLS_KEY: optional,
    TELON_UPLOAD_ORIGINS: list,
    TELON_WORKER_TOKEN: z
      .string()
      .regex(/^tln_[A-Za-z0-9_-]{43}$/, 'It is made by npm start.')
      .optional(),
  })
  .superRefine((env, ctx) => {
    const add = (path: string, message: string): void =>
      ctx.addIssue({ code: 'custom', path: [path], message })
    if (!isLoopback(env.HOST) && env.TELON_PASSWORD === undefined && !env.TELON_BEHIND_PROXY) {
      add(
        'HOST',
        `On ${env.HOST} everyone who reaches this machine could read and change all projects. ` +
          'Set TELON_PASSWORD, or TELON_BEHIND_PROXY=1 if a proxy in front of Telon asks for a sign-in.',
      )
    }
    if ((env.TELON_TLS_CERT === undefined) !== (env.TELON_TLS_KEY === undefined)) {
      add(
        'TELON_TLS_CERT',
        'A certificate and its key belong together: set TELON_TLS_CERT and TELON_TLS_KEY.',
      )
    }
    for (const origin of env.TELON_UPLOAD_ORIGINS) {
      if (URL.canParse(origin) && new URL(origin).origin === origin) continue
      add('TELON_UPLOAD_ORIGINS', `${origin} is no origin: write it like https://cms.example.`)
    }
  })

/** Everything that can be set from outside, checked once. */
export interface Config {
  readonly port: number
  readonly host: string
  readonly databaseUrl: string
  readonly maxUploadBytes: number
  readonly logLevel: 'silent' | 'error' | 'warn' | 'info' | 'debug'
  /** Host names that are answered besides those of loopback. */
  readonly hosts: readonly string[]
  /** The password, or its argon2 hash; null if sign-in is off. */
  readonly password: string | null
  /** Whether a proxy is in front of the server: its X-Forwarded headers are then trusted. */
  readonly behindProxy: boolean
  readonly tls: { readonly certFile: string; readonly keyFile: string } | null
  /** Origins whose pages may upload. */
  readonly uploadOrigins: readonly string[]
  /** The token of the render worker that was started with the server; null where there is none. */
  readonly workerToken: string | null
}

/** Whether a name or address refers to this machine only. */
export function isLoopback(host: string): boolean {
  return (
    host === 'localhost' || host === '::1' || host === '[::1]' || /^127\.\d+\.\d+\.\d+$/.test(host)
  )
}

/** Reads the environment. Throws one Error that names every wrong variable and what is right. */
export function readConfig(environment: Readonly<Record<string, string | undefined>>): Config {
  const parsed = schema.safeParse(environment)
  if (!parsed.success) {
    const problems = parsed.error.issues.map(
      (issue) => `  ${issue.path.join('.')}: ${issue.message}`,
    )
    throw new Error(
      `Telon cannot start with these settings in the environment:\n${problems.join('\n')}`,
    )
  }
  const env = parsed.data
  const anyAddress = env.HOST === '0.0.0.0' || env.HOST === '::'
  return {
    port: env.PORT,
    host: env.HOST,
    databaseUrl: env.DATABASE_URL,
    maxUploadBytes: env.MAX_UPLOAD_BYTES,
    logLevel: env.LOG_LEVEL,
    hosts: isLoopback(env.HOST) || anyAddress ? env.TELON_HOSTS : [env.HOST, ...env.TELON_HOSTS],
    password: env.TELON_PASSWORD ?? null,
    behindProxy: env.TELON_BEHIND_PROXY,
    tls:
      env.TELON_TLS_CERT && env.TELON_TLS_KEY
        ? { certFile: env.TELON_TLS_CERT, keyFile: env.TELON_TLS_KEY }
        : null,
    uploadOrigins: env.TELON_UPLOAD_ORIGINS,
    workerToken: env.TELON_WORKER_TOKEN ?? null,
  }
}
