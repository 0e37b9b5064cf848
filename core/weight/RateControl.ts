/**
 * Controls an encoder frame by frame, from nothing but the bytes of its output. `next` is called
 * for each frame in order, `took` for each encoded frame, in the same order but some frames later:
 * encoders delay a few.
 */
export interface RateControl {
  /** The setting for the next frame: a quantizer, or bits a second. */
  next(): number
  /** Reports an encoded frame and its bytes. */
  took(bytes: number): void
  /**
   * Whether all earlier frames must be encoded before the next one is requested, if the encoder
   * allows it: towards the end few frames are left to compensate for a surprise.
   */
  waits(): boolean
}

/** The same setting for every frame. */
export function constantQuantizer(setting: number): RateControl {
  return { next: () => setting, took: () => undefined, waits: () => false }
}

/**
 * Frames at the end of a pass that are requested one by one, and the maximum share of a short pass
 * that they are.
 */
const WATCHED_FRAMES = 16
const WATCHED_SHARE = 0.2

/** Whether frame `k` of a pass is one of those at its end that are requested one by one. */
export function isWatched(k: number, frames: number): boolean {
  return k >= frames - Math.min(WATCHED_FRAMES, frames * WATCHED_SHARE)
}
