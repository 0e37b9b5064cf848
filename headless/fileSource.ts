import { open } from 'node:fs/promises'
import type { ByteSource } from '../core/bytes/ByteSource'

/**
 * A file of this machine as a source; call `close` when done. Throws where the file cannot be
 * opened.
 */
export async function openFileSource(
  path: string,
): Promise<ByteSource & { close(): Promise<void> }> {
  const handle = await open(path, 'r')
  const { size } = await handle.stat()
  return {
    size,
    async read(offset, length) {
      const wanted = Math.max(0, Math.min(length, size - offset))
      const { buffer, bytesRead } = await handle.read(Buffer.alloc(wanted), 0, wanted, offset)
      return buffer.subarray(0, bytesRead)
    },
    close: () => handle.close(),
  }
}
