import type { BackdropDocument } from './BackdropDocument'
import { classOfWindow } from '../fit/focal'
import { SCREENS, type ScreenName } from '../fit/screens'
import type { Scrim } from '../scrim/Scrim'

/** A scrim that some screens have: the one of phones, or the one of all others. */
export type ScrimPart = 'shared' | 'phone'

type Scrims = Pick<BackdropDocument, 'scrim' | 'ownScrim' | 'weight'>

/** Whether a window, so many CSS pixels wide, is one of a phone. */
const isPhone = (width: number, { weight }: Scrims): boolean =>
  classOfWindow(width, weight.breakpoints) === 'phone'

/** Which scrim a screen has where phones have their own. */
export const scrimPartOf = (document: Scrims, screen: ScreenName): ScrimPart =>
  isPhone(SCREENS[screen].width, document) ? 'phone' : 'shared'

/** Which scrim of a document a screen has: phones have the shared one where there is no other. */
export const scrimPartOn = (document: Scrims, screen: ScreenName): ScrimPart =>
  document.ownScrim.phone ? scrimPartOf(document, screen) : 'shared'

/** One of a document's scrims; that of phones is the shared one where they have no own. */
export const scrimOf = ({ scrim, ownScrim }: Scrims, part: ScrimPart): Scrim =>
  (part === 'phone' ? ownScrim.phone : null) ?? scrim

/** The scrim of a window, so many CSS pixels wide. */
export const scrimOfWindow = (document: Scrims, width: number): Scrim =>
  scrimOf(document, isPhone(width, document) ? 'phone' : 'shared')

/** The scrim that a screen has. */
export const scrimOn = (document: Scrims, screen: ScreenName): Scrim =>
  scrimOfWindow(document, SCREENS[screen].width)
