import { create } from 'zustand'
import type { ScreenName } from '../../../core/fit/screens'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { useContrastStore } from '../../state/contrastStore'
import { useStage } from '../../state/stageStore'

/** What the deck shows of all that is measured. */
interface ContrastView {
  /** Whether one screen is shown (the stage's) or all of them. */
  readonly scope: 'one' | 'all'
  /** Where copy of this colour would fail: in the present frame, or at any time of the loop. */
  readonly overlay: 'none' | 'now' | 'loop'
  readonly set: (fields: Partial<Omit<ContrastView, 'set'>>) => void
}

export const useContrastView = create<ContrastView>((set) => ({
  scope: 'one',
  overlay: 'none',
  set: (fields) => set(fields),
}))

/** Shows a screen on the stage, and what was measured there. */
export function showScreen(screen: ScreenName): void {
  useContrastView.getState().set({ scope: 'one' })
  const { setScreen, set } = useStage.getState()
  set({ mark: null })
  setScreen(screen)
}

/** Takes the stage to a moment on its screen and outlines the place. */
export function goTo({ screen, seconds, x, y }: WorstMoment): void {
  const { setScreen, set } = useStage.getState()
  const region = useContrastStore
    .getState()
    .contrasts?.screens.find((each) => each.screen === screen)?.layout.region
  setScreen(screen)
  set({
    parkedSeconds: seconds,
    mark: region ? { x: x / region.width, y: y / region.height } : null,
  })
}
