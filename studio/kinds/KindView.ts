import type { ComponentType } from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { Point } from '../../core/fit/cover'
import type { DeliveredMedia } from '../../core/kinds/DeliveredMedia'
import type { Limits, Room, Visits } from '../rooms/Room'
import type { LoadedSources } from '../state/loadedSources'

/** The rooms that belong to a kind. */
export type OwnRoom = 'material' | 'timing'

/** What handles on the stage are given: the region's size there, in pixels of the screen. */
export interface HandlesProps {
  readonly document: BackdropDocument
  readonly width: number
  readonly height: number
}

/** A picture that the stage shows, in its own pixels. */
export interface ShownPicture {
  readonly image: CanvasImageSource
  readonly width: number
  readonly height: number
}

/** What is shown behind the scrim now. */
export interface ShownBase {
  readonly document: BackdropDocument
  /** Null where no picture has come yet, or there is none. */
  readonly picture: ShownPicture | null
  /** The focal point on the stage's screen. */
  readonly focal: Point
  /** How far a motion by style has come, 0 to 1. */
  readonly progress: number
  /** The time within its turn. */
  readonly seconds: number
  /** The picture of one of several slides; null where it has not come. */
  readonly slidePicture: (slide: number) => ShownPicture | null
  /** The region of the stage as it is drawn, in pixels. */
  readonly width: number
  readonly height: number
}

/** What a kind of base brings to the studio. */
export interface KindView {
  /** Its own rooms: what it is made from, and how it goes in time. */
  readonly rooms: Readonly<Record<OwnRoom, Room>>
  /** Where a backdrop opens. */
  readonly firstRoom: OwnRoom
  /** What is dragged on the stage while one of them is open. */
  readonly handles: Partial<Readonly<Record<OwnRoom, ComponentType<HandlesProps>>>>
  /** Media for the stage while its files are not rendered, where nothing must be made for it. */
  standInMedia(document: BackdropDocument, sources: LoadedSources): DeliveredMedia | null
  /** The document as the stage shows it, where visitors see it in another order. */
  staged?(document: BackdropDocument): BackdropDocument
  /** Style for what files have in them, while originals stand in for them on the stage. */
  standInStyle?(document: BackdropDocument): string
  /** A picture for the stage where this browser cannot make the first frame; null if none is. */
  standIn(document: BackdropDocument, sources: LoadedSources): Promise<ImageBitmap | null>
  /** Budgets and limits that only it has, for the files of a class of screens. */
  readonly Limits?: Limits
  /** What visits download of it, where that depends on the visit: a view of the deck of Weight. */
  readonly Visits?: Visits
  /** Measures what the stage cannot show at once, as long as the workbench is open. */
  readonly Watch?: ComponentType<{
    readonly document: BackdropDocument
    readonly sources: LoadedSources
  }>
  /** Draws what visitors see behind the scrim; returns false where it cannot be told yet. */
  draw(context: OffscreenCanvasRenderingContext2D, shown: ShownBase): boolean
  /** Shown where a source is no longer on the shelf. */
  readonly Lost: ComponentType<{ projectId: string }>
  /**
   * When its loop shows what the playhead is parked on, in seconds of the loop; null where it does
   * not. `ticks` are those of its deck.
   */
  momentOf(document: BackdropDocument, sources: LoadedSources, ticks: number): number | null
}
