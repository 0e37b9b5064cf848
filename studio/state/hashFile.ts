/**
 * The SHA-256 of a file in base64, computed in a worker; null if the file cannot be read or the
 * worker does not start: then the server has nothing to compare with, and the upload continues.
 */
export function hashFile(file: File, signal: AbortSignal): Promise<string | null> {
  return new Promise((resolve) => {
    const worker = new Worker(new URL('../worker/hashWorker.ts', import.meta.url), {
      type: 'module',
    })
    const end = (digest: string | null): void => {
      worker.terminate()
      resolve(digest)
    }
    worker.addEventListener('message', ({ data }: MessageEvent<{ digest: string | null }>) =>
      end(data.digest),
    )
    worker.addEventListener('error', () => end(null))
    signal.addEventListener('abort', () => end(null), { once: true })
    worker.postMessage(file)
  })
}
