import type { PersonalKind } from '../MediaFile'

/** What is known of an image without decoding its pixels. */
export interface ImageFile {
  readonly format: 'jpeg' | 'png' | 'webp' | 'avif' | 'gif' | 'svg'
  readonly bytes: number
  /** As stored, in pixels; for SVG its own size in CSS pixels. */
  readonly width: number
  readonly height: number
  /** EXIF's orientation, 1 to 8: how the stored picture is turned and mirrored to be upright. */
  readonly orientation: number
  /** Size once upright. */
  readonly displayWidth: number
  readonly displayHeight: number
  /** Bits a channel; 0 for SVG, which has none. */
  readonly bitDepth: number
  readonly alpha: boolean
  /** Name of the colour profile; null if the file has none, which means sRGB. */
  readonly profile: string | null
  readonly progressive: boolean
  /**
   * Whether it moves by itself (an SVG with animation). Animated GIF and WebP are clips, not
   * images.
   */
  readonly animated: boolean
  readonly personal: readonly PersonalKind[]
}

/**
 * Sides as shown for an EXIF orientation: 5 to 8 lie on their side. Source: CIPA DC-008 (Exif
 * 2.32), clause 4.6.4, tag 0x0112.
 */
export function uprightSize(
  width: number,
  height: number,
  orientation: number,
): { displayWidth: number; displayHeight: number } {
  return orientation >= 5
    ? { displayWidth: height, displayHeight: width }
    : { displayWidth: width, displayHeight: height }
}
