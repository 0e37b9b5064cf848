import { minWindowWidth, type ScreenClass } from '../fit/screens'
import { FAMILIES, type Family } from '../weight/families'
import type { BackdropDocument } from './BackdropDocument'

/** A clip, as far as it decides who takes it. */
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
 * The clips as the markup lists them, from those of all screens, wide ones first: browsers take the
 * first that they play in their window. Last of all stands an H.264 that is offered to every
 * window, for browsers that know none of the finer formats of their own screen: where its place is
 * not the last, it stands there a second time.
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

/** The clips that browsers take in windows of a class, whatever formats they know. */
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
