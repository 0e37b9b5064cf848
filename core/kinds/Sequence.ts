import { z } from 'zod'
import type { Size } from '../fit/cover'
import type { Fraction } from '../Fraction'
import { isPlainTone, toneKey, toneSchema, type Tone } from '../tone/Tone'

/**
 * Output frames by number, whatever they are made from: everything that looks at frames takes a
 * sequence. Plain data; a worker opens its inputs (`studio/worker/sequences/openInputs.ts`). Each
 * kind has its own, which says under `kind` how its frames are made.
 */
export interface Sequence {
  /** Frames of one loop, or of the whole where it plays once; at least one. */
  readonly frames: number
  readonly frameRate: Fraction
  /** Of its pictures in pixels, upright and cropped, before they are made smaller for a screen. */
  readonly size: Size
  readonly loops: boolean
  /** What it is made from, by SHA-256. */
  readonly inputs: readonly string[]
  /** Bytes of the drawing that can be delivered as it is, at any size; null where there is none. */
  readonly vectorBytes: number | null
  /** What is done to the colours of its pictures; absent for nothing. */
  readonly tone?: Tone
  readonly keys: SequenceKeys
}

/**
 * What a sequence's pictures depend on, as texts that stay the same exactly as long as it does:
 * parts of the keys under which results are kept.
 */
export interface SequenceKeys {
  /** The contents it is made from. */
  readonly inputs: string
  /** What is cut off, turned and filled; empty where nothing is. */
  readonly picture: string
  /** Which frame shows what, in which order, and how often. */
  readonly frames: string
  /** What the first frame shows. */
  readonly first: string
}

/** Frames a second of one frame that stands still: its length is of no matter. */
export const STILL_RATE: Fraction = { num: 1, den: 1 }

/** One text for everything that decides a sequence's pictures. */
export function sequenceKey({ keys }: Pick<Sequence, 'keys'>): string {
  return [keys.inputs, keys.picture, keys.frames].join(':')
}

/** The length of a sequence in seconds: exactly what is delivered. */
export function sequenceSeconds({ frames, frameRate }: Sequence): number {
  return (frames * frameRate.den) / frameRate.num
}

/** A sequence whose pictures have a tone: the same one where that changes nothing. */
export function toned<S extends Sequence>(sequence: S, tone: Tone | null): S {
  if (!tone || isPlainTone(tone)) return sequence
  const { keys } = sequence
  return {
    ...sequence,
    tone,
    // Its pixels are changed: a drawing is no longer delivered as it is.
    vectorBytes: null,
    keys: { ...keys, picture: keys.picture + toneKey(tone) },
  }
}

/** A schema of sequences that may have a tone: their keys are made anew with it. */
export const tonedSchema = <S extends Sequence>(schema: z.ZodType<S>): z.ZodType<S> =>
  z
    .object({ tone: toneSchema.optional() })
    .loose()
    .transform((sent, context): S => {
      const { tone, ...plain } = sent
      const read = schema.safeParse(plain)
      if (read.success) return toned(read.data, tone ?? null)
      context.issues.push(
        ...read.error.issues.map((issue) => ({ ...issue, input: plain, code: 'custom' as const })),
      )
      return z.NEVER
    })
