import { create } from 'zustand'
import type { ScreenName } from '../../core/fit/screens'

interface StageState {
  readonly screen: ScreenName
  /** Seconds into the loop, as the stage's clip plays. */
  readonly time: number
  readonly playing: boolean
  /** Contrast of the heading over the frame on stage; null while nothing is measured. */
  readonly contrast: number | null
  /** What the heading needs by its size on this screen. */
  readonly needed: number
  /** A source frame shown instead of the clip while a hand moves the cut. */
  readonly scrub: ImageBitmap | null
  /** Whether the hand is on the cut. */
  readonly scrubbing: boolean
  setScreen(screen: ScreenName): void
  set(fields: Partial<Omit<StageState, 'set' | 'setScreen'>>): void
}

/** What the stage shows and measures: never part of the document, never undone. */
export const useStage = create<StageState>((set) => ({
  screen: 'laptop', time: 0, playing: false, contrast: null, needed: 3, scrub: null, scrubbing: false,
  setScreen: (screen) => set({ screen }),
  set: (fields) => set(fields),
}))
