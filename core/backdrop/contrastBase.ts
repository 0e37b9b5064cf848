import type { Point, Size } from '../fit/cover'
import { classOfWindow, focalOn } from '../fit/focal'
import { SCREEN_CLASSES, SCREENS, type ScreenName } from '../fit/screens'
import type { AnySequence } from '../kinds'
import type { Sources } from '../kinds/Kind'
import { sequenceKey } from '../kinds/Sequence'
import type { PartBlur } from '../picture/blurI420'
import type { BackdropDocument } from './BackdropDocument'
import { renderHindrance, sequenceOf } from './delivered'
import { classServing, renditionOf } from './recipe'

/** What is behind copy on a screen. */
export interface BaseOnScreen {
  /** Equal exactly when the frames are. */
  readonly key: string
  readonly sequence: AnySequence
  readonly copyBlur: PartBlur | null
  /** The size that covers the region; null where frames have no shape of their own. */
  readonly picture: Size | null
  readonly focal: Point
}

/**
 * The frames that a screen shows behind the copy, cut and blurred as its files are; null where they
 * are no sequence: what a style places or moves, or sources that are not known.
 */
export function baseOnScreen(
  document: BackdropDocument,
  known: Sources,
  screen: ScreenName,
): BaseOnScreen | null {
  if (renderHindrance(document.base) !== null) return null
  const { fit, weight } = document
  const own = classOfWindow(SCREENS[screen].width, weight.breakpoints)
  const enabled = SCREEN_CLASSES.filter((each) => weight.renditions[each].enabled)
  const screenClass = classServing(own, enabled) ?? own
  if (!sequenceOf(document, known, { screenClass })) return null
  const { part, copyBlur } = renditionOf(document, known, screenClass)
  // A crop for a class of screens shows what its screens show of the whole picture; blur is placed
  // in what is left of it.
  const sequence = sequenceOf(document, known, {
    screenClass,
    ...(part && copyBlur && { part }),
  })
  if (!sequence) return null
  return {
    key: JSON.stringify([sequenceKey(sequence), copyBlur]),
    sequence,
    copyBlur,
    // Gradients fill whatever region there is.
    picture: sequence.kind === 'paint' ? null : sequence.size,
    focal: focalOn(fit, own),
  }
}

/** Equal exactly when copy lies in the same places, in front of the same frames and scrim. */
export const contrastKey = ({
  base,
  particles,
  copy,
  scrim,
  fit,
  weight: { renditions, breakpoints },
  behaviour: { pauseControl },
  handoff: { lang, headingLevel },
}: BackdropDocument): string =>
  JSON.stringify([
    base,
    particles,
    copy,
    scrim,
    fit,
    Object.values(renditions).map(({ enabled, crop, copyBlur }) => [enabled, crop, copyBlur]),
    breakpoints,
    pauseControl,
    lang,
    headingLevel,
  ])
