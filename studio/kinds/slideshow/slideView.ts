import { create } from 'zustand'

/** The views of the slideshow's deck. */
export type SlidesView = 'slides' | 'legibility' | 'weight' | 'live'

interface SlideViewState {
  /** The id of the slide whose own decisions are shown; null for those of all. */
  readonly selected: number | null
  readonly view: SlidesView
  /** How much of the deck's width one cycle takes: 1 is all of it. */
  readonly zoom: number
  set(fields: Partial<Omit<SlideViewState, 'set'>>): void
}

/** What is looked at of a slideshow: never part of the document. */
export const useSlideView = create<SlideViewState>((set) => ({
  selected: null,
  view: 'slides',
  zoom: 1,
  set: (fields) => set(fields),
}))
