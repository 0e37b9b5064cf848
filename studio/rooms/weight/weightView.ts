import { create } from 'zustand'
import type { ScreenClass } from '../../../core/fit/screens'
import type { Family } from '../../../core/weight/families'
import type { LineName } from '../../../core/weight/firstLoad'

/** What the deck of Weight shows. */
export type WeightDeckView = 'files' | 'seconds' | 'load' | 'visits'

/** A line as the designer set it. */
export interface ChosenLine {
  readonly preset: LineName | 'own'
  readonly megabits: number
  readonly roundTripMs: number
}

interface WeightViewState {
  readonly view: WeightDeckView
  /** The screen that bench and deck are about. */
  readonly screenClass: ScreenClass
  readonly family: Family
  readonly line: ChosenLine
  readonly visits: number
  /** The rendition that is looked at closely, by class and format; null while none is. */
  readonly closer: { readonly screenClass: ScreenClass; readonly family: Family } | null
  set(state: Partial<Omit<WeightViewState, 'set'>>): void
}

/** What is open in the room of Weight: bench and deck share it. */
export const useWeightView = create<WeightViewState>((set) => ({
  view: 'files',
  screenClass: 'laptop',
  family: 'av1',
  line: { preset: 'slow phone', megabits: 5, roundTripMs: 100 },
  visits: 10_000,
  closer: null,
  set: (state) => set(state),
}))
