import {
  decodeContrastTrace,
  encodeContrastTrace,
  type ContrastTrace,
} from '../../../core/legibility/ContrastTrace'

/*
 * Traces in the browser's own store, under the key of what they show: a backdrop that is opened
 * again is not decoded again. Nothing is lost with them, so what fails here is left alone.
 */

const STORE = 'telon-contrast-1'
/** A hundred megabytes at most. */
const MAX_KEPT = 12

const addressOf = (key: string): string => `/contrast/${encodeURIComponent(key)}`

/** The trace kept under a key; null where there is none, or it cannot be read. */
export async function keptTrace(key: string): Promise<ContrastTrace | null> {
  try {
    const store = await caches.open(STORE)
    const answer = await store.match(addressOf(key))
    return answer ? decodeContrastTrace(new Uint8Array(await answer.arrayBuffer())) : null
  } catch {
    return null
  }
}

/** Keeps a trace; the ones kept first make room. */
export async function keepTrace(key: string, trace: ContrastTrace): Promise<void> {
  try {
    const store = await caches.open(STORE)
    await store.delete(addressOf(key))
    await store.put(addressOf(key), new Response(encodeContrastTrace(trace)))
    const all = await store.keys()
    for (const oldest of all.slice(0, Math.max(0, all.length - MAX_KEPT)))
      await store.delete(oldest)
  } catch {
    // Private windows and full disks keep nothing: frames are decoded again.
  }
}
