import type { z } from 'zod'
import type { Size } from '../fit/cover'
import type { Fraction } from '../Fraction'
import type { SeamFigures } from '../loop/judgeSeam'
import type { Analysis } from '../material/Analysis'
import type { Finding } from '../material/findings'
import type { ShareRect } from '../picture/pictureShape'
import type { DeliveredMedia } from './DeliveredMedia'
import type { Layer } from './Layer'

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

/** How a sequence differs from the base's own. */
export interface SequenceOptions {
  /** Another frame rate; null or absent for the base's own. */
  readonly frameRate?: Fraction | null
  /** The part that a screen shows, in shares of the base's picture. */
  readonly part?: ShareRect | null
}

/** How the loop of a finished clip joins, composed and decoded again. */
export interface MeasuredSeam {
  readonly seam: SeamFigures | null
  readonly deliveredSeamRatio: number | null
}

/** A change of a base that makes its files lighter: what changes, and why it may not be noticed. */
export interface LighterBase<A> {
  readonly id: 'shorter' | 'calmer' | 'slower'
  readonly title: string
  readonly because: string
  /** Taken together they are one decision. */
  readonly actions: readonly A[]
}

/** How still pictures of a base are made for the screens. */
export interface PictureUse {
  /** Device pixels for each CSS pixel: one file each, where the source has the detail. */
  readonly densities: readonly number[]
  /** Maximum share of a screen's budget that a picture may take: a clip needs the rest. */
  readonly budgetShare: number
  /** In CSS pixels, where one width serves all screens; null for the width of each screen's row. */
  readonly width: number | null
  /** What the picture fills, so that the rest can be cut off; null where it is shown whole. */
  readonly fills: 'region' | 'window' | null
  /** Whether the focal point decides what of it is seen, or where it lies. */
  readonly placed: boolean
  /** Whether the document's poster decides which picture is shown. */
  readonly chosen: boolean
}

/** How a base moves. */
export interface Motion {
  /** How long one turn takes, or the whole where it plays once. */
  readonly turnSeconds: number
  readonly loops: boolean
}

/** What is behind everything of a base, and painted before its files have come. */
export interface Ground {
  /** `#rrggbb`; null for the scrim's colour. */
  readonly color: string | null
  /** Whether the placeholder of its picture may stand in for it. */
  readonly placeholder: boolean
}

/**
 * A kind of base: one folder of `core/kinds`, and one line in its table. `B` are the decisions that
 * only this kind has, `A` their changes, `S` its sequence, `D` its part of the
 * manifest.
 */
export interface Kind<B, A, S, D> {
  readonly schema: z.ZodType<B>
  /** The first words of its actions' types, before the slash. */
  readonly actions: readonly string[]
  /** Whether clips are rendered of it. */
  readonly clips: boolean
  /** The still pictures that are rendered of it; null where there are none. */
  pictures(base: B): PictureUse | null
  /** How it moves on the page, by a clip or by style; null where it stands still. */
  motion(base: B): Motion | null
  ground(base: B): Ground
  /**
   * Maximum bytes of both style sheets with this base, compressed as a server sends them. A test
   * compares it with real ones.
   */
  styleBytes(base: B): number
  /** Frames a second of its clips, where a screen has no rate of its own. */
  frameRate(base: B): Fraction
  /** A sequence as it crosses the wire; what follows from the rest is computed again. */
  readonly sequenceSchema: z.ZodType<S>
  /** The base after an action; the same object when nothing changes. */
  reduce(base: B, action: A): B
  /** What an action is called in the list of undo steps. */
  label(action: A): string
  /** The sources it is made from: what fills the table of used sources. */
  sources(base: B): readonly SourceRef[]
  /**
   * Its output frames; one frame if it does not move. Null where a source is not known, or where it
   * cannot be decoded here.
   */
  sequence(base: B, known: Sources, options?: SequenceOptions): S | null
  /** What it puts behind the scrim, from back to front. */
  layers(base: B, media: DeliveredMedia): readonly Layer[]
  /** Its part of the manifest, with what was measured on the finished clips, in their order. */
  describe(base: B, clips: readonly MeasuredSeam[]): D
  /** Changes of the base alone that make its files lighter; `analysis` is its source's. */
  lighter(base: B, analysis: Analysis | null): readonly LighterBase<A>[]
  /** What was found wrong with the part of its sources that it uses. */
  checks(base: B, known: Sources): readonly Finding[]
}
