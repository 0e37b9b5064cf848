import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { UsageError } from '../DeliverOptions'

/** What may be delivered, by its suffix; what it really is, its bytes say. */
const SUFFIXES = /\.(mp4|m4v|mov|webm|mkv|avif|jpe?g|png|webp|gif|svg)$/i

/**
 * Files that are dropped into a folder. One counts as complete when it has stayed as it is between
 * two looks; one that has changed comes again.
 */
export class WatchedFolder {
  private readonly seen = new Map<string, string>()
  private readonly given = new Map<string, string>()

  constructor(private readonly folder: string) {}

  /** The files that are complete since the last look. Throws UsageError without the folder. */
  async look(): Promise<string[]> {
    const names = await readdir(this.folder).catch(() => {
      throw new UsageError(`${this.folder}: the folder does not exist or cannot be read.`)
    })
    const complete: string[] = []
    for (const name of names.filter((each) => SUFFIXES.test(each)).sort()) {
      const path = join(this.folder, name)
      const facts = await stat(path).catch(() => null)
      if (!facts?.isFile() || facts.size === 0) continue
      const state = `${facts.size} ${facts.mtimeMs}`
      if (this.seen.get(path) === state && this.given.get(path) !== state) {
        this.given.set(path, state)
        complete.push(path)
      }
      this.seen.set(path, state)
    }
    return complete
  }
}
