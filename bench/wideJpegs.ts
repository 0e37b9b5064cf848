import type { DeliveredPoster } from '../core/kinds/DeliveredMedia'

/** One JPEG for all screens each, of slides or of a single image. */
export const wideJpegs = (urls: readonly string[], areSlides: boolean): DeliveredPoster[] =>
  urls.map((url, slide) => ({
    screenClass: 'wide',
    density: 1,
    ...(areSlides && { slide }),
    format: 'jpeg',
    url,
    width: 1920,
    height: 1080,
    bytes: 1,
  }))
