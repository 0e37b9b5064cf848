import { MediaWorker } from '../worker/MediaWorker'

/** Its thread starts with the first order. */
const shared = new MediaWorker()

/**
 * The worker that reads single frames and filmstrips: apart from encodes, so that a drag never
 * waits for one.
 */
export function frameWorker(): MediaWorker {
  return shared
}
