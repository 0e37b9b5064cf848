import { toNumber, type Fraction } from './Fraction'

/** How long a file plays before the player itself must loop, which is when the pause is seen: several minutes. */
const PLAYED_SECONDS = 180
/** Bytes that each listed frame takes in the index, and the share of the data that the index may take. */
const INDEX_BYTES_PER_FRAME = 4
const MOST_INDEX_SHARE = 0.05

/**
 * How often a delivered file's index lists a loop of `frames` frames: enough to play for three minutes, unless that index would take
 * more than a twentieth of `dataBytes`. At least twice, so that every other join is smooth even in the smallest file.
 */
export function loopRepeats(frames: number, frameRate: Fraction, dataBytes: number): number {
  const wanted = Math.ceil((PLAYED_SECONDS * toNumber(frameRate)) / frames)
  const affordable = Math.floor((dataBytes * MOST_INDEX_SHARE) / (frames * INDEX_BYTES_PER_FRAME))
  return Math.max(2, Math.min(wanted, affordable))
}
