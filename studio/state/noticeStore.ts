import { create } from 'zustand'

/** A completed action, shown for a while, with undo if possible. */
export interface Notice {
  readonly id: number
  readonly text: string
  readonly undo: (() => Promise<void>) | null
}

interface NoticeState {
  readonly notices: readonly Notice[]
  tell(text: string, undo?: () => Promise<void>): void
  dismiss(id: number): void
}

/** Long enough to read a sentence and decide. */
const SHOWN_MS = 12_000
let lastId = 0

/** Notices of the whole application. */
export const useNotices = create<NoticeState>((set, get) => ({
  notices: [],
  tell(text, undo) {
    const id = ++lastId
    set((state) => ({ notices: [...state.notices.slice(-2), { id, text, undo: undo ?? null }] }))
    setTimeout(() => get().dismiss(id), SHOWN_MS)
  },
  dismiss(id) {
    set((state) => ({ notices: state.notices.filter((notice) => notice.id !== id) }))
  },
}))
