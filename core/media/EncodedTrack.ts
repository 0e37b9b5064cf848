import type { ColourFacts } from './MediaFile'

/** A coded frame. Frames are given in order of decoding. */
export interface EncodedFrame {
  readonly data: Uint8Array
  readonly key: boolean
  /** Its place in order of presentation; left out where that is the order of decoding. */
  readonly shown?: number
}

/** A finished loop, ready to be put in a container: constant frame durations. */
export interface EncodedTrack {
  readonly family: 'h264' | 'vp8' | 'vp9' | 'av1'
  readonly width: number
  readonly height: number
  /** Frames a second as a fraction: 24000/1001, 25/1. */
  readonly frameRate: { readonly num: number; readonly den: number }
  readonly frames: readonly EncodedFrame[]
  /** The payload of `avcC` for H.264, as the encoder gives it; null for the others. */
  readonly description: Uint8Array | null
  readonly colour: ColourFacts
}

/**
 * Sound that goes along: only for material that Telon draws itself (delivered files never carry
 * any).
 */
export interface EncodedSound {
  readonly channels: number
  /** Samples a second. */
  readonly sampleRate: number
  /** 16-bit little-endian samples, interleaved. */
  readonly pcm: Uint8Array
}

/**
 * How many frames later than it is decoded each frame of a track is shown, and by how many all are
 * moved so that none is shown before it is decoded.
 */
export function presentationDelays(frames: readonly EncodedFrame[]): {
  readonly offsets: readonly number[]
  readonly delay: number
} {
  const early = frames.map(({ shown = 0 }, index) => shown - index)
  const reordered = frames.some(({ shown }) => shown !== undefined)
  if (!reordered) return { offsets: frames.map(() => 0), delay: 0 }
  const delay = Math.max(0, -Math.min(...early))
  return { offsets: early.map((offset) => offset + delay), delay }
}
