import type { Fraction } from '../../Fraction'
import type { ColourFacts } from '../../media/MediaFile'
import type { Family } from '../families'

/** Encoder programs that Telon knows how to drive. */
export const PROGRAMS = ['x264', 'vpxenc', 'svt-av1', 'aomenc'] as const
export type Program = (typeof PROGRAMS)[number]

/** What an encoder is given: raw frames of one size, at a constant rate. */
export interface RawFrames {
  readonly width: number
  readonly height: number
  readonly frameRate: Fraction
  readonly frames: number
  readonly loops: boolean
  readonly colour: Omit<ColourFacts, 'fullRange'>
}

/** How much time an encode may take: a probe's is quick. */
export type Effort = 'quick' | 'full'

/** What an encode aims at: a quality on the encoder's own scale, or a mean rate. */
export type Control =
  | { readonly kind: 'setting'; readonly setting: number }
  | { readonly kind: 'rate'; readonly bitsPerSecond: number }

/** One run of an encoder over all frames of a clip. */
export interface EncodeRun {
  readonly raw: RawFrames
  readonly effort: Effort
  readonly control: Control
  /**
   * Whether only statistics are wanted: what later runs with the same file for statistics are
   * planned from, whatever controls them.
   */
  readonly statisticsOnly: boolean
  /** How many of the last frames are the loop's first ones again. */
  readonly leadOut: number
  /** Bytes of a frame against those of a key frame, by a probe: how much changes between them. */
  readonly change: number
  /** Paths of the statistics and of the stream; a run for statistics may write none. */
  readonly statistics: string
  readonly output: string
  readonly threads: number
}

/** What an encoder can do, and how it is asked for it. */
export interface Encoder {
  readonly program: Program
  readonly family: Family
  /** What the program is called, and how it is asked for its version. */
  readonly command: string
  readonly versionArguments: readonly string[]
  /** Where its version stands in what it prints. */
  readonly versionPattern: RegExp
  /** The form of its stream. */
  readonly stream: 'annexb' | 'ivf'
  /** Its scale of constant quality: finer is smaller, in steps. */
  readonly scale: { readonly finest: number; readonly coarsest: number; readonly step: number }
  /** A version whose answer holds this takes finer steps than others; null where none does. */
  readonly finer: { readonly knownBy: RegExp; readonly step: number } | null
  /** Settings that a probe tries, finest first. */
  readonly probed: readonly number[]
  /**
   * How budgets and qualities are met: by a mean rate with statistics, which lands within 2 %; or
   * by a setting, where that is better at equal bytes.
   */
  readonly budgetBy: Control['kind']
  /**
   * Budgets that take a coarser setting than this are met by a rate all the same: near the end of
   * its scale an encoder spreads bytes worse by a setting. Null where it does not.
   */
  readonly rateBeyond: number | null
  /**
   * Share of what the run for statistics takes, below which a file certainly shows loss: such a
   * budget needs no probe. Null where that run tells nothing of bytes.
   */
  readonly shortBelow: number | null
  /** Which runs need statistics of the clip. */
  readonly statisticsFor: 'rate' | 'all' | 'none'
  /**
   * Bytes at full effort against a quick encode at the same setting, as measured: a first guess.
   */
  readonly fullShare: number
  /**
   * How fast bytes fall over settings at full effort, against a probe: on a clip that stands still,
   * and how much that grows by a change of 1 from frame to frame.
   */
  readonly slope: { readonly still: number; readonly byChange: number }
  /**
   * Frames of a loop's start that it is given once more after the loop's end, and that are taken
   * off its stream: the last frames then refer to what the loop goes on with.
   */
  readonly leadOut: number
  /** The arguments of a run; it reads frames from its standard input. */
  arguments(run: EncodeRun): string[]
}
