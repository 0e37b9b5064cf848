import { createHash, type Hash } from 'node:crypto'

/**
 * Uploads whose hash is carried along; for the others the digest is taken from what is stored when
 * they are sealed.
 */
const MAX_RUNNING = 256

interface Running {
  readonly hash: Hash
  /** Bytes that went into it: always the first bytes of the file. */
  hashed: number
}

/**
 * SHA-256 of files on their way, updated as their chunks are stored, so that sealing need not read
 * everything again. Only what is stored goes in; where a file does not continue exactly where its
 * hash stopped, the hash is dropped.
 */
export class RunningHashes {
  private readonly running = new Map<string, Running>()

  static create(): Hash {
    return createHash('sha256')
  }

  /** Adds bytes that were stored at `offset`. */
  update(id: string, offset: number, bytes: Uint8Array): void {
    const held = offset === 0 ? this.start(id) : this.running.get(id)
    if (!held) return
    if (held.hashed !== offset) {
      this.running.delete(id)
      return
    }
    held.hash.update(bytes)
    held.hashed += bytes.byteLength
  }

  /**
   * The digest of a file of `size` bytes; null where it was not followed from its first byte to its
   * last.
   */
  digest(id: string, size: number): string | null {
    const held = this.running.get(id)
    return held?.hashed === size ? held.hash.copy().digest('hex') : null
  }

  forget(id: string): void {
    this.running.delete(id)
  }

  private start(id: string): Running {
    const started = { hash: RunningHashes.create(), hashed: 0 }
    this.running.delete(id)
    this.running.set(id, started)
    for (const oldest of this.running.keys()) {
      if (this.running.size <= MAX_RUNNING) break
      this.running.delete(oldest)
    }
    return started
  }
}
