import type { ScreenName } from '../../../core/fit/screens'
import type { Point, Size } from '../../../core/fit/cover'
import type { AnySequence } from '../../../core/kinds'
import type { Moment } from '../../../core/legibility/contrastMoments'
import type { ScreenLayout } from '../../../core/legibility/TextPlace'
import type { ContrastRow, WorstMoment } from '../../../core/legibility/worstOf'
import type { Prepared } from '../../../core/particles/Prepared'
import type { PartBlur } from '../../../core/picture/blurI420'
import type { Scrim } from '../../../core/scrim/Scrim'
import type { Places } from '../sources'

/** What is behind copy on some screens: they share its frames. */
export interface ContrastBase {
  /** Equal exactly when its frames are. */
  readonly key: string
  readonly sequence: AnySequence
  readonly places: Places
  readonly copyBlur: PartBlur | null
  /** The size that covers the region, in pixels of any scale. */
  readonly picture: Size
}

/** Particles that are drawn live. */
export interface LiveParticles {
  /** Equal exactly when what is drawn is. */
  readonly key: string
  readonly prepared: Prepared
}

/** A screen that copy is measured on. */
export interface ContrastScreen {
  readonly name: ScreenName
  /** Which of the bases it shows. */
  readonly base: number
  readonly layout: ScreenLayout
  readonly focal: Point
  readonly scrim: Scrim
  /** Whether it shows the first frame alone, without particles. */
  readonly isStill: boolean
}

/** Copy on all screens, in front of a backdrop at all its moments. */
export interface ContrastOrder {
  readonly bases: readonly ContrastBase[]
  readonly screens: readonly ContrastScreen[]
  readonly moments: readonly Moment[]
  /** Drawn live in front of the base; null for none. */
  readonly particles: LiveParticles | null
}

/** An order with other scrims on its screens. */
export const withScrims = (
  order: ContrastOrder,
  scrimOf: (screen: ContrastScreen) => Scrim,
): ContrastOrder => ({
  ...order,
  screens: order.screens.map((screen) => ({ ...screen, scrim: scrimOf(screen) })),
})

/** What comes back on the way. */
export type ContrastStep =
  /** Frames are decoded: how far, 0 to 1. */
  | { readonly phase: 'reading'; readonly done: number }
  /** The worst times, as bounds have ranked them. */
  | { readonly phase: 'quick'; readonly worst: readonly WorstMoment[] }
  /** All moments of a screen. */
  | {
      readonly phase: 'screen'
      readonly screen: ScreenName
      readonly rows: readonly ContrastRow[]
    }

export interface ContrastOutcome {
  /** The worst moment of each text on each screen, checked at full size. */
  readonly worst: readonly WorstMoment[]
}
