/**
 * Steers an encoder from frame to frame, knowing nothing of it but the bytes that come out. `next` is asked for each frame in order, `took` told of each that
 * came out, in the same order but some frames later: encoders hold a few.
 */
export interface FramePace {
  /** The setting for the next frame: a quantizer, or bits a second. */
  next(): number
  /** A frame came out, with so many bytes. */
  took(bytes: number): void
}

/** The same setting for every frame. */
export function steadyPace(setting: number): FramePace {
  return { next: () => setting, took: () => undefined }
}
