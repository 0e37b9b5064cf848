import type { z } from 'zod'
import type { Focals } from '../fit/focal'
import type { ScreenClass } from '../fit/screens'
import type { Fraction } from '../Fraction'
import type { SeamFigures } from '../loop/judgeSeam'
import type { Analysis } from '../material/Analysis'
import type { Finding } from '../material/findings'
import type { ShareRect } from '../picture/pictureShape'
import type { DeliveredMedia } from './DeliveredMedia'
import type { ImageSequence } from './image/imageSequence'
import type { Layer } from './Layer'
import type { PaintSequence } from './paint/paintSequence'
import type { SlideshowSequence } from './slideshow/slideshowSequence'
import type { FilledRegion, SequenceOptions, SourceRef, Sources } from './Sources'
import type { Span } from './Span'
import type { WordsChange, WordsInTurn } from '../copy/Words'

export type { KnownImage, KnownSource, SequenceOptions, SourceRef, Sources } from './Sources'

/** One of several pictures that a base shows one after another. */
export interface SlidePicture {
  /** Its one frame; null where its source is not known. */
  still(part: ShareRect | null): ImageSequence | null
  /** Where its focal points are; null for those of the backdrop. */
  readonly focals: Focals | null
  /** Whether what no window shows of it may be cut off. */
  readonly fills: boolean
  /** In CSS pixels, where one width serves all screens; null for the width of each screen's row. */
  readonly width: number | null
}

/** How the loop of a finished clip joins, composed and decoded again. */
export interface MeasuredSeam {
  readonly seam: SeamFigures | null
  readonly deliveredSeam: SeamFigures | null
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

/** Pictures that follow one another, and what they may take together. */
export interface SlidesUse {
  readonly pictures: readonly SlidePicture[]
  /** What a first visit may fetch of them: one of these lists of places. */
  readonly visits: readonly (readonly number[])[]
  /** Bytes of all of them with page, style and script. */
  readonly cycleBytes: Readonly<Record<ScreenClass, number>>
}

/** What visitors get, and why. */
export interface OwnOutcome {
  readonly shows: 'motion' | 'still'
  readonly because: string
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

/** What is seen of pictures and colours that the style places. */
type PlacedSequence = SlideshowSequence | PaintSequence

/**
 * A kind of base: one folder of `core/kinds`, and one line in its table. `B` are the decisions that
 * only this kind has, `A` their changes, `S` its sequence, `D` its part of the
 * manifest.
 */
export interface Kind<B, A, S, D> {
  readonly schema: z.ZodType<B>
  /** The first words of its actions' types, before the slash. */
  readonly actions: readonly string[]
  /**
   * Why particles cannot be rendered with it into one clip, and what to do; null or absent where
   * they can.
   */
  hindrance?(base: B): string | null
  /** Whether clips are rendered of it. */
  clips(base: B): boolean
  /** The still pictures that are rendered of it; null where there are none. */
  pictures(base: B): PictureUse | null
  /** The pictures that it shows one after another; null where it shows one. */
  slides?(base: B, known: Sources): SlidesUse | null
  /** Words that are shown in turn; none where those of the backdrop stay. */
  words?(base: B): readonly WordsInTurn[]
  /** The change that writes words of its own, by their id. */
  write?(base: B, id: number, change: WordsChange): A | null
  /** How it moves on the page, by a clip or by style; null where it stands still. */
  motion(base: B): Motion | null
  ground(base: B): Ground
  /**
   * Maximum bytes of both style sheets with this base, compressed as a server sends them. A test
   * compares it with real ones.
   */
  styleBytes(base: B): number
  /** The same of its script and markup, where they are larger than a clip's or an image's. */
  scriptBytes?(base: B): number
  markupBytes?(base: B): number
  /**
   * What visitors get of it under a condition (core/behaviour/conditions.ts), where that is not
   * what others do; `choice` is what was decided for it. Null for what others do.
   */
  outcome?(base: B, condition: string, choice: 'play' | 'poster' | null): OwnOutcome | null
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
  /**
   * What visitors see in a region where the style places and moves pictures itself, as frames to be
   * measured; absent or null where `sequence` tells it.
   */
  seenIn?(base: B, known: Sources, region: FilledRegion): PlacedSequence | null
  /** Of words in turn those times of a cycle at which they can be read, in seconds. */
  wordTimes?(base: B, slides: readonly number[]): readonly Span[]
  /** What it puts behind the scrim, from back to front. */
  layers(base: B, media: DeliveredMedia): readonly Layer[]
  /** Its part of the manifest, with what was measured on the finished clips, in their order. */
  describe(base: B, clips: readonly MeasuredSeam[]): D
  /** Changes of the base alone that make its files lighter; `analysis` is its source's. */
  lighter(base: B, analysis: Analysis | null): readonly LighterBase<A>[]
  /** What was found wrong with the part of its sources that it uses. */
  checks(base: B, known: Sources): readonly Finding[]
}
