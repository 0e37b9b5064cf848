import { useStore } from 'zustand'
import { createStore, type StoreApi } from 'zustand/vanilla'
import type { BackdropRecord, OpenRevision } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { EMPTY_HISTORY, type History } from '../../core/backdrop/history'
import type { BackdropAction } from '../../core/backdrop/reduce'
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

/** How often edits that closed tabs left behind are looked for. */
const LOOK_FOR_LEFT_MS = 4_000

/**
 * The backdrop on screen, and those that were left while something of them was not acknowledged:
 * each has a session of its own, which goes on saving wherever the designer is.
 */
export function createBackdropStore(
  server: StoreApiPart,
  journal: EditJournal,
): StoreApi<BackdropState> {
  const sessions = new Map<string, BackdropSession>()
  /** Sessions being opened: two callers get the same one. */
  const adopting = new Map<string, Promise<BackdropSession>>()
  /** The backdrop that is on screen, or about to be. */
  let wanted = ''

  return createStore<BackdropState>((set, get) => {
    const publish = (id: string): void => {
      const session = sessions.get(id)
      if (id !== wanted) {
        // Left behind, and acknowledged since: it need not be held any longer.
        if (session?.isClean) sessions.delete(id)
        return
      }
      if (session) set(session.state)
    }
    const partsOf = (id: string) => ({ api: server, journal, onChange: () => publish(id) })
    const current = (): BackdropSession | undefined => sessions.get(wanted)

    const adopt = (record: BackdropRecord): Promise<BackdropSession> => {
      const running = adopting.get(record.id)
      if (running) return running
      const started = adoptAlone(record).finally(() => adopting.delete(record.id))
      adopting.set(record.id, started)
      return started
    }

    const adoptAlone = async (record: BackdropRecord): Promise<BackdropSession> => {
      const held = sessions.get(record.id)
      // What is being worked on here comes first; what another tab left behind is met at the next
      // opening.
      const left = held && !held.isClean ? null : await journal.adopt(record.id).catch(() => null)
      if (held && !left) {
        held.refresh(record)
        return held
      }
      if (held && left && !held.isClean) {
        // Something was changed here in that moment: what was left behind has its turn after it.
        await journal.giveBack(left)
        return held
      }
      const session = left
        ? BackdropSession.resume(record, left, partsOf(record.id))
        : new BackdropSession(record, partsOf(record.id))
      sessions.set(record.id, session)
      publish(record.id)
      return session
    }

    /** Sends what closed tabs left behind, also of backdrops that no one opens. */
    const sendLeft = async (): Promise<void> => {
      for (const id of await journal.orphaned()) {
        const held = sessions.get(id)
        if (held && !held.isClean) continue
        const record = await server.readBackdrop(id).catch(() => null)
        if (record) await adopt(record)
      }
    }
    const lookForLeft = (): void => {
      // A tab that is closed now, or was a moment ago, is not known as closed at once.
      void sendLeft()
        .catch(() => undefined)
        .finally(() => setTimeout(lookForLeft, LOOK_FOR_LEFT_MS))
    }
    lookForLeft()

    return {
      ...NOTHING,
      async open(id) {
        if (wanted !== id) {
          // Whatever is pending there is saved at once, by its own session.
          void current()?.flush()
          wanted = id
          set({ ...NOTHING })
        }
        set({ viewed: null })
        const held = sessions.get(id)
        if (held) set(held.state)
        try {
          const record = await server.readBackdrop(id)
          const session = await adopt(record)
          if (wanted === id) set(session.state)
        } catch (error) {
          if (wanted === id) set({ problem: messageOf(error) })
        }
      },
      // While an earlier revision is looked at nothing is changed.
      dispatch: (action, gesture = null) => get().viewed || current()?.dispatch(action, gesture),
      undo: () => get().viewed || current()?.undo(),
      redo: () => get().viewed || current()?.redo(),
      async flush() {
        const keepalive = typeof document !== 'undefined' && document.visibilityState === 'hidden'
        await Promise.all([...sessions.values()].map((session) => session.flush(keepalive)))
      },
      keepMine: async () => current()?.keepMine(),
      takeTheirs: () => current()?.takeTheirs(),
      async saveAsCopy() {
        const session = current()
        if (!session?.state.theirs) throw new Error('there is no conflict')
        const { record, document, history } = session.state
        const copy = await server.createBackdrop(
          record.spot.id,
          `${record.name}, copy`.slice(0, 120),
          document.material.sourceId,
        )
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
        const id = wanted
        const viewed = await server.readRevision(id, revision)
        if (wanted === id) set({ viewed })
      },
      closeView: () => set({ viewed: null }),
      restoreViewed() {
        const { viewed } = get()
        if (!viewed) return
        set({ viewed: null })
        current()?.replaceDocument(viewed.document, `restore revision ${viewed.revision}`)
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
