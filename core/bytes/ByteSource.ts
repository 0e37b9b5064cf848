/**
 * Random access to the bytes of a file on disk, in the browser, behind HTTP ranges or in the
 * database.
 */
export interface ByteSource {
  /** Whole size in bytes. */
  readonly size: number
  /** Reads `length` bytes from `offset`; fewer only where the file ends. */
  read(offset: number, length: number): Promise<Uint8Array>
}

/** A source over bytes already in memory. */
export function memorySource(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.byteLength,
    read: (offset, length) =>
      Promise.resolve(bytes.subarray(offset, Math.min(bytes.byteLength, offset + length))),
  }
}

/** A source that also counts what is read through it, for measuring how little an index costs. */
export interface CountingSource extends ByteSource {
  readonly counts: { reads: number; bytes: number }
}

/** Wraps `source`, counting reads and bytes. */
export function countingSource(source: ByteSource): CountingSource {
  const counts = { reads: 0, bytes: 0 }
  return {
    size: source.size,
    counts,
    async read(offset, length) {
      const bytes = await source.read(offset, length)
      counts.reads += 1
      counts.bytes += bytes.byteLength
      return bytes
    },
  }
}

/**
 * Wraps `source` with one window of look-ahead, so that many small neighbouring reads cost one.
 * `windowBytes` is how much is fetched at the least; larger reads pass straight through.
 */
export function windowedSource(source: ByteSource, windowBytes: number): ByteSource {
  let start = 0
  let held = new Uint8Array(0)
  return {
    size: source.size,
    async read(offset, length) {
      if (offset >= start && offset + length <= start + held.byteLength) {
        return held.subarray(offset - start, offset - start + length)
      }
      if (length > windowBytes) return source.read(offset, length)
      held = new Uint8Array(await source.read(offset, windowBytes))
      start = offset
      return held.subarray(0, length)
    },
  }
}
