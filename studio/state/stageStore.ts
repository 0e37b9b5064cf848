import type { Plate } from '../../core/scrim/Plate'
import { create } from 'zustand'
import type { TrialLength } from '../../core/backdrop/trialCopy'
import type { ScreenLayout } from '../../core/legibility/TextPlace'
import type { Box } from '../../core/scrim/frameContrast'
import type { ShareRect } from '../../core/picture/pictureShape'
import type { ScreenName } from '../../core/fit/screens'

/** Where the heading's words are in the region, in CSS pixels. */
export interface HeadingPlace {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly region: { readonly width: number; readonly height: number }
  /** What letters have around them; null for nothing. */
  readonly plate: Plate | null
}

/** What drawing costs on this machine, as it goes on. */
export interface DrawnCost {
  /** Milliseconds a frame on the main thread. */
  readonly milliseconds: number
  readonly framesPerSecond: number
  readonly count: number
}

/** The worst contrast, and of what and where. */
export interface WorstContrast {
  readonly ratio: number
  readonly where: string
  /** What it needs; absent for what the heading does. */
  readonly needed?: number
}

interface StageState {
  readonly screen: ScreenName
  /** Seconds into the loop, as the stage's clip plays. */
  readonly time: number
  readonly playing: boolean
  /** How high the region is on the stage's screen, in CSS pixels; null while that is not known. */
  readonly regionHeight: number | null
  /** Contrast of the heading over the frame on stage; null while nothing is measured. */
  readonly contrast: number | null
  /** What the heading needs by its size on this screen. */
  readonly needed: number
  /** Where the words lie on the picture, in shares of it; null while it is not known. */
  readonly copyPlace: ShareRect | null
  /**
   * The source frame at the playhead while that is parked: the stage shows it instead of the clip.
   */
  readonly held: number | null
  /** Its moment in ticks of the clip. */
  readonly parkedTicks: number
  /** The picture of a source frame shown instead of the clip. */
  readonly scrub: { readonly number: number; readonly picture: ImageBitmap } | null
  /** The moment of a cycle by style that the stage is held at; null while it goes on. */
  readonly parkedSeconds: number | null
  /** Of all headings: slides may have their own. None while nothing is measured. */
  readonly headingPlaces: readonly HeadingPlace[]
  /** The heading's worst contrast over all that is shown in turn; null while it is not known. */
  readonly worst: WorstContrast | null
  /** Where copy would fail in the present frame, in CSS pixels; null where that is not asked. */
  readonly failing: readonly Box[] | null
  /** What copy must have where it is looked for where it fails; null for not at all. */
  readonly failsBelow: number | null
  /** Texts and button as the stage's screen lays them out; null while that is not known. */
  readonly layout: ScreenLayout | null
  /** Words of another length that are tried; null for those that are written. */
  readonly trial: TrialLength | null
  /** A place on the stage that is pointed at, in shares of the region. */
  readonly mark: { readonly x: number; readonly y: number } | null
  /** What a colour is being picked from the stage for; null for nothing. */
  readonly picking: {
    readonly label: string
    readonly onPick: (color: string) => void
  } | null
  /** Whether the hand is on the deck. */
  readonly scrubbing: boolean
  /** Whether handles on the stage are being used: what moves by style then stands at rest. */
  readonly handling: boolean
  /** What drawing particles costs on this machine as the stage draws them; null without any. */
  readonly particleCost: DrawnCost | null
  /**
   * Draws the base as it is seen now, so many pixels wide; null where there is no stage, or it
   * cannot be drawn yet.
   */
  readonly snapshot: (width: number) => OffscreenCanvas | null
  setScreen(screen: ScreenName): void
  set(fields: Partial<Omit<StageState, 'set' | 'setScreen'>>): void
}

/** What the stage shows and measures: never part of the document, never undone. */
export const useStage = create<StageState>((set) => ({
  screen: 'laptop',
  time: 0,
  playing: false,
  regionHeight: null,
  contrast: null,
  needed: 3,
  copyPlace: null,
  held: null,
  parkedTicks: 0,
  parkedSeconds: null,
  headingPlaces: [],
  worst: null,
  layout: null,
  failing: null,
  failsBelow: null,
  trial: null,
  mark: null,
  picking: null,
  scrub: null,
  scrubbing: false,
  handling: false,
  particleCost: null,
  snapshot: () => null,
  setScreen: (screen) => set({ screen }),
  set: (fields) => set(fields),
}))
