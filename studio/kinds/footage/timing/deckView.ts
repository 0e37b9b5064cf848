import { create } from 'zustand'

/** What the deck of Timing shows. */
export type DeckView = 'filmstrip' | 'seam' | 'loops' | 'poster'

/** Which view of the deck is open: the bench opens them, too. */
export const useDeckView = create<{ readonly view: DeckView; open(view: DeckView): void }>(
  (set) => ({ view: 'filmstrip', open: (view) => set({ view }) }),
)
