import { spawn } from 'node:child_process'
import { createReadStream } from 'node:fs'
import { setPriority } from 'node:os'
import { dirname } from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { i420Bytes } from '../core/picture/I420'
import type { Encoder, EncodeRun } from '../core/weight/native/Encoder'

/** An encoder program failed; the message says what to do. */
export class EncoderFailure extends Error {
  override readonly name = 'EncoderFailure'
}

/** It ended by itself without a stream, for example since it cannot come to a rate. */
export class EncoderRefusal extends EncoderFailure {}

/** It was ended from outside: by a system without memory, or by someone. */
export class EncoderKilled extends EncoderFailure {}

/** Virtual memory that an encoder may take: SVT-AV1 takes a few gigabytes for large pictures. */
const MAX_MEMORY_BYTES = 12 * 1024 ** 3
/** Bytes of a file that it may write. */
const MAX_FILE_BYTES = 2 * 1024 ** 3
/** Seconds that an encoder may take for a megapixel, and in any case. */
const MAX_SECONDS_PER_MEGAPIXEL = 20
const MIN_SECONDS = 300
/** Lower than all that a person waits for. */
const PRIORITY = 10
/** So much of what it prints is kept for messages. */
const KEPT_OUTPUT = 2_000

/**
 * Runs an encoder program over a file of raw frames. It sees nothing but them, on its standard
 * input, has limits of memory and of time, and ends when `signal` is aborted. `onFrames` hears how
 * many frames it has taken. Errors: EncoderFailure; the signal's reason.
 */
export async function runEncoder(
  encoder: Encoder,
  run: EncodeRun,
  frames: string,
  signal: AbortSignal,
  onFrames: (taken: number) => void = () => undefined,
): Promise<void> {
  signal.throwIfAborted()
  const child = spawn(
    'prlimit',
    [
      ...[`--as=${MAX_MEMORY_BYTES}`, `--fsize=${MAX_FILE_BYTES}`, '--core=0'],
      ...[encoder.command, ...encoder.arguments(run)],
    ],
    {
      cwd: dirname(run.output),
      stdio: ['pipe', 'ignore', 'pipe'],
      // A group of its own, so that what it starts ends with it.
      detached: true,
      env: { PATH: process.env['PATH'] },
    },
  )
  let printed = ''
  child.stderr.on(
    'data',
    (part: Buffer) => (printed = (printed + part.toString()).slice(-KEPT_OUTPUT)),
  )
  const ended = new Promise<number | string>((resolve, reject) => {
    child.once('error', (cause) =>
      reject(new EncoderFailure(`${encoder.command} could not be started.`, { cause })),
    )
    child.once('close', (code, by) => resolve(by ?? code ?? 0))
  })
  const kill = (): void => killGroup(child.pid)
  signal.addEventListener('abort', kill, { once: true })
  let late = false
  const timer = setTimeout(
    () => {
      late = true
      kill()
    },
    secondsFor(run) * 1000,
  )
  if (child.pid !== undefined) lower(child.pid)
  // A group of its own hears nothing of an interrupt at the terminal.
  process.once('exit', kill)
  try {
    // A program that ends early closes its input: its own end says why.
    const fed = pipeline(framesOf(run, frames), counted(run, onFrames), child.stdin).catch(
      () => undefined,
    )
    const result = await ended
    await fed
    signal.throwIfAborted()
    if (late)
      throw new EncoderFailure(
        `${encoder.command} took longer than ${Math.round(secondsFor(run) / 60)} minutes and was stopped. Use a shorter cut or a smaller size, or the encoder of the browser.`,
      )
    if (result === 'SIGKILL')
      throw new EncoderKilled(
        `${encoder.command} was killed. The machine may have too little memory: try a smaller size, or the encoder of the browser.`,
      )
    if (result !== 0)
      throw new EncoderRefusal(`${encoder.command} failed (${result}): ${lastLine(printed)}`)
  } finally {
    clearTimeout(timer)
    signal.removeEventListener('abort', kill)
    process.off('exit', kill)
    kill()
  }
}

function secondsFor({ raw: { width, height, frames } }: EncodeRun): number {
  return Math.max(MIN_SECONDS, ((width * height * frames) / 1e6) * MAX_SECONDS_PER_MEGAPIXEL)
}

/** Ends a process with all that it has started. */
function killGroup(pid: number | undefined): void {
  if (pid === undefined) return
  try {
    process.kill(-pid, 'SIGKILL')
  } catch {
    // It has ended already.
  }
}

function lower(pid: number): void {
  try {
    setPriority(pid, PRIORITY)
  } catch {
    // It has ended already.
  }
}

/** The bytes of all frames of a run, with those of its lead-out. */
async function* framesOf({ raw, leadOut }: EncodeRun, path: string): AsyncGenerator<Buffer> {
  yield* createReadStream(path)
  const bytes = leadOut * i420Bytes(raw.width, raw.height)
  if (bytes > 0) yield* createReadStream(path, { end: bytes - 1 })
}

/** Passes bytes on, and says how many frames they are. */
function counted(
  { raw: { width, height } }: EncodeRun,
  onFrames: (taken: number) => void,
): Transform {
  const frameBytes = i420Bytes(width, height)
  let bytes = 0
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.byteLength
      onFrames(Math.floor(bytes / frameBytes))
      done(null, chunk)
    },
  })
}

const lastLine = (text: string): string =>
  text
    .split('\n')
    .map((line) => line.trim())
    .findLast((line) => line !== '') ?? 'it said nothing'
