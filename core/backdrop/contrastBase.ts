import { coverRect, regionHeightPx, type Point, type Size } from '../fit/cover'
import { classOfWindow, focalOn } from '../fit/focal'
import { SCREEN_CLASSES, SCREENS, type ScreenName } from '../fit/screens'
import { kindOf, type AnySequence } from '../kinds'
import { stillOf } from '../kinds/image/imageSequence'
import type { Sources } from '../kinds/Kind'
import { sequenceKey, toned } from '../kinds/Sequence'
import type { PartBlur } from '../picture/blurI420'
import type { BackdropDocument } from './BackdropDocument'
import { fileTone, picturesOf, renderHindrance, sequenceOf, styleTone } from './delivered'
import { classServing, posterRecipes, renditionOf, softParts } from './recipe'

/** What is behind copy on a screen. */
export interface BaseOnScreen {
  /** Equal exactly when the frames are. */
  readonly key: string
  readonly sequence: AnySequence
  readonly copyBlur: PartBlur | null
  /** The size that covers the region; null where frames have no shape of their own. */
  readonly picture: Size | null
  readonly focal: Point
  /** Whether the screen shows the first frame alone, without particles. */
  readonly isStill: boolean
}

/**
 * The frames that a screen shows behind the copy, cut and blurred as its files are; null where its
 * sources are not known. `region` is how large the screen lays the region out.
 */
export function baseOnScreen(
  document: BackdropDocument,
  known: Sources,
  screen: ScreenName,
  region: Size = windowRegion(document, screen),
): BaseOnScreen | null {
  const { behaviour, weight } = document
  const isPhone = classOfWindow(SCREENS[screen].width, weight.breakpoints) === 'phone'
  if (!isPhone || behaviour.phone !== 'poster')
    return wholeOnScreen(document, known, screen, region)
  const own = shelfPoster(document, known, screen)
  if (own) return own
  const found = wholeOnScreen(fromPoster(document), known, screen, region)
  if (!found) return null
  return {
    ...found,
    key: `first of ${found.key}`,
    sequence: { ...found.sequence, frames: 1 },
    isStill: true,
  }
}

const CENTRE: Point = { x: 0.5, y: 0.5 }

/**
 * A poster that is an image from the shelf, cut to the shape of the files as they are; null where
 * the poster is another one, or its image is not known.
 */
function shelfPoster(
  document: BackdropDocument,
  known: Sources,
  screen: ScreenName,
): BaseOnScreen | null {
  const { base, fit, poster, weight } = document
  const { picture } = poster
  if (picture.kind !== 'source' || !picturesOf(document)?.chosen) return null
  const own = classOfWindow(SCREENS[screen].width, weight.breakpoints)
  const posters = posterRecipes(document, known)
  const placed = posters.find(({ screenClass }) => screenClass === own) ?? posters[0]
  const image = known.get(picture.sourceId)
  if (!placed || !image) return null
  const { width, height, copyBlur } = placed.recipe
  const { shown } = coverRect(image, { width, height }, CENTRE)
  const part = {
    x: shown.x / image.width,
    y: shown.y / image.height,
    width: shown.width / image.width,
    height: shown.height / image.height,
  }
  const background = base.kind === 'footage' ? base.picture.matte : '#ffffff'
  const still = { sourceId: picture.sourceId, background, opacity: 1 }
  const plain = stillOf(still, known, part)
  const sequence = plain && toned(plain, fileTone(document) ?? styleTone(document))
  return (
    sequence && {
      key: JSON.stringify([sequenceKey(sequence), copyBlur]),
      sequence,
      copyBlur,
      picture: { width, height },
      focal: focalOn(fit, own),
      isStill: true,
    }
  )
}

/** The document so that its poster, where that is a frame of its clip, is its first frame. */
function fromPoster(document: BackdropDocument): BackdropDocument {
  const { base, poster } = document
  const { picture } = poster
  if (picture.kind !== 'frame' || base.kind !== 'footage') return document
  const { ticks, timescale } = picture
  const timing = {
    ...base.timing,
    cut: { timescale, start: ticks, end: ticks + timescale },
    speed: 1,
    seam: { ...base.timing.seam, kind: 'straight' as const },
  }
  return { ...document, base: { ...base, timing } }
}

function wholeOnScreen(
  document: BackdropDocument,
  known: Sources,
  screen: ScreenName,
  region: Size,
): BaseOnScreen | null {
  const { base, fit, weight } = document
  const own = classOfWindow(SCREENS[screen].width, weight.breakpoints)
  const enabled = SCREEN_CLASSES.filter((each) => weight.renditions[each].enabled)
  const screenClass = classServing(own, enabled) ?? own
  const below = kindOf(base).seenIn?.(base, known, {
    size: { width: Math.round(region.width), height: Math.round(region.height) },
    screenClass: own,
    focals: fit,
    windowHeight: SCREENS[screen].height,
    softened: softParts(document, known, screenClass),
  })
  // What files have and what the browser makes look the same.
  const seen = below && toned(below, fileTone(document) ?? styleTone(document))
  if (seen)
    return {
      key: sequenceKey(seen),
      sequence: seen,
      copyBlur: null,
      picture: seen.size,
      focal: { x: 0.5, y: 0.5 },
      isStill: false,
    }
  if (renderHindrance(base) !== null) return null
  if (!sequenceOf(document, known, { screenClass })) return null
  const { part, copyBlur } = renditionOf(document, known, screenClass)
  // A crop for a class of screens shows what its screens show of the whole picture; blur is placed
  // in what is left of it.
  const made = sequenceOf(document, known, {
    screenClass,
    ...(part && copyBlur && { part }),
  })
  if (!made) return null
  const sequence = toned(made, styleTone(document))
  return {
    key: JSON.stringify([sequenceKey(sequence), copyBlur]),
    sequence,
    copyBlur,
    // Gradients fill whatever region there is.
    picture: sequence.kind === 'paint' ? null : sequence.size,
    focal: focalOn(fit, own),
    isStill: false,
  }
}

/** The region as the window of a screen alone makes it. */
const windowRegion = ({ fit }: BackdropDocument, screen: ScreenName): Size => {
  const { width, height } = SCREENS[screen]
  return { width, height: regionHeightPx(fit.height, height) }
}

/** Equal exactly when copy lies in the same places, in front of the same frames and scrim. */
export const contrastKey = ({
  base,
  particles,
  copy,
  tone,
  scrim,
  ownScrim,
  fit,
  weight: { renditions, breakpoints },
  poster: { picture },
  behaviour: { pauseControl, phone },
  handoff: { lang, headingLevel },
}: BackdropDocument): string =>
  JSON.stringify([
    base,
    particles,
    copy,
    tone,
    scrim,
    ownScrim,
    fit,
    Object.values(renditions).map(({ enabled, crop, copyBlur }) => [enabled, crop, copyBlur]),
    breakpoints,
    pauseControl,
    phone === 'poster' && picture,
    lang,
    headingLevel,
  ])
