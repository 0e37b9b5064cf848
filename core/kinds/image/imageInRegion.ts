import { focalOn } from '../../fit/focal'
import type { Fraction } from '../../Fraction'
import { sequenceFrom, type SlideshowSequence } from '../slideshow/slideshowSequence'
import { FIRST_TRANSITION } from '../slideshow/transition'
import type { FilledRegion, Sources } from '../Sources'
import { STILL_RATE } from '../Sequence'
import { drifts, type ImageBase } from './Image'
import { stillOf } from './imageSequence'

/** Frames a second of what is only measured: a pan is slow. */
const SEEN_RATE: Fraction = { num: 5, den: 1 }

/** Whether the style pans an image, shows it whole, repeats it or keeps it in place. */
const isPlaced = (base: ImageBase): boolean =>
  base.scrolling === 'fixed' || base.placing !== 'cover' || drifts(base)

/**
 * An image as visitors see it in a region, where the style pans it there and back (frames of the
 * way there: those of the way back are the same), shows it whole, repeats it, or keeps it in place
 * while the page scrolls: then as it is seen once the region fills the window, and one window
 * further down in a higher one. Null where it fills the region and stands still, or is not known.
 */
export function imageInRegion(
  base: ImageBase,
  known: Sources,
  { size, screenClass, focals, windowHeight, softened }: FilledRegion,
): SlideshowSequence | null {
  if (!isPlaced(base)) return null
  const { material, placing, tileWidth, background, opacity, scrolling, drift } = base
  const pan = drifts(base) ? { from: drift!.from, to: drift!.to } : null
  const still = stillOf({ sourceId: material.sourceId, background, opacity }, known)
  if (!still) return null
  const slide = {
    still: { ...still, vectorBytes: null },
    placing,
    tileWidth,
    background,
    focal: focalOn(focals, screenClass),
    pan,
    panEasing: 'ease-in-out' as const,
    holdSeconds: pan ? drift!.seconds / 2 : 1,
    transition: { ...FIRST_TRANSITION, seconds: 0 },
    everyHeight: scrolling === 'fixed' ? windowHeight : undefined,
    softened: softened?.[0] ?? undefined,
  }
  return sequenceFrom({
    slides: [slide],
    frameRate: pan ? SEEN_RATE : STILL_RATE,
    part: null,
    region: size,
  })
}
