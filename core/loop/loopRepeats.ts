import { toNumber, type Fraction } from '../Fraction'

/**
 * How long a file plays before the browser itself must loop, with a visible pause: several minutes.
 */
const PLAYED_SECONDS = 180
/** Bytes of one listed frame in the index. */
const INDEX_BYTES_PER_FRAME = 4
/**
 * The share of the data that the index may take: larger for small files, up to what no visitor
 * notices.
 */
const MAX_INDEX_SHARE = 0.05
const MAX_SMALL_SHARE = 0.12
const SMALL_INDEX_BYTES = 16_000

/**
 * How often a delivered file's index repeats a loop of `frames` frames: enough to play for three
 * minutes, unless that index would exceed a twentieth of `dataBytes` (an eighth for small files).
 * At least twice, so that every other loop point is gapless. `bytesPerTurn` is what the index takes
 * for each turn: more where frames are reordered.
 */
export function loopRepeats(
  frames: number,
  frameRate: Fraction,
  dataBytes: number,
  bytesPerTurn = frames * INDEX_BYTES_PER_FRAME,
): number {
  const wanted = Math.ceil((PLAYED_SECONDS * toNumber(frameRate)) / frames)
  const affordable = Math.floor(
    Math.max(
      Math.min(SMALL_INDEX_BYTES, dataBytes * MAX_SMALL_SHARE),
      dataBytes * MAX_INDEX_SHARE,
    ) / bytesPerTurn,
  )
  return Math.max(2, Math.min(wanted, affordable))
}
