import type { ScreenClass } from '../fit/screens'
import type { Family } from '../weight/families'

/** A clip as the markup refers to it. */
export interface DeliveredClip {
  readonly screenClass: ScreenClass
  readonly family: Family
  readonly container: 'mp4' | 'webm'
  /** Its address, relative to the page. */
  readonly url: string
  /** The codec string that the bitstream itself declares (RFC 6381). */
  readonly codec: string
  readonly width: number
  readonly height: number
  readonly bytes: number
}

/** A poster, or a base's own image, as the markup refers to it. */
export interface DeliveredPoster {
  /** Which of a base's pictures it is of, where that has several, counted from 0. */
  readonly slide?: number
  readonly screenClass: ScreenClass
  /** Device pixels for each CSS pixel that it is made for: 1, or 2 where it is an image. */
  readonly density: number
  readonly format: 'avif' | 'webp' | 'jpeg' | 'svg'
  readonly url: string
  readonly width: number
  readonly height: number
  readonly bytes: number
}

/**
 * Shown until the poster has loaded: a picture of 20 pixels' width, and the mean colour behind it.
 */
export interface Placeholder {
  readonly dataUrl: string
  /** `#rrggbb`. */
  readonly colour: string
}

/**
 * All files that a backdrop plays and shows. On the stage the clip may be a proof, and posters may
 * be missing.
 */
export interface DeliveredMedia {
  readonly clips: readonly DeliveredClip[]
  readonly posters: readonly DeliveredPoster[]
  readonly placeholder: Placeholder | null
}

/** The MIME type with its codecs, as `<source type>` wants it. */
export function typeOf(clip: Pick<DeliveredClip, 'container' | 'codec'>): string {
  return `video/${clip.container}; codecs="${clip.codec}"`
}
