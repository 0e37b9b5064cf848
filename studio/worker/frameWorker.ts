import { MediaWorker } from './MediaWorker'

let shared: MediaWorker | null = null

/**
 * The worker that reads single frames and filmstrips: apart from encodes, so that a drag never
 * waits for one.
 */
export function frameWorker(): MediaWorker {
  shared ??= new MediaWorker()
  return shared
}
