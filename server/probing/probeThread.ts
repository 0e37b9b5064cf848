import { parentPort } from 'node:worker_threads'
import { verifyRendition } from '../../core/api/verifyRendition'
import type { ByteSource } from '../../core/bytes/ByteSource'
import type { ContainerError } from '../../core/bytes/ContainerError'
import { probe } from '../../core/media/probe'
import { planRepair } from '../../core/media/repair/repairFile'
import { assertNever, type Result } from '../../core/result'
import type { FileProblem, FromThread, Job, Outcome, Task, ToThread } from './messages'

/*
 * Reads foreign files away from the server's event loop. Bytes are asked of the main thread, which
 * knows where they lie.
 */

const port = parentPort!
const reads = new Map<
  number,
  { resolve: (bytes: Uint8Array) => void; reject: (error: Error) => void }
>()
let lastRead = 0

const send = (message: FromThread): void => port.postMessage(message)

/** A file whose bytes the main thread fetches. */
function remoteSource(size: number): ByteSource {
  return {
    size,
    read: (offset, length) =>
      new Promise((resolve, reject) => {
        const read = ++lastRead
        reads.set(read, { resolve, reject })
        send({ type: 'read', read, offset, length })
      }),
  }
}

async function work({ task, size }: Job): Promise<void> {
  send({ type: 'done', result: await carryOut(task, remoteSource(size)) })
}

async function carryOut(task: Task, source: ByteSource): Promise<Outcome[Task['type']]> {
  switch (task.type) {
    case 'probe':
      return plain(await probe(source))
    case 'plan-repair':
      return plain(await planRepair(source, task.order))
    case 'verify':
      return verifyRendition(source, task.recipe, task.facts)
    default:
      return assertNever(task)
  }
}

/** Errors cross as their code and subject: that is all that wording needs. */
function plain<T>(result: Result<T, ContainerError>): Result<T, FileProblem> {
  return result.ok
    ? result
    : { ok: false, error: { code: result.error.code, subject: result.error.subject } }
}

port.on('message', (message: ToThread) => {
  if (message.type === 'job') {
    reads.clear()
    send({ type: 'begun' })
    void work(message.job).catch((error: unknown) =>
      send({
        type: 'fault',
        message: error instanceof Error ? `${error.message}\n${error.stack}` : String(error),
      }),
    )
    return
  }
  const waiting = reads.get(message.read)
  reads.delete(message.read)
  if (message.bytes) waiting?.resolve(message.bytes)
  else waiting?.reject(new Error('the bytes could not be read'))
})
