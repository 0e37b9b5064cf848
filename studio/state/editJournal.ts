import { createStore, del, entries, set, type UseStore } from 'idb-keyval'
import type { BackdropSave } from '../../core/api/wire'

/** An edit that the server has not acknowledged, stored in case the tab is closed. */
export interface JournalEntry {
  readonly backdropId: string
  /** A save that was sent, or about to be, and not answered: it is sent again unchanged. */
  readonly unacknowledged: BackdropSave | null
  /** What was changed afterwards; null if nothing was. */
  readonly latest: Pick<BackdropSave, 'baseRevision' | 'label' | 'document' | 'history'> | null
  /** Milliseconds since 1970. */
  readonly atMs: number
}

/**
 * Keeps edits until they are acknowledged. What a closed tab left behind can be taken over, once,
 * by another.
 */
export interface EditJournal {
  write(entry: JournalEntry): void
  remove(backdropId: string): void
  /**
   * Takes over the newest edit of a backdrop that no open tab works on; null where there is none.
   */
  adopt(backdropId: string): Promise<JournalEntry | null>
  /**
   * Returns an edit that was taken over but cannot be continued now, so that another tab can take
   * it over.
   */
  giveBack(entry: JournalEntry): Promise<void>
  /** Ids of backdrops with edits of closed tabs. */
  orphaned(): Promise<string[]>
}

/** The tabs that are open hold a lock each, so that a closed one is known by its missing lock. */
const lockOf = (tab: string): string => `telon-tab-${tab}`
const ADOPTING = 'telon-adopting'

type Locks = Pick<LockManager, 'request' | 'query'>

/** Edits in IndexedDB, which outlives tabs, crashes and restarts. */
export class StoredJournal implements EditJournal {
  private readonly store: UseStore
  private readonly locks: Locks
  private readonly tab: string
  /** The newest entry of each backdrop that is not written yet; null where it is to be removed. */
  private readonly waiting = new Map<string, JournalEntry | null>()
  private writing: Promise<void> | null = null

  constructor(locks: Locks, tab: string = crypto.randomUUID(), name = 'telon-edits') {
    this.store = createStore(name, 'edits')
    this.locks = locks
    this.tab = tab
    // Held for the life of the page.
    void locks.request(lockOf(tab), () => new Promise(() => undefined))
  }

  write(entry: JournalEntry): void {
    this.waiting.set(entry.backdropId, entry)
    this.writeSoon()
  }

  remove(backdropId: string): void {
    this.waiting.set(backdropId, null)
    this.writeSoon()
  }

  async adopt(backdropId: string): Promise<JournalEntry | null> {
    return this.locks.request(ADOPTING, async () => {
      const orphans = (await this.orphans()).filter(({ entry }) => entry.backdropId === backdropId)
      const newest = orphans.sort((a, b) => b.entry.atMs - a.entry.atMs)[0]
      if (!newest) return null
      await set(this.keyOf(backdropId), newest.entry, this.store)
      await del(newest.key, this.store)
      return newest.entry
    })
  }

  async giveBack(entry: JournalEntry): Promise<void> {
    // Under the name of a tab that is not open.
    await set(`${entry.backdropId} ${crypto.randomUUID()}`, entry, this.store)
  }

  async orphaned(): Promise<string[]> {
    return [...new Set((await this.orphans()).map(({ entry }) => entry.backdropId))]
  }

  /** Resolves once everything put so far is written. */
  async settled(): Promise<void> {
    while (this.writing) await this.writing
  }

  private keyOf(backdropId: string): string {
    return `${backdropId} ${this.tab}`
  }

  private async orphans(): Promise<{ key: string; entry: JournalEntry }[]> {
    const { held = [] } = await this.locks.query()
    const open = new Set(held.map((lock) => lock.name))
    const all = await entries<string, JournalEntry>(this.store)
    return all
      .filter(
        ([key]) => !open.has(lockOf(key.split(' ')[1] ?? '')) && key.split(' ')[1] !== this.tab,
      )
      .map(([key, entry]) => ({ key, entry }))
  }

  /**
   * One write at a time: while it runs only the newest state of each backdrop is kept for the next.
   */
  private writeSoon(): void {
    this.writing ??= this.writeAll().finally(() => {
      this.writing = null
      if (this.waiting.size > 0) this.writeSoon()
    })
  }

  private async writeAll(): Promise<void> {
    for (const [backdropId, entry] of [...this.waiting]) {
      this.waiting.delete(backdropId)
      const key = this.keyOf(backdropId)
      // Without storage (private windows, full disks) saving still works; only closing the tab
      // would lose pending changes.
      await (entry ? set(key, entry, this.store) : del(key, this.store)).catch(() => undefined)
    }
  }
}

/** For browsers without storage, and for tests: forgets with the page. */
export class MemoryJournal implements EditJournal {
  readonly entries = new Map<string, JournalEntry>()

  write(entry: JournalEntry): void {
    this.entries.set(entry.backdropId, entry)
  }

  remove(backdropId: string): void {
    this.entries.delete(backdropId)
  }

  async adopt(backdropId: string): Promise<JournalEntry | null> {
    return this.entries.get(backdropId) ?? null
  }

  async giveBack(entry: JournalEntry): Promise<void> {
    this.write(entry)
  }

  async orphaned(): Promise<string[]> {
    return [...this.entries.keys()]
  }
}
