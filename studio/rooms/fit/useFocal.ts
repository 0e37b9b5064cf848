import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import type { Point } from '../../../core/fit/cover'
import { classOfWindow, focalOn, isFocalClass, type FocalClass } from '../../../core/fit/focal'
import { SCREENS } from '../../../core/fit/screens'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'

/** Screens that may have a focal point of their own. */
export const FOCAL_WORDS: Readonly<Record<FocalClass, string>> = {
  phone: 'phones',
  laptop: 'tablets and laptops',
}

/** The focal point that holds on the stage's screen: its own, or that of all screens. */
export function useFocal({ fit, weight }: BackdropDocument): {
  readonly point: Point
  /** The class of the stage's screen; null for the widest, which has the shared point. */
  readonly screenClass: FocalClass | null
  readonly isOwn: boolean
  /** Puts the point that holds here somewhere else. */
  readonly move: (focal: Point, gesture?: string | null) => void
  /** Gives the screen a point of its own, or the shared one again. */
  readonly setOwn: (own: boolean) => void
} {
  const dispatch = useBackdrop((state) => state.dispatch)
  const screen = useStage((state) => state.screen)
  const found = classOfWindow(SCREENS[screen].width, weight.breakpoints)
  const screenClass = isFocalClass(found) ? found : null
  const isOwn = screenClass !== null && fit.ownFocal[screenClass] !== null
  const point = focalOn(fit, found)
  return {
    point,
    screenClass,
    isOwn,
    move: (focal, gesture = null) =>
      dispatch(
        isOwn ? { type: 'fit/focal', focal, screenClass } : { type: 'fit/focal', focal },
        gesture,
      ),
    setOwn: (own) =>
      screenClass && dispatch({ type: 'fit/focal', focal: own ? point : null, screenClass }),
  }
}
