import { z } from 'zod'

const ms = z.number().min(0)
const ends = z.object({ startMs: ms, endMs: ms })
const place = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() })

/**
 * What the frames of a source tell, measured once on import and stored with it. Times in milliseconds from the first frame shown;
 * of `black`, `still` and `fade`, `startMs` is where the beginning's run ends and `endMs` where the end's run begins.
 */
export const analysisSchema = z.object({
  version: z.literal(1),
  frames: z.int().min(1),
  durationMs: ms,
  /** Frames that one point of the curves stands for. */
  framesEachPoint: z.int().min(1),
  /** Mean OKLab difference (ΔE × frames a second) of each point's liveliest frame. */
  motion: z.array(z.number()).max(4000),
  /** Mean OKLab lightness, 0 to 1. */
  brightness: z.array(z.number()).max(4000),
  /** What the frames of each second take, from the first. */
  bytesEachSecond: z.array(z.number()).max(3600),
  motionMedian: z.number(),
  motionPeak: z.number(),
  /** Where new shots begin, the end of a title card apart. */
  cutsMs: z.array(ms).max(500),
  titleEndMs: ms.nullable(),
  black: ends,
  still: ends,
  fade: ends,
  flashes: z.object({ most: z.int(), ms }),
  marks: z.array(place).max(20),
  /** The picture within black bars, in shares of the whole; null where there are none, or where it was not looked for. */
  bars: place.nullable().default(null),
  sharpness: z.number(),
  halfShare: z.number(),
  palette: z.array(z.object({ hex: z.string(), share: z.number() })).max(8),
  /** The part without cards, black, fades, held frames and cuts; null where it is the whole clip. */
  usable: ends.nullable(),
  /** What the same pictures take as H.264, encoded once to know; null unless the source is a sequence of pictures. */
  asVideoBytes: z.int().nullable(),
})

export type Analysis = z.infer<typeof analysisSchema>

/** How lively a clip is behind copy. Bounds calibrated on the demo clips: ΔE a second, the median over the usable part. */
const LIVELY_FROM = 12
export const BUSY_FROM = 45

/** `calm`, `lively` or `busy`. */
export function livelinessOf({ motionMedian }: Pick<Analysis, 'motionMedian'>): 'calm' | 'lively' | 'busy' {
  return motionMedian >= BUSY_FROM ? 'busy' : motionMedian >= LIVELY_FROM ? 'lively' : 'calm'
}
