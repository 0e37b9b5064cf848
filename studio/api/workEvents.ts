import { workJobsSchema, type WorkJob } from '../../core/api/work'

/** A stream that the server has refused is opened again after so long. */
const AGAIN_MS = 5000

/**
 * Changes of render jobs as they happen. While the page is hidden the stream is closed: a browser
 * has six connections to a server, for all tabs. `missed` is called whenever something may have
 * been missed. Gives a function that ends it.
 */
export function openWorkEvents(
  hear: (jobs: readonly WorkJob[]) => void,
  missed: () => void,
): () => void {
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  const open = (): void => {
    if (source || document.visibilityState === 'hidden') return
    const opened = new EventSource('/api/jobs/events')
    source = opened
    opened.addEventListener('open', missed)
    opened.addEventListener('missed', missed)
    opened.addEventListener('jobs', ({ data }: MessageEvent<string>) => {
      const jobs = workJobsSchema.safeParse(parsed(data))
      if (jobs.success) hear(jobs.data)
      else missed()
    })
    opened.addEventListener('error', () => {
      // By itself it comes back only where the connection was lost.
      if (opened.readyState !== EventSource.CLOSED) return
      close()
      timer = setTimeout(open, AGAIN_MS)
    })
  }
  const close = (): void => {
    clearTimeout(timer)
    source?.close()
    source = null
  }
  const turn = (): void => (document.visibilityState === 'hidden' ? close() : open())
  document.addEventListener('visibilitychange', turn)
  open()
  return () => {
    document.removeEventListener('visibilitychange', turn)
    close()
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return null
  }
}
