/**
 * Controls an encoder frame by frame, from nothing but the bytes of its output. `next` is called
 * for each frame in order, `took` for each encoded frame, in the same order but some frames later:
 * encoders delay a few.
 */
export interface RateControl {
  /** The setting for the next frame: a quantizer, or bits a second. */
  next(): number
  /** A frame came out, with so many bytes. */
  took(bytes: number): void
  /**
   * Whether all frames before the next one are to have come out before it is asked for, where the
   * encoder gives them: towards the end few are left that could make up for a surprise.
   */
  waits(): boolean
}

/** The same setting for every frame. */
export function constantQuantizer(setting: number): RateControl {
  return { next: () => setting, took: () => undefined, waits: () => false }
}

/**
 * Frames at the end of a pass that are asked for one by one, and the share of a short one that they
 * are at most.
 */
const WATCHED_FRAMES = 16
const WATCHED_SHARE = 0.2

/** Whether frame `k` of a pass is one of those at its end that are asked for one by one. */
export function isWatched(k: number, frames: number): boolean {
  return k >= frames - Math.min(WATCHED_FRAMES, frames * WATCHED_SHARE)
}
