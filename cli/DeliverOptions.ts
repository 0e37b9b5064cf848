import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import type { ScreenClass } from '../core/fit/screens'
import type { TransitionStyle } from '../core/kinds/slideshow/transition'
import type { Seam } from '../core/loop/framePlan'
import type { Family } from '../core/weight/families'

/** What `telon deliver` was asked for; times in seconds of the source. */
export interface DeliverOptions {
  readonly out: string
  /** A paint in words, in place of a file. */
  readonly paint?: string
  /** Moving elements over it; null for none. */
  readonly particles: BackdropDocument['particles']
  readonly start?: number
  readonly end?: number
  readonly speed: number
  /** Frames a second; the clip's own, up to 30, where it is left out. */
  readonly fps?: number
  readonly width?: number
  /** Kilobytes of a first visit by screen class; the classes left out keep the default. */
  readonly budget?: Partial<Record<ScreenClass, number>>
  readonly formats?: readonly Family[]
  /** The best encoders of this machine, or those of the browser. */
  readonly encoders?: 'best' | 'browser'
  /** The constant quality (SSIM) to reach instead of the budgets. */
  readonly quality?: number
  readonly noiseReduction: number
  /** How strongly the area behind the copy is blurred in all files, 0 to 1. */
  readonly copyBlur: number
  /** What transparent parts are filled with, `#rrggbb`; white where it is left out. */
  readonly matte?: string
  readonly once: boolean
  readonly seam: Seam['kind']
  /** Seconds of a blended seam; measured and chosen if left out. */
  readonly overlap?: number
  /** Lengths in seconds within which the best loop is looked for. */
  readonly findLoop?: { readonly min: number; readonly max: number }
  /** Of a slideshow: seconds for which each slide is fully shown. */
  readonly hold?: number
  /** Of a slideshow: seconds in which the next one replaces it. */
  readonly transition?: number
  readonly style?: TransitionStyle
  /** Whether slides come in a shuffled order. */
  readonly shuffle: boolean
  /** Whether a slideshow, or particles with what is below them, is rendered to a clip. */
  readonly render: boolean
  /** Kilobytes of all slides together, by screen class. */
  readonly cycleBudget?: Partial<Record<ScreenClass, number>>
  /** Whether visitors are offered previous, next and a marker for each slide. */
  readonly controls: boolean
  /** A moment of the clip in seconds, or the first output frame. */
  readonly poster: number | 'first'
  readonly heading?: string
  /**
   * The backdrop's id in markup and file names; from the digest of the source where it is left
   * out.
   */
  readonly id?: string
  readonly baseUrl?: string
  readonly lang?: string
  readonly headingLevel?: number
  readonly pauseLabel?: string
  readonly playLabel?: string
  readonly plainIndex: boolean
  /** Whether the region is further down the page. */
  readonly belowFold: boolean
}

/** A request that is well formed and cannot be carried out: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError'
}

/** Options that are of no use to what is delivered. */
export class MisplacedOptions extends UsageError {
  constructor(
    /** As they are written, such as `--start`. */
    readonly options: readonly string[],
    why: string,
  ) {
    super(`${options.join(', ')}: ${why}`)
  }
}
