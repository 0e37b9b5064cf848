import type { ScreenClass } from '../fit/screens'

/** A clip as the markup refers to it. */
export interface DeliveredClip {
  readonly screenClass: ScreenClass
  readonly family: 'vp9' | 'h264'
  /** Where it lies, from the page. */
  readonly url: string
  /** The codec string that the bitstream itself declares (RFC 6381). */
  readonly codec: string
  readonly width: number
  readonly height: number
  readonly bytes: number
}

/** A still as the markup refers to it. */
export interface DeliveredPoster {
  readonly format: 'webp' | 'jpeg'
  readonly url: string
  readonly width: number
  readonly height: number
  readonly bytes: number
}

/** All files a backdrop plays and shows. On the stage the clip may be a proof, and stills may be missing. */
export interface HandoffMedia {
  readonly clips: readonly DeliveredClip[]
  readonly posters: readonly DeliveredPoster[]
}

/** The MIME type with its codecs, as `<source type>` wants it. */
export function typeOf(clip: Pick<DeliveredClip, 'family' | 'codec'>): string {
  return `${clip.family === 'vp9' ? 'video/webm' : 'video/mp4'}; codecs="${clip.codec}"`
}
