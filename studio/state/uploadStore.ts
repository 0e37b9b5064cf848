import * as tus from 'tus-js-client'
import { create } from 'zustand'
import { describeContainerError } from '../../core/media/describeContainerError'
import { probe, type SourceFacts } from '../../core/media/probe'
import { fileSource } from '../worker/sources'
import { formatBytes } from '../ui/format'

/** A file on its way to the shelf, or refused before it went. */
export interface UploadItem {
  readonly id: string
  readonly projectId: string
  readonly name: string
  readonly bytes: number
  readonly state: 'reading' | 'sending' | 'waiting' | 'done' | 'refused' | 'failed'
  readonly sent: number
  /** Bytes a second over the last seconds; null until known. */
  readonly rate: number | null
  readonly facts: SourceFacts | null
  readonly message: string | null
}

interface UploadState {
  readonly items: readonly UploadItem[]
  /** Raised when a source has arrived, so that open shelves load again. */
  readonly arrivals: number
  add(projectId: string, files: readonly File[], maxBytes: number): void
  cancel(id: string): void
  retry(id: string): void
  dismiss(id: string): void
}

const uploads = new Map<string, tus.Upload>()
const RATE_WINDOW_MS = 4000
/** Waits between tries while the server is gone, in milliseconds: about two minutes in all. */
const RETRY_DELAYS = [500, 1000, 2000, 4000, 8000, 10_000, 15_000, 20_000, 30_000, 30_000]

/** Uploads of the whole application: they go on whatever view is open. */
export const useUploads = create<UploadState>((set, get) => {
  const change = (id: string, fields: Partial<UploadItem>): void =>
    set((state) => ({ items: state.items.map((item) => (item.id === id ? { ...item, ...fields } : item)) }))

  const start = async (id: string, projectId: string, file: File, maxBytes: number): Promise<void> => {
    if (file.size > maxBytes) {
      change(id, { state: 'refused', message: `This file has ${formatBytes(file.size)}; the limit is ${formatBytes(maxBytes)}. Cut or compress it first.` })
      return
    }
    const read = await probe(fileSource(file)).catch(() => null)
    if (!read) return change(id, { state: 'failed', message: 'The file could not be read from this machine. Add it again.' })
    if (!read.ok) return change(id, { state: 'refused', message: describeContainerError(read.error) })
    const refusal = await cannotDecode(read.value)
    // Cancelled while it was being read: nothing is to be sent.
    if (!get().items.some((item) => item.id === id)) return
    if (refusal) return change(id, { state: 'refused', facts: read.value, message: refusal })
    change(id, { state: 'sending', facts: read.value })
    const marks: { at: number; sent: number }[] = []
    const upload = new tus.Upload(file, {
      endpoint: '/api/uploads',
      retryDelays: RETRY_DELAYS,
      chunkSize: 16 * 1024 * 1024,
      metadata: { filename: file.name, projectId },
      fingerprint: async () => `telon-${projectId}-${file.name}-${file.size}-${file.lastModified}`,
      removeFingerprintOnSuccess: true,
      onProgress: (sent) => {
        const now = performance.now()
        marks.push({ at: now, sent })
        while (marks.length > 2 && marks[0]!.at < now - RATE_WINDOW_MS) marks.shift()
        const first = marks[0]!
        const rate = now - first.at > 300 ? ((sent - first.sent) * 1000) / (now - first.at) : null
        change(id, { state: 'sending', sent, rate })
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0
        const again = status === 0 || status >= 500 || status === 423 || status === 409
        if (again) change(id, { state: 'waiting', rate: null, message: 'The connection was lost; trying again by itself.' })
        return again
      },
      onError: (error) => change(id, { state: 'failed', message: wordOf(error) }),
      onSuccess: ({ lastResponse }) => {
        const known = lastResponse.getHeader('X-Known-As')
        change(id, { state: 'done', sent: file.size, message: known ? `This content lies on the shelf already, as ${decodeURIComponent(known)}. It was not added twice.` : null })
        set((state) => ({ arrivals: state.arrivals + 1 }))
        // A sentence that is news stays until it was read.
        if (!known) setTimeout(() => get().dismiss(id), 4000)
      },
    })
    uploads.set(id, upload)
    const [before] = await upload.findPreviousUploads()
    if (before) upload.resumeFromPreviousUpload(before)
    upload.start()
  }

  return {
    items: [],
    arrivals: 0,
    add(projectId, files, maxBytes) {
      const added = files.map((file): UploadItem => ({
        id: crypto.randomUUID(), projectId, name: file.name, bytes: file.size, state: 'reading', sent: 0, rate: null, facts: null, message: null,
      }))
      set((state) => ({ items: [...state.items, ...added] }))
      added.forEach((item, index) => void start(item.id, projectId, files[index]!, maxBytes))
    },
    cancel(id) {
      void uploads.get(id)?.abort(true).catch(() => undefined)
      uploads.delete(id)
      set((state) => ({ items: state.items.filter((item) => item.id !== id) }))
    },
    retry(id) {
      change(id, { state: 'sending', message: null })
      uploads.get(id)?.start()
    },
    dismiss(id) {
      uploads.delete(id)
      set((state) => ({ items: state.items.filter((item) => item.id !== id) }))
    },
  }
})

/** Why this browser cannot decode a clip, with what to export instead; null when it can. */
async function cannotDecode(facts: SourceFacts): Promise<string | null> {
  if (facts.kind === 'still') return null
  const { video } = facts
  const advice = `The picture is coded as ${video.codecName}, which this browser cannot decode. Export it again as MP4 with H.264, or as WebM with VP9.`
  if (video.family === 'other') return advice
  if (video.family === 'gif' || video.family === 'webp') return null
  if (typeof VideoDecoder === 'undefined') return 'This browser has no access to video decoding. Use a current browser over https or on localhost.'
  if (video.family !== 'hevc') return null
  const answer = await VideoDecoder.isConfigSupported({ codec: video.codec }).catch(() => null)
  return answer?.supported ? null : advice
}

function wordOf(error: Error | tus.DetailedError): string {
  const body = 'originalResponse' in error ? (error.originalResponse?.getBody() ?? '') : ''
  try {
    const told = JSON.parse(body) as { error?: { message?: string } }
    if (told.error?.message) return told.error.message
  } catch {
    // Not one of our answers: the general sentence serves.
  }
  return 'The upload stopped. Check the connection, then go on; nothing that was sent is lost.'
}
