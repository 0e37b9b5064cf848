import { create } from 'zustand'
import { backdropRecordSchema, isClip, type BackdropRecord, type ClipCard, type ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { EMPTY_HISTORY, record as recordStep, redo, undo, type History } from '../../core/backdrop/history'
import { labelOf, reduce, type BackdropAction } from '../../core/backdrop/reduce'
import { api, messageOf, RequestError } from '../api/client'

/** How the open backdrop stands with the server. */
export type SaveState = 'saved' | 'pending' | 'saving' | 'failed' | 'conflict'

interface BackdropState {
  readonly record: BackdropRecord | null
  readonly document: BackdropDocument | null
  readonly history: History
  readonly source: ClipSource | null
  readonly sources: readonly ClipCard[]
  readonly save: SaveState
  readonly savedAt: string | null
  readonly problem: string | null
  /** What another tab has saved meanwhile. */
  readonly theirs: BackdropRecord | null
  open(id: string): Promise<void>
  /** Changes the document by an action; actions of one gesture are one undo step. */
  dispatch(action: BackdropAction, gesture?: string | null): void
  undo(): void
  redo(): void
  flush(): Promise<void>
  /** Ends a conflict: this tab's version goes on as the next revision. */
  keepMine(): Promise<void>
  /** Ends a conflict: the other tab's version is taken; ours stays one undo away. */
  takeTheirs(): void
  /** Ends a conflict: this tab's version becomes a backdrop of its own. Resolves to its id. */
  saveAsCopy(): Promise<string>
}

const SAVE_AFTER_MS = 500
let timer: ReturnType<typeof setTimeout> | undefined

/** The open backdrop: holds state and calls the core's `reduce`; every change is saved by itself. */
export const useBackdrop = create<BackdropState>((set, get) => {
  const changed = (document: BackdropDocument, history: History): void => {
    set({ document, history, source: sourceOf(document.material.sourceId), save: get().save === 'conflict' ? 'conflict' : 'pending' })
    clearTimeout(timer)
    timer = setTimeout(() => void get().flush(), SAVE_AFTER_MS)
  }

  /** The clip a document stands on. A swapped one comes as its card at once, with what its frames told a moment later. */
  const sourceOf = (id: string): ClipSource | null => {
    const { source, sources } = get()
    if (source?.id === id) return source
    const card = sources.find((each) => each.id === id)
    if (!card) {
      // Taken off the shelf since: saving brings it back, then it can be read.
      setTimeout(() => void get().flush().then(() => api.readSource(id)).then((found) => isClip(found) && get().document?.material.sourceId === id && set({ source: found }), () => undefined))
      return source
    }
    void api.readSource(id).then((found) => isClip(found) && get().source?.id === id && set({ source: found }), () => undefined)
    return { ...card, analysis: null }
  }

  const write = async (keepalive: boolean): Promise<void> => {
    const { record, document, history, save } = get()
    if (!record || !document || save !== 'pending') return
    set({ save: 'saving' })
    const label = history.past[history.past.length - 1]?.label ?? 'undo'
    try {
      const { revision, updatedAt } = await api.saveBackdrop(record.id, { baseRevision: record.revision, saveId: crypto.randomUUID(), label, document, history }, keepalive)
      const still = get().record
      if (still?.id !== record.id) return
      const clean = get().document === document
      set({ record: { ...still, revision }, savedAt: updatedAt, save: clean ? 'saved' : 'pending', problem: null })
      if (!clean) await write(keepalive)
    } catch (error) {
      if (get().record?.id !== record.id) return
      const theirs = error instanceof RequestError && error.code === 'backdrop/conflict' ? backdropRecordSchema.safeParse(error.details) : null
      if (theirs?.success) set({ save: 'conflict', theirs: theirs.data })
      else {
        set({ save: 'failed', problem: messageOf(error) })
        timer = setTimeout(() => {
          set({ save: 'pending' })
          void get().flush()
        }, 4000)
      }
    }
  }

  return {
    record: null, document: null, history: EMPTY_HISTORY, source: null, sources: [], save: 'saved', savedAt: null, problem: null, theirs: null,
    async open(id) {
      if (get().record?.id !== id) set({ record: null, document: null, theirs: null, problem: null })
      try {
        const record = await api.readBackdrop(id)
        const [sources, found] = await Promise.all([api.listClips(record.project.id), api.readSource(record.document.material.sourceId)])
        const source = isClip(found) ? found : null
        set({ record, document: record.document, history: record.history, source, sources, save: 'saved', savedAt: record.updatedAt, problem: null, theirs: null })
      } catch (error) {
        set({ problem: messageOf(error) })
      }
    },
    dispatch(action, gesture = null) {
      const { document, history } = get()
      if (!document) return
      const next = reduce(document, action)
      if (next === document) return
      changed(next, recordStep(history, labelOf(action), gesture, document, next))
    },
    undo() {
      const { document, history } = get()
      const back = document && undo(history, document)
      if (back) changed(back.document, back.history)
    },
    redo() {
      const { document, history } = get()
      const forth = document && redo(history, document)
      if (forth) changed(forth.document, forth.history)
    },
    async flush() {
      clearTimeout(timer)
      await write(document.visibilityState === 'hidden')
    },
    async keepMine() {
      const { record, theirs } = get()
      if (!record || !theirs) return
      set({ record: { ...record, revision: theirs.revision }, theirs: null, save: 'pending' })
      await get().flush()
    },
    takeTheirs() {
      const { document, theirs, history } = get()
      if (!theirs || !document) return
      set({ record: theirs, theirs: null, save: 'saved' })
      changed(theirs.document, recordStep(history, 'take the other version', null, document, theirs.document))
    },
    async saveAsCopy() {
      const { record, document, history, theirs } = get()
      if (!record || !document || !theirs) throw new Error('there is no conflict')
      const copy = await api.createBackdrop(record.spot.id, `${record.name}, copy`, document.material.sourceId)
      await api.saveBackdrop(copy.id, { baseRevision: copy.revision, saveId: crypto.randomUUID(), label: 'copy', document, history })
      set({ theirs: null, save: 'saved' })
      return copy.id
    },
  }
})

// A closed tab saves what is pending; the request outlives the page.
addEventListener('visibilitychange', () => {
  if (document.visibilityState === 'hidden') void useBackdrop.getState().flush()
})
