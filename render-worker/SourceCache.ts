import { rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { ServerLink } from './ServerLink'

/** Sources take at most so much room; those of the job at hand always stay. */
const MAX_BYTES = 4e9

/** Sources of jobs, fetched once; those that were used longest ago go when there are too many. */
export class SourceCache {
  /** Bytes of each, in the order of use. */
  private readonly held = new Map<string, number>()

  constructor(
    private readonly link: Pick<ServerLink, 'fetchSource'>,
    private readonly folder: string,
    private readonly maxBytes = MAX_BYTES,
  ) {}

  /** The files of sources by digest. Errors: those of `fetchSource`. */
  async filesOf(
    digests: readonly string[],
    signal: AbortSignal,
  ): Promise<Readonly<Record<string, string>>> {
    const files: Record<string, string> = {}
    for (const sha256 of digests) {
      const path = join(this.folder, sha256)
      if (!this.held.has(sha256)) await this.link.fetchSource(sha256, path, signal)
      const { size } = await stat(path)
      this.held.delete(sha256)
      this.held.set(sha256, size)
      files[sha256] = path
    }
    await this.forget(new Set(digests))
    return files
  }

  private async forget(needed: ReadonlySet<string>): Promise<void> {
    let total = [...this.held.values()].reduce((sum, size) => sum + size, 0)
    for (const [sha256, size] of [...this.held]) {
      if (total <= this.maxBytes) return
      if (needed.has(sha256)) continue
      this.held.delete(sha256)
      await rm(join(this.folder, sha256), { force: true })
      total -= size
    }
  }
}
