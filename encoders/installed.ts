import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import type { Encoder } from '../core/weight/native/Encoder'
import { ENCODERS } from '../core/weight/native/encoders'

const run = promisify(execFile)
/** A program that does not say its version in this time is taken for missing. */
const ANSWER_MS = 10_000

/** An encoder program of this machine, with its version. */
export interface InstalledEncoder {
  readonly encoder: Encoder
  readonly version: string
  /** Program and version, as recipes name them. */
  readonly name: string
}

/**
 * The encoder programs of this machine, those that are preferred first. `TELON_ENCODERS` limits
 * them to those it lists (`x264,vpxenc`; `none` for none).
 */
export async function installedEncoders(
  environment: Readonly<Record<string, string | undefined>> = process.env,
): Promise<InstalledEncoder[]> {
  const allowed = environment['TELON_ENCODERS']?.split(',').map((name) => name.trim())
  const found = await Promise.all(
    ENCODERS.filter(({ program }) => !allowed || allowed.includes(program)).map(async (encoder) => {
      const answer = await answerOf(encoder)
      const version = encoder.versionPattern.exec(answer)?.[1]
      if (!version) return []
      const name = `${encoder.program} ${version}`
      return [{ encoder: asInstalled(encoder, answer), version, name }]
    }),
  )
  return found.flat()
}

/** An encoder as the version can do it that answers so. */
export function asInstalled(encoder: Encoder, answer: string): Encoder {
  const { finer, scale } = encoder
  return finer?.knownBy.test(answer)
    ? { ...encoder, scale: { ...scale, step: finer.step } }
    : encoder
}

/** What a program prints when it is asked for its version; nothing where it is missing. */
function answerOf({ command, versionArguments }: Encoder): Promise<string> {
  return run(command, [...versionArguments], { timeout: ANSWER_MS }).then(
    ({ stdout, stderr }) => stdout + stderr,
    // Some print it and end with an error, since no file was given.
    (error: { stdout?: string; stderr?: string }) => (error.stdout ?? '') + (error.stderr ?? ''),
  )
}
