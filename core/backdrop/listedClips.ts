import { minWindowWidth, type ScreenClass } from '../fit/screens'
import { FAMILIES, type Family } from '../weight/families'
import type { BackdropDocument } from './BackdropDocument'

/** The parts of a clip that decide which browsers take it. */
interface Offered {
  readonly screenClass: ScreenClass
  readonly family: Family
}

/**
 * A clip in the markup's list, with the narrowest window, in CSS pixels, that it is offered to; 0
 * for every window.
 */
export interface ListedClip<T extends Offered> {
  readonly clip: T
  readonly min: number
}

/**
 * The clips in the order of the markup: all screens, wide ones first, because browsers take the
 * first source that they can play in their window. The last one is an H.264 file offered to every
 * window, for browsers that play none of the other formats of their screen; if it is needed earlier
 * as well, it is listed twice.
 */
export function listedClips<T extends Offered>(
  { weight, behaviour }: BackdropDocument,
  clips: readonly T[],
): ListedClip<T>[] {
  const poster = behaviour.phone === 'poster'
  const delivered = clips.map((clip) => clip.screenClass)
  const fallback = clips.findLast(({ family }) => family === 'h264')
  const own = clips.map((clip) => ({
    clip,
    min: minWindowWidth(clip.screenClass, delivered, poster, weight.breakpoints),
  }))
  if (!fallback) return own
  return [
    ...(fallback === clips[clips.length - 1] ? own.slice(0, -1) : own),
    { clip: fallback, min: poster ? weight.breakpoints.phone + 1 : 0 },
  ]
}

/** Browsers by what they play: all know H.264. */
const BROWSERS: readonly (readonly Family[])[] = [
  FAMILIES,
  ['av1', 'h264'],
  ['vp9', 'h264'],
  ['h264'],
]

/** The clips that browsers take in windows of a class, for any set of supported formats. */
export function clipsTaken<T extends Offered>(
  screenClass: ScreenClass,
  document: BackdropDocument,
  clips: readonly T[],
): T[] {
  const { phone, laptop } = document.weight.breakpoints
  const window = { phone, laptop, wide: laptop + 1 }[screenClass]
  const listed = listedClips(document, clips).filter(({ min }) => min <= window)
  return [
    ...new Set(
      BROWSERS.flatMap(
        (plays) => listed.find(({ clip }) => plays.includes(clip.family))?.clip ?? [],
      ),
    ),
  ]
}
