import { backdropRecordSchema, type BackdropRecord, type BackdropSave } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { record as recordStep, redo, undo, type History } from '../../core/backdrop/history'
import { labelOf, reduce, type BackdropAction } from '../../core/backdrop/reduce'
import { readStored } from '../../core/backdrop/storedHistory'
import { messageOf, RequestError, type Api } from '../api/client'
import type { EditJournal, JournalEntry } from './editJournal'

/** The state of a backdrop relative to the server. */
export type SaveState = 'saved' | 'pending' | 'saving' | 'failed' | 'conflict'

export interface SessionState {
  /** The record as last received; the next save is based on its revision. */
  readonly record: BackdropRecord
  readonly document: BackdropDocument
  readonly history: History
  readonly save: SaveState
  readonly savedAt: string
  readonly problem: string | null
  /** What another tab has saved meanwhile. */
  readonly theirs: BackdropRecord | null
}

export interface SessionParts {
  readonly api: Pick<Api, 'saveBackdrop'>
  readonly journal: EditJournal
  readonly onChange: () => void
}

/** A run of changes is saved once. */
const SAVE_AFTER_MS = 500
const RETRY_MS = { first: 2_000, max: 30_000 } as const

/**
 * One open backdrop: its document and history; saves every change by itself. A state machine:
 * - `saved`: the server has the present document.
 * - `pending`: a change is about to be saved.
 * - `saving`: one save is on its way, never two; later changes follow it.
 * - `failed`: the last save was not accepted; it is retried, or waits for the next change.
 * - `conflict`: another tab saved first; the designer chooses. A save without an answer is sent
 * again unchanged, under the same id, before anything newer: otherwise the base revision of the
 * newer one is unknown. Everything that is not acknowledged is in the journal.
 */
export class BackdropSession {
  private readonly parts: SessionParts
  private current: SessionState
  private unacknowledged: BackdropSave | null = null
  /** Whether there are changes that were not sent yet. */
  private dirty = false
  private saving: Promise<void> | null = null
  private timer: ReturnType<typeof setTimeout> | undefined
  private retryMs: number = RETRY_MS.first
  /** What the server had when another tab's edit was adopted; null once that is settled. */
  private newest: BackdropRecord | null = null

  constructor(record: BackdropRecord, parts: SessionParts) {
    this.parts = parts
    const { document, history, updatedAt } = record
    this.current = {
      record,
      document,
      history,
      save: 'saved',
      savedAt: updatedAt,
      problem: null,
      theirs: null,
    }
  }

  /** Continues an edit of a closed tab: it is sent, or opens as a conflict. */
  static resume(record: BackdropRecord, entry: JournalEntry, parts: SessionParts): BackdropSession {
    const session = new BackdropSession(record, parts)
    const left = entry.latest ?? entry.unacknowledged
    if (!left) return session
    // A newer Telon may have opened since: what was left is upgraded as a stored document is.
    const { document, history } = readStored(left.document, left.history)
    const sent = entry.unacknowledged
    session.unacknowledged = sent && { ...sent, ...readStored(sent.document, sent.history) }
    session.dirty = entry.latest !== null
    session.newest = record
    session.current = {
      ...session.current,
      record: { ...record, revision: left.baseRevision },
      document,
      history,
      save: 'pending',
    }
    void session.flush()
    return session
  }

  get state(): SessionState {
    return this.current
  }

  /** Whether the server has acknowledged everything. */
  get isClean(): boolean {
    return !this.dirty && this.unacknowledged === null
  }

  /** Changes the document by an action; actions of one gesture are one undo step. */
  dispatch(action: BackdropAction, gesture: string | null = null): void {
    this.replaceDocument(reduce(this.current.document, action), labelOf(action), gesture)
  }

  /** Puts another document in place, as one step that can be undone. */
  replaceDocument(next: BackdropDocument, label: string, gesture: string | null = null): void {
    const { document, history } = this.current
    if (next !== document) this.change(next, recordStep(history, label, gesture, document, next))
  }

  undo(): void {
    const back = undo(this.current.history, this.current.document)
    if (back) this.change(back.document, back.history)
  }

  redo(): void {
    const forth = redo(this.current.history, this.current.document)
    if (forth) this.change(forth.document, forth.history)
  }

  /**
   * Saves what is pending now; resolves when it is acknowledged, refused or put off. `keepalive`
   * outlives the page.
   */
  flush(keepalive = false): Promise<void> {
    clearTimeout(this.timer)
    this.saving ??= this.saveAll(keepalive).finally(() => {
      this.saving = null
    })
    return this.saving
  }

  /** Takes what the server has now, unless something here is not acknowledged. */
  refresh(record: BackdropRecord): void {
    // An answer to a request made before a newer save here is out of date.
    if (!this.isClean || this.saving || record.revision < this.current.record.revision) return
    const { document, history, updatedAt } = record
    this.set({ record, document, history, savedAt: updatedAt, problem: null })
  }

  /** Ends a conflict: this tab's version becomes the next revision. */
  async keepMine(): Promise<void> {
    const { record, theirs } = this.current
    if (!theirs) return
    this.dirty = true
    this.set({ record: { ...record, revision: theirs.revision }, theirs: null, save: 'pending' })
    this.note()
    await this.flush()
  }

  /** Ends a conflict: the other tab's version is taken; ours stays one undo away. */
  takeTheirs(): void {
    const { theirs, document, history } = this.current
    if (!theirs) return
    this.set({ record: theirs, theirs: null, save: 'saved' })
    this.change(
      theirs.document,
      recordStep(history, 'take the other version', null, document, theirs.document),
    )
  }

  /** Ends a conflict whose version here was saved elsewhere: takes the other one. */
  leaveToTheirs(): void {
    const { theirs } = this.current
    if (!theirs) return
    this.dirty = false
    this.parts.journal.remove(theirs.id)
    const { document, history, updatedAt } = theirs
    this.set({
      record: theirs,
      document,
      history,
      savedAt: updatedAt,
      theirs: null,
      save: 'saved',
      problem: null,
    })
  }

  private change(document: BackdropDocument, history: History): void {
    this.dirty = true
    this.set({ document, history, save: this.current.save === 'conflict' ? 'conflict' : 'pending' })
    this.note()
    this.saveIn(SAVE_AFTER_MS)
  }

  private saveIn(ms: number): void {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.flush(), ms)
  }

  private async saveAll(keepalive: boolean): Promise<void> {
    while (!this.isClean && this.current.save !== 'conflict') {
      const sent = (this.unacknowledged ??= this.nextSave())
      this.note()
      this.set({ save: 'saving' })
      try {
        const { revision, updatedAt } = await this.parts.api.saveBackdrop(
          this.current.record.id,
          sent,
          keepalive,
        )
        this.acknowledge(revision, updatedAt)
      } catch (error) {
        this.fail(error)
        return
      }
    }
  }

  private nextSave(): BackdropSave {
    const { record, document, history } = this.current
    const label = history.past[history.past.length - 1]?.label ?? 'undo'
    this.dirty = false
    return { baseRevision: record.revision, saveId: crypto.randomUUID(), label, document, history }
  }

  private acknowledge(revision: number, updatedAt: string): void {
    this.unacknowledged = null
    this.retryMs = RETRY_MS.first
    const record = { ...this.current.record, revision }
    this.set({ record, savedAt: updatedAt, problem: null, save: this.dirty ? 'pending' : 'saved' })
    this.note()
    const { newest } = this
    if (!this.isClean || !newest) return
    // The adopted edit had arrived after all, and others have saved since.
    this.newest = null
    if (newest.revision <= revision) return
    const { document, history } = newest
    this.set({ record: newest, document, history, savedAt: newest.updatedAt })
  }

  private fail(error: unknown): void {
    const isPassing = error instanceof RequestError && error.isPassing
    if (isPassing) {
      this.set({ save: 'failed', problem: messageOf(error) })
      this.saveIn(this.retryMs)
      this.retryMs = Math.min(RETRY_MS.max, this.retryMs * 2)
      return
    }
    // It was refused: the server has none of it, and the present document is still to be saved.
    this.unacknowledged = null
    this.dirty = true
    const isConflict = error instanceof RequestError && error.code === 'backdrop/conflict'
    const theirs = isConflict ? backdropRecordSchema.safeParse(error.details) : null
    if (theirs?.success) this.set({ save: 'conflict', theirs: theirs.data })
    else this.set({ save: 'failed', problem: messageOf(error) })
    this.note()
  }

  /** Keeps what is not acknowledged, or forgets what is. */
  private note(): void {
    const { record, document, history } = this.current
    if (this.isClean) {
      this.parts.journal.remove(record.id)
      return
    }
    const label = history.past[history.past.length - 1]?.label ?? 'undo'
    const latest = this.dirty ? { baseRevision: record.revision, label, document, history } : null
    this.parts.journal.write({
      backdropId: record.id,
      unacknowledged: this.unacknowledged,
      latest,
      atMs: Date.now(),
    })
  }

  private set(fields: Partial<SessionState>): void {
    this.current = { ...this.current, ...fields }
    this.parts.onChange()
  }
}
