import { plainClip, type PlainClip } from '../../core/handoff/assembleHandoff'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'

/** Bytes of rewritten clips that are kept: those of about three folders. */
const MAX_KEPT_BYTES = 64 * 1024 * 1024

/**
 * Clips with a plain index, by the digest of the stored file. A page of a folder asks for each of
 * its files, some in ranges, and every answer needs the names of all: what was rewritten is kept.
 */
export class PlainClips {
  private readonly blobs: Pick<BlobStore, 'findBySha256' | 'stream'>
  private readonly kept = new Map<string, PlainClip>()
  private readonly maxBytes: number
  private bytes = 0

  constructor(
    blobs: Pick<BlobStore, 'findBySha256' | 'stream'>,
    maxBytes: number = MAX_KEPT_BYTES,
  ) {
    this.blobs = blobs
    this.maxBytes = maxBytes
  }

  /** Error: `media/not-found`. */
  async find(sha256: string): Promise<PlainClip> {
    const known = this.kept.get(sha256)
    if (known) return known
    const clip = await plainClip(await this.read(sha256))
    if (!this.kept.has(sha256)) {
      this.kept.set(sha256, clip)
      this.bytes += clip.content.byteLength
    }
    for (const [oldest, { content }] of this.kept) {
      if (this.bytes <= this.maxBytes) break
      this.kept.delete(oldest)
      this.bytes -= content.byteLength
    }
    return clip
  }

  private async read(sha256: string): Promise<Uint8Array<ArrayBuffer>> {
    const blob = await this.blobs.findBySha256(sha256)
    if (!blob) throw new ApiError('media/not-found')
    const whole = new Uint8Array(blob.size)
    let at = 0
    for await (const part of this.blobs.stream(blob.id, 0, blob.size)) {
      whole.set(part, at)
      at += part.length
    }
    return whole
  }
}
