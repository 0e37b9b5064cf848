import { useStore } from 'zustand'
import { createStore, type StoreApi } from 'zustand/vanilla'
import type { BackdropRecord, OpenRevision } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { EMPTY_HISTORY, type History } from '../../core/backdrop/history'
import type { BackdropAction } from '../../core/backdrop/reduce'
import { kindOf } from '../../core/kinds'
import { cutText, MAX_NAME_CHARS } from '../../core/bounded'
import { api, messageOf, type Api } from '../api/client'
import { BackdropSession, type SaveState } from './BackdropSession'
import { MemoryJournal, StoredJournal, type EditJournal } from './editJournal'
import { useServer } from './serverStore'

export type { SaveState } from './BackdropSession'

export interface BackdropState {
  readonly record: BackdropRecord | null
  readonly document: BackdropDocument | null
  readonly history: History
  readonly save: SaveState
  readonly savedAt: string | null
  readonly problem: string | null
  /** What another tab has saved meanwhile. */
  readonly theirs: BackdropRecord | null
  /** An earlier revision that is looked at on the stage; null while the present one is. */
  readonly viewed: OpenRevision | null
  open(id: string): Promise<void>
  /** Changes the document by an action; actions of one gesture are one undo step. */
  dispatch(action: BackdropAction, gesture?: string | null): void
  undo(): void
  redo(): void
  flush(): Promise<void>
  keepMine(): Promise<void>
  takeTheirs(): void
  /** Ends a conflict: this tab's version becomes a backdrop of its own. Resolves to its id. */
  saveAsCopy(): Promise<string>
  /** Shows an earlier revision on the stage. Throws `RequestError`. */
  view(revision: number): Promise<void>
  closeView(): void
  /** Makes the viewed revision the present one: a new revision, and one step to undo. */
  restoreViewed(): void
}

type StoreApiPart = Pick<Api, 'readBackdrop' | 'saveBackdrop' | 'createBackdrop' | 'readRevision'>

const NOTHING = {
  record: null,
  document: null,
  history: EMPTY_HISTORY,
  save: 'saved',
  savedAt: null,
  problem: null,
  theirs: null,
  viewed: null,
} as const

/** How often the journal is searched for edits that closed tabs left behind. */
const ORPHAN_CHECK_MS = 4_000

/**
 * The sessions of the backdrop on screen and of those that were left while something of them was
 * not acknowledged: each saves by itself, whichever backdrop is on screen. Also sends the edits
 * that closed tabs left behind.
 */
class Sessions {
  /** The backdrop that is on screen, or about to be. */
  wanted = ''
  private readonly sessions = new Map<string, BackdropSession>()
  /** Sessions being opened: two callers get the same one. */
  private readonly adopting = new Map<string, Promise<BackdropSession>>()
  private readonly server: StoreApiPart
  private readonly journal: EditJournal
  private readonly show: (session: BackdropSession) => void

  /** `show` gets the session on screen whenever its state changes. */
  constructor(
    server: StoreApiPart,
    journal: EditJournal,
    show: (session: BackdropSession) => void,
  ) {
    this.server = server
    this.journal = journal
    this.show = show
  }

  get current(): BackdropSession | undefined {
    return this.sessions.get(this.wanted)
  }

  get all(): readonly BackdropSession[] {
    return [...this.sessions.values()]
  }

  /** The session for a record received from the server: the open one, or a new one. */
  adopt(record: BackdropRecord): Promise<BackdropSession> {
    const running = this.adopting.get(record.id)
    if (running) return running
    const started = this.adoptAlone(record).finally(() => this.adopting.delete(record.id))
    this.adopting.set(record.id, started)
    return started
  }

  /** Looks for edits of closed tabs, now and from time to time. */
  watchOrphaned(): void {
    // A tab that was closed a moment ago still holds its lock: a single look at the start would
    // miss it.
    void this.sendOrphaned()
      .catch(() => undefined)
      .finally(() => setTimeout(() => this.watchOrphaned(), ORPHAN_CHECK_MS))
  }

  private publish(id: string): void {
    const session = this.sessions.get(id)
    if (!session) return
    if (id === this.wanted) this.show(session)
    else if (session.isClean) this.sessions.delete(id)
  }

  private async adoptAlone(record: BackdropRecord): Promise<BackdropSession> {
    const { id } = record
    const open = this.sessions.get(id)
    // Unsaved work in this tab comes first; another tab's edit is adopted at the next opening.
    const left = open && !open.isClean ? null : await this.journal.adopt(id).catch(() => null)
    if (open && !left) {
      open.refresh(record)
      return open
    }
    if (open && left && !open.isClean) {
      // Something was changed here while the journal was read.
      await this.journal.giveBack(left)
      return open
    }
    const parts = { api: this.server, journal: this.journal, onChange: () => this.publish(id) }
    const session = left
      ? BackdropSession.resume(record, left, parts)
      : new BackdropSession(record, parts)
    this.sessions.set(id, session)
    this.publish(id)
    return session
  }

  /** Sends what closed tabs left behind, also of backdrops that are not opened. */
  private async sendOrphaned(): Promise<void> {
    for (const id of await this.journal.orphaned()) {
      const open = this.sessions.get(id)
      if (open && !open.isClean) continue
      const record = await this.server.readBackdrop(id).catch(() => null)
      if (record) await this.adopt(record)
    }
  }
}

/** The store of the backdrop on screen. */
export function createBackdropStore(
  server: StoreApiPart,
  journal: EditJournal,
): StoreApi<BackdropState> {
  return createStore<BackdropState>((set, get) => {
    const sessions = new Sessions(server, journal, (session) => set(session.state))
    sessions.watchOrphaned()

    return {
      ...NOTHING,
      async open(id) {
        if (sessions.wanted !== id) {
          // The previous backdrop's pending changes are saved at once, by its own session.
          void sessions.current?.flush()
          sessions.wanted = id
          set({ ...NOTHING })
        }
        set({ viewed: null })
        if (sessions.current) set(sessions.current.state)
        try {
          const record = await server.readBackdrop(id)
          const session = await sessions.adopt(record)
          if (sessions.wanted === id) set(session.state)
        } catch (error) {
          if (sessions.wanted === id) set({ problem: messageOf(error) })
        }
      },
      // While an earlier revision is viewed nothing can be changed.
      dispatch: (action, gesture = null) =>
        get().viewed || sessions.current?.dispatch(action, gesture),
      undo: () => get().viewed || sessions.current?.undo(),
      redo: () => get().viewed || sessions.current?.redo(),
      async flush() {
        const keepalive = typeof document !== 'undefined' && document.visibilityState === 'hidden'
        await Promise.all(sessions.all.map((session) => session.flush(keepalive)))
      },
      keepMine: async () => sessions.current?.keepMine(),
      takeTheirs: () => sessions.current?.takeTheirs(),
      async saveAsCopy() {
        const session = sessions.current
        if (!session?.state.theirs) throw new Error('there is no conflict')
        const { record, document, history } = session.state
        const copy = await server.createBackdrop(record.spot.id, {
          name: cutText(`${record.name}, copy`, MAX_NAME_CHARS),
          sourceId: kindOf(document.base).sources(document.base)[0]?.sourceId ?? null,
        })
        const save = {
          baseRevision: copy.revision,
          saveId: crypto.randomUUID(),
          label: 'copy',
          document,
          history,
        }
        await server.saveBackdrop(copy.id, save)
        session.leaveToTheirs()
        return copy.id
      },
      async view(revision) {
        const id = sessions.wanted
        const viewed = await server.readRevision(id, revision)
        if (sessions.wanted === id) set({ viewed })
      },
      closeView: () => set({ viewed: null }),
      restoreViewed() {
        const { viewed } = get()
        if (!viewed) return
        set({ viewed: null })
        sessions.current?.replaceDocument(viewed.document, `restore revision ${viewed.revision}`)
      },
    }
  })
}

const hasStorage =
  typeof indexedDB !== 'undefined' && typeof navigator !== 'undefined' && 'locks' in navigator
const store = createBackdropStore(
  api,
  hasStorage ? new StoredJournal(navigator.locks) : new MemoryJournal(),
)

/** The backdrop on screen. */
export const useBackdrop = Object.assign(
  <T = BackdropState>(selector?: (state: BackdropState) => T): T =>
    useStore(store, selector ?? ((state) => state as unknown as T)),
  { getState: store.getState, subscribe: store.subscribe },
)

if (typeof window !== 'undefined') {
  const flush = (): void => void store.getState().flush()
  // A closed tab sends what is pending; what does not arrive is in the journal.
  addEventListener('visibilitychange', () => document.visibilityState === 'hidden' && flush())
  addEventListener('pagehide', flush)
  addEventListener('online', flush)
  useServer.subscribe((state, before) => state.signIns > before.signIns && flush())
}
