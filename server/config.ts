import { z } from 'zod'

const schema = z.object({
  PORT: z.coerce.number().int().min(0).max(65535).default(4600),
  HOST: z.string().min(1).default('127.0.0.1'),
  DATABASE_URL: z.string().regex(/^postgres(ql)?:\/\//, 'begins with postgres://'),
  /** Bytes; 1 GB unless set. */
  MAX_UPLOAD_BYTES: z.coerce.number().int().min(1).default(1_000_000_000),
  LOG_LEVEL: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('warn'),
})

/** Everything that can be set from outside, checked once. */
export interface Config {
  readonly port: number
  readonly host: string
  readonly databaseUrl: string
  readonly maxUploadBytes: number
  readonly logLevel: 'silent' | 'error' | 'warn' | 'info' | 'debug'
}

/** Reads the environment. Throws one Error that names every wrong variable and what is right. */
export function readConfig(environment: Readonly<Record<string, string | undefined>>): Config {
  const parsed = schema.safeParse(environment)
  if (!parsed.success) {
    const problems = parsed.error.issues.map((issue) => `  ${issue.path.join('.')}: ${issue.message}`)
    throw new Error(`The settings in the environment are not usable:\n${problems.join('\n')}`)
  }
  const { PORT, HOST, DATABASE_URL, MAX_UPLOAD_BYTES, LOG_LEVEL } = parsed.data
  return { port: PORT, host: HOST, databaseUrl: DATABASE_URL, maxUploadBytes: MAX_UPLOAD_BYTES, logLevel: LOG_LEVEL }
}
