import type { Point, Size } from '../fit/cover'
import type { Focals } from '../fit/focal'
import type { ScreenClass } from '../fit/screens'
import type { Fraction } from '../Fraction'
import type { Finding } from '../material/findings'
import type { PartBlur } from '../picture/blurI420'
import type { ShareRect } from '../picture/pictureShape'

/** A source on the shelf that a base is made from. */
export interface SourceRef {
  readonly sourceId: string
  /**
   * The content that the document names by its digest, so that it stays the same picture; null
   * where it does not.
   */
  readonly sha256: string | null
}

/** An image's file: its type and size in bytes, and whether parts are transparent. */
export interface KnownImage {
  readonly mime: string
  readonly bytes: number
  readonly alpha: boolean
  /** Whether it is a drawing that stands still. */
  readonly isDrawing?: boolean
}

/** What is known of a source: its content, and its picture's displayed size before any crop. */
export interface KnownSource extends Size {
  readonly sha256: string
  /** What is known of an image's file; null of a clip. */
  readonly image?: KnownImage | null
  readonly findings?: readonly Finding[]
  /** Frames a second of a clip: more are never worth delivering. */
  readonly fps?: number | null
}

/** The sources that a document refers to, by their ids. */
export type Sources = ReadonlyMap<string, KnownSource>

/** A region that pictures fill by style, as a screen lays it out. */
export interface FilledRegion {
  /** In CSS pixels. */
  readonly size: Size
  readonly screenClass: ScreenClass
  /** The backdrop's focal points. */
  readonly focals: Focals
  /** How high the window is, in CSS pixels: what stays in place while it scrolls fills it. */
  readonly windowHeight: number
  /** What is blurred in the file of each picture; absent for nothing in any. */
  readonly softened?: readonly (SoftPart | null)[]
}

/** A blurred box in the part of a picture that its file has; a part of null is all of it. */
export interface SoftPart {
  readonly part: ShareRect | null
  readonly blur: PartBlur
}

/** How a sequence differs from the base's own. */
export interface SequenceOptions {
  /** Another frame rate; null or absent for the base's own. */
  readonly frameRate?: Fraction | null
  /** The part that a screen shows, in shares of the base's picture. */
  readonly part?: ShareRect | null
  /** The backdrop's focal point, where pictures of other shapes are composed. */
  readonly focal?: Point
}
