import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { basename } from 'node:path'
import * as tus from 'tus-js-client'
import { z } from 'zod'
import { errorSchema, projectSummarySchema } from '../core/api/wire'
import { UsageError } from './DeliverOptions'

export interface UploadOptions {
  /** The address of a running Telon. */
  readonly server: string
  /** An API token, made under Access. */
  readonly token: string
  /** The id or the name of a project. */
  readonly project: string
}

const PART_BYTES = 16 * 1024 * 1024
const RETRY_DELAYS = [500, 1000, 2000, 4000, 8000, 15_000]

/**
 * Puts files on the shelf of a project. Throws with the server's own sentence where one is refused.
 */
export async function upload(
  files: readonly string[],
  options: UploadOptions,
  say: (line: string) => void,
): Promise<void> {
  const projectId = await findProject(options)
  for (const file of files) {
    const known = await sendFile(file, projectId, options)
    say(
      known === null
        ? `${basename(file)}: on the shelf`
        : `${basename(file)}: its content is on the shelf already, as ${known}`,
    )
  }
}

/** The id of a project by its name or id. Throws UsageError where there is none. */
export async function findProject({ server, token, project }: UploadOptions): Promise<string> {
  if (!URL.canParse(server))
    throw new UsageError(`${server} is not an address. Write it like http://localhost:4600.`)
  const answer = await fetch(new URL('/api/projects', server), {
    headers: authorized(token),
  }).catch(() => null)
  if (!answer) throw new Error(`Nothing answers at ${server}. Check that Telon is running there.`)
  const body: unknown = await answer.json().catch(() => null)
  if (!answer.ok) throw new Error(sentenceOf(body) ?? `The server answered ${answer.status}.`)
  const projects = z.array(projectSummarySchema).parse(body)
  const found =
    projects.find((each) => each.id === project) ?? projects.find((each) => each.name === project)
  if (found) return found.id
  const names = projects.map((each) => each.name).join(', ')
  throw new UsageError(`There is no project called ${project}. There are: ${names || 'none yet'}.`)
}

/**
 * Puts a file on the shelf. Resolves to the name of equal content that was there before, or null.
 * Throws with the server's own sentence where it is refused.
 */
export async function sendFile(
  file: string,
  projectId: string,
  { server, token }: UploadOptions,
): Promise<string | null> {
  const facts = await stat(file).catch(() => null)
  if (!facts?.isFile()) throw new UsageError(`${file} is no file.`)
  return new Promise((resolve, reject) => {
    const sending = new tus.Upload(createReadStream(file), {
      endpoint: new URL('/api/uploads', server).href,
      uploadSize: facts.size,
      chunkSize: PART_BYTES,
      retryDelays: RETRY_DELAYS,
      headers: authorized(token),
      metadata: { filename: basename(file), projectId },
      onError: (error) => {
        const told =
          'originalResponse' in error
            ? sentenceOf(parseJson(error.originalResponse?.getBody() ?? ''))
            : null
        reject(new Error(`${file}: ${told ?? 'The upload stopped. Try again.'}`))
      },
      onSuccess: ({ lastResponse }) => {
        const known = lastResponse.getHeader('X-Known-As')
        resolve(known ? decodeURIComponent(known) : null)
      },
    })
    sending.start()
  })
}

const authorized = (token: string): Record<string, string> => ({ Authorization: `Bearer ${token}` })

function sentenceOf(body: unknown): string | null {
  const told = errorSchema.safeParse(body)
  return told.success ? told.data.error.message : null
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return null
  }
}
