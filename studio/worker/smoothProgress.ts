import type { RenderProgress } from './jobs/renderClip'

/** Progress is reported at most this often: showing it needs the same processor. */
const EVERY_MS = 150

/**
 * Passes on what a person can follow of a quick succession of progress: the first of each pass,
 * what is done, and one in every 150 ms.
 */
export function smoothProgress(
  tell: (progress: RenderProgress) => void,
  clock: () => number = () => performance.now(),
): (progress: RenderProgress) => void {
  let told = { at: -Infinity, pass: -1 }
  return (progress) => {
    const at = clock()
    if (progress.pass === told.pass && progress.done < 1 && at - told.at < EVERY_MS) return
    told = { at, pass: progress.pass }
    tell(progress)
  }
}
