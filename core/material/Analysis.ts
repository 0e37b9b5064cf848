import { z } from 'zod'
import { amount, count, figure, share } from '../bounded'

const ms = amount()
const ends = z.object({ startMs: ms, endMs: ms })
const place = z.object({ x: figure(), y: figure(), width: figure(), height: figure() })

/**
 * Measurements of a source's frames, made once on import and stored with it. Times in milliseconds
 * from the first frame shown; for `black`, `still` and `fade`, `startMs` is where the run at the
 * beginning ends and `endMs` where the run at the end begins.
 */
export const analysisSchema = z.object({
  version: z.literal(1),
  frames: count().min(1),
  durationMs: ms,
  /** Frames represented by one point of the curves. */
  framesEachPoint: count().min(1),
  /** Mean OKLab difference (ΔE × frames per second) of each point's liveliest frame. */
  motion: z.array(figure()).max(4000),
  /** Mean OKLab lightness, 0 to 1. */
  brightness: z.array(figure()).max(4000),
  /** What the frames of each second take, from the first. */
  bytesEachSecond: z.array(figure()).max(3600),
  motionMedian: figure(),
  motionPeak: figure(),
  /** Where new shots begin, the end of a title card apart. */
  cutsMs: z.array(ms).max(500),
  titleEndMs: ms.nullable(),
  black: ends,
  still: ends,
  fade: ends,
  flashes: z.object({ most: count(), ms }),
  marks: z.array(place).max(20),
  /**
   * The picture within black bars, in shares of the whole; null where there are none, or where it
   * was not looked for.
   */
  bars: place.nullable().default(null),
  sharpness: figure(),
  halfShare: figure(),
  palette: z.array(z.object({ hex: z.string().max(9), share: share() })).max(8),
  /** The part without cards, black, fades, held frames and cuts; null if that is the whole clip. */
  usable: ends.nullable(),
  /**
   * What the same pictures take as H.264, encoded once to know; null unless the source is a
   * sequence of pictures.
   */
  asVideoBytes: count().nullable(),
  /** Frames that cannot be decoded, between two times; null if all can. */
  missing: z
    .object({ frames: count().min(1), fromMs: ms, toMs: ms })
    .nullable()
    .default(null),
})

export type Analysis = z.infer<typeof analysisSchema>

/**
 * How lively a clip is behind copy. Bounds calibrated on the demonstration's clips: ΔE per second,
 * the median over the usable part. Lower bounds would call drifting fog lively; higher ones would
 * call rain calm.
 */
const LIVELY_FROM = 12
export const BUSY_FROM = 45

/** `calm`, `lively` or `busy`. */
export function livelinessOf({
  motionMedian,
}: Pick<Analysis, 'motionMedian'>): 'calm' | 'lively' | 'busy' {
  return motionMedian >= BUSY_FROM ? 'busy' : motionMedian >= LIVELY_FROM ? 'lively' : 'calm'
}
