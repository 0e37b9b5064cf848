import * as tus from 'tus-js-client'
import { create } from 'zustand'
import { describeContainerError } from '../../core/media/describeContainerError'
import { probe, type SourceFacts } from '../../core/media/probe'
import { noteAnswer } from '../api/answers'
import { shelfChanged } from '../api/queries'
import { formatBytes } from '../ui/format'
import { fileSource } from '../worker/sources'
import { cannotDecode } from './cannotDecode'
import { hashFile } from './hashFile'
import { useServer } from './serverStore'

/**
 * A file on its way to the shelf, or refused before it went. `reading` → `sending` ⇄ `waiting` →
 * `checking` → `done`; `refused` where the file itself is the reason, `failed` where it may work
 * when it is tried again.
 */
export interface UploadItem {
  readonly id: string
  readonly projectId: string
  readonly name: string
  readonly bytes: number
  readonly state: 'reading' | 'sending' | 'waiting' | 'checking' | 'done' | 'refused' | 'failed'
  readonly sent: number
  /** Bytes a second over the last seconds; null until known. */
  readonly rate: number | null
  readonly facts: SourceFacts | null
  readonly message: string | null
  /** The source on the shelf, once it is there. */
  readonly sourceId: string | null
}

interface UploadState {
  readonly items: readonly UploadItem[]
  /** Returns the items' ids, in the order of the files. */
  add(projectId: string, files: readonly File[], maxBytes: number): string[]
  cancel(id: string): void
  retry(id: string): void
  dismiss(id: string): void
}

/** What runs behind an item. */
interface Running {
  readonly abort: AbortController
  upload: tus.Upload | null
}

/** Bytes of one request. The last one carries the digest of the whole file. */
const PART_BYTES = 16 * 1024 * 1024
const RATE_WINDOW_MS = 4000
/** A sentence that is no news goes after a moment. */
const SHOWN_MS = 4000
/** Waits between tries while the server is gone, in milliseconds: about two minutes in all. */
const RETRY_DELAYS = [500, 1000, 2000, 4000, 8000, 10_000, 15_000, 20_000, 30_000, 30_000]
const DISK_FULL = 507
const BEING_CHECKED = 423

/** Uploads of the whole application: they continue in every view. */
export const useUploads = create<UploadState>((set, get) => {
  const running = new Map<string, Running>()
  const change = (id: string, fields: Partial<UploadItem>): void =>
    set((state) => ({
      items: state.items.map((item) => (item.id === id ? { ...item, ...fields } : item)),
    }))

  const start = async (item: UploadItem, file: File, maxBytes: number): Promise<void> => {
    const { id, projectId } = item
    if (file.size > maxBytes) {
      const message = `This file has ${formatBytes(file.size)}; the limit is ${formatBytes(maxBytes)}. Cut or compress it first.`
      return change(id, { state: 'refused', message })
    }
    const read = await probe(fileSource(file)).catch(() => null)
    if (!read)
      return change(id, {
        state: 'failed',
        message: 'The file could not be read from this machine. Add it again.',
      })
    if (!read.ok)
      return change(id, { state: 'refused', message: describeContainerError(read.error) })
    const refusal = await cannotDecode(read.value)
    const own = running.get(id)
    // Cancelled while it was being read: nothing is sent.
    if (!own || own.abort.signal.aborted) return
    if (refusal) return change(id, { state: 'refused', facts: read.value, message: refusal })
    change(id, { state: 'sending', facts: read.value })
    const upload = uploadOf(file, projectId, own.abort.signal, {
      change: (fields) => change(id, fields),
      finished: (sourceId, knownAs) => {
        const message =
          knownAs === null
            ? null
            : `This content is on the shelf already, as ${knownAs}. It was not added twice.`
        change(id, { state: 'done', sent: file.size, message, sourceId })
        running.delete(id)
        void shelfChanged(projectId)
        // A sentence that is news stays until it was read.
        if (message === null) setTimeout(() => get().dismiss(id), SHOWN_MS)
      },
    })
    own.upload = upload
    const [before] = await upload.findPreviousUploads()
    if (before) upload.resumeFromPreviousUpload(before)
    if (!own.abort.signal.aborted) upload.start()
  }

  return {
    items: [],
    add(projectId, files, maxBytes) {
      const added = files.map((file): UploadItem => ({
        id: crypto.randomUUID(),
        projectId,
        name: file.name,
        bytes: file.size,
        state: 'reading',
        sent: 0,
        rate: null,
        facts: null,
        message: null,
        sourceId: null,
      }))
      set((state) => ({ items: [...state.items, ...added] }))
      added.forEach((item, index) => {
        running.set(item.id, { abort: new AbortController(), upload: null })
        void start(item, files[index]!, maxBytes)
      })
      return added.map(({ id }) => id)
    },
    cancel(id) {
      const own = running.get(id)
      own?.abort.abort()
      void own?.upload?.abort(true).catch(() => undefined)
      running.delete(id)
      set((state) => ({ items: state.items.filter((item) => item.id !== id) }))
    },
    retry(id) {
      change(id, { state: 'sending', message: null })
      running.get(id)?.upload?.start()
    },
    dismiss(id) {
      running.delete(id)
      set((state) => ({ items: state.items.filter((item) => item.id !== id) }))
    },
  }
})

interface Reports {
  change(fields: Partial<UploadItem>): void
  /** It is on the shelf; `knownAs` is the name of equal content that was there before. */
  finished(sourceId: string | null, knownAs: string | null): void
}

/**
 * An upload by tus that waits out a server that is away, and sends its own digest with the last
 * part.
 */
function uploadOf(
  file: File,
  projectId: string,
  signal: AbortSignal,
  reports: Reports,
): tus.Upload {
  const digest = hashFile(file, signal)
  const rateAt = rateMeter()
  return new tus.Upload(file, {
    endpoint: '/api/uploads',
    retryDelays: RETRY_DELAYS,
    chunkSize: PART_BYTES,
    metadata: { filename: file.name, projectId },
    fingerprint: async () => `telon-${projectId}-${file.name}-${file.size}-${file.lastModified}`,
    removeFingerprintOnSuccess: true,
    onBeforeRequest: async (request) => {
      const offset = Number(request.getHeader('Upload-Offset') ?? NaN)
      if (request.getMethod() !== 'PATCH' || offset + PART_BYTES < file.size) return
      const own = await digest
      if (own !== null) request.setHeader('Repr-Digest', `sha-256=:${own}:`)
    },
    onAfterResponse: (_request, response) =>
      noteAnswer(response.getStatus(), response.getHeader('Telon-Version') ?? null),
    onProgress: (sent) =>
      // All bytes are out: the server reads the file before it answers.
      reports.change(
        sent === file.size
          ? { state: 'checking', sent, rate: null }
          : { state: 'sending', sent, rate: rateAt(sent), message: null },
      ),
    onShouldRetry: (error) => {
      const status = error.originalResponse?.getStatus() ?? 0
      const again = isPassing(status)
      if (status === BEING_CHECKED) reports.change({ state: 'checking', rate: null, message: null })
      else if (again)
        reports.change({
          state: 'waiting',
          rate: null,
          message: 'The connection was lost. Trying again …',
        })
      return again
    },
    onError: (error) => reports.change(failureOf(error)),
    onSuccess: ({ lastResponse }) => {
      const known = lastResponse.getHeader('X-Known-As')
      reports.finished(
        lastResponse.getHeader('X-Source-Id') ?? null,
        known ? decodeURIComponent(known) : null,
      )
    },
  })
}

/**
 * Whether trying again by itself may help: no answer, a server or database that is away, an upload
 * that is being checked.
 */
export function isPassing(status: number): boolean {
  return (
    status === 0 ||
    status === BEING_CHECKED ||
    status === 409 ||
    (status >= 500 && status !== DISK_FULL)
  )
}

/** Bytes per second over the last seconds; null until known. */
export function rateMeter(
  now: () => number = () => performance.now(),
): (sent: number) => number | null {
  const marks: { at: number; sent: number }[] = []
  return (sent) => {
    const at = now()
    marks.push({ at, sent })
    while (marks.length > 2 && marks[0]!.at < at - RATE_WINDOW_MS) marks.shift()
    const first = marks[0]!
    return at - first.at > 300 ? ((sent - first.sent) * 1000) / (at - first.at) : null
  }
}

const STOPPED =
  'The upload stopped. Check the connection, then continue; nothing sent so far is lost.'
const UNUSABLE = 422

/** Wording of a failed upload. */
function failureOf(error: Error | tus.DetailedError): Partial<UploadItem> {
  const response = 'originalResponse' in error ? error.originalResponse : null
  const told = sentenceOf(response?.getBody() ?? '')
  if (response?.getStatus() === 401)
    return {
      state: 'waiting',
      rate: null,
      message: 'Sign in to continue; nothing sent so far is lost.',
    }
  // The file itself is the reason: sending it again would not help.
  if (response?.getStatus() === UNUSABLE)
    return { state: 'refused', rate: null, message: told ?? STOPPED }
  return { state: 'failed', rate: null, message: told ?? STOPPED }
}

function sentenceOf(body: string): string | null {
  try {
    const told = JSON.parse(body) as { error?: { message?: string } }
    return told.error?.message ?? null
  } catch {
    // Not one of our answers: the general sentence serves.
    return null
  }
}

// What waits for a sign-in continues after it.
useServer.subscribe((state, before) => {
  if (state.signIns === before.signIns) return
  const { items, retry } = useUploads.getState()
  for (const item of items) if (item.state === 'waiting' || item.state === 'failed') retry(item.id)
})
