import { copyBox, type CopyWords } from '../copy/copyBox'
import { keptHeight, keptWidth, regionHeightPx, type Point, type Size } from '../fit/cover'
import {
  SCREEN_CLASSES,
  type Breakpoints,
  type ClassScreen,
  type ScreenClass,
} from '../fit/screens'
import type { ShareRect } from '../picture/pictureShape'
import { hidingAt } from '../scrim/scrimAt'
import type { Scrim } from '../scrim/Scrim'
import { even } from './renditionSize'

/** Height of a region as documents have it. */
type RegionHeight = Parameters<typeof regionHeightPx>[0]

/**
 * Windows of each class as width over height: the narrowest and the widest that are supported.
 * Phones are held upright.
 */
const WINDOW_ASPECTS: Readonly<Record<ScreenClass, readonly [number, number]>> = {
  phone: [0.42, 0.7],
  laptop: [0.6, 2.2],
  wide: [1.3, 2.6],
}
/** The narrowest window that is thought of, and the widest, in CSS pixels. */
const NARROWEST = 320
const WIDEST = 2560
/** A crop that removes less than this share of the picture does not justify separate files. */
const MIN_SAVING = 0.12

/**
 * The aspects, width over height, that a region of this height takes in the windows of some
 * classes: the narrowest and the flattest.
 */
function regionAspects(
  height: RegionHeight,
  breakpoints: Breakpoints,
  classes: readonly ScreenClass[],
): readonly [number, number] {
  const all = classes.map((each) => aspectsOf(height, breakpoints, each))
  return [Math.min(...all.map(([tall]) => tall)), Math.max(...all.map(([, flat]) => flat))]
}

function aspectsOf(
  height: RegionHeight,
  breakpoints: Breakpoints,
  screenClass: ScreenClass,
): readonly [number, number] {
  const [tall, flat] = WINDOW_ASPECTS[screenClass]
  if (height.unit === 'svh') return [(tall * 100) / height.value, (flat * 100) / height.value]
  const from =
    screenClass === 'phone'
      ? NARROWEST
      : screenClass === 'laptop'
        ? breakpoints.phone + 1
        : breakpoints.laptop + 1
  const to =
    screenClass === 'phone'
      ? breakpoints.phone
      : screenClass === 'laptop'
        ? breakpoints.laptop
        : WIDEST
  return [from / height.value, to / height.value]
}

/**
 * The part of a picture that the windows of some classes can show around the focal point; the rest
 * is cut off. Null if that would save almost nothing. The crop divides what is cut off as
 * `object-position` does, so the same focal point shows the same part of the cropped picture as of
 * the whole one; with different points on those screens (null) nothing is cut off. Throws
 * RangeError without classes.
 */
export function screenCrop(
  picture: Size,
  height: RegionHeight,
  breakpoints: Breakpoints,
  focal: Point | null,
  classes: readonly ScreenClass[],
): ShareRect | null {
  if (classes.length === 0) throw new RangeError('a crop is made for some windows')
  if (!focal) return null
  const [tall, flat] = regionAspects(height, breakpoints, classes)
  const width = keptWidth(picture, { width: flat, height: 1 })
  const high = keptHeight(picture, { width: tall, height: 1 })
  if (width * high > 1 - MIN_SAVING) return null
  return { x: (1 - width) * focal.x, y: (1 - high) * focal.y, width, height: high }
}

/**
 * A scrim this strong hides the finest detail: where it hides it on so much of the region, a
 * smaller picture looks the same. Behind words less is enough: they draw the eye.
 */
const HIDING_SCRIM = 0.6
const HIDING_BEHIND_COPY = 0.4
const MAINLY_HIDDEN = 0.4
const BEHIND_SCRIM = 0.8
/** The region is looked at in so many places each way. */
const LOOKS = 12

/** What a ladder is proposed from. */
export interface ProposalInput {
  /** The picture that is delivered, before it is cropped for a screen. */
  readonly picture: Size
  /**
   * The share of its width that really holds detail: below 1 where the source is larger than what
   * it shows.
   */
  readonly detail: number
  readonly height: RegionHeight
  readonly breakpoints: Breakpoints
  /** The focal point of the windows that a class's files are for; null where they differ. */
  readonly focalOf: (screenClass: ScreenClass) => Point | null
  readonly scrim: Scrim
  /** What the files of each class are made for: the project's own. */
  readonly screens: Readonly<Record<ScreenClass, ClassScreen>>
  /** The words before the picture: where they stand decides what of it is hidden. */
  readonly copy: CopyWords
  /**
   * The classes whose windows show the files of a class; its own alone where all have files of
   * their own.
   */
  readonly servedBy?: (screenClass: ScreenClass) => readonly ScreenClass[]
}

/**
 * The share of a class's region in which scrim, or scrim and copy together, hide the finest detail.
 */
function hiddenShare(
  { height, scrim, copy }: Pick<ProposalInput, 'height' | 'scrim' | 'copy'>,
  window: Size,
): number {
  const box = copyBox(copy, height, window)
  const region = { width: window.width, height: regionHeightPx(height, window.height) }
  const hiding = hidingAt(scrim, region.width, region.height)
  let hidden = 0
  for (let row = 0; row < LOOKS; row++) {
    for (let column = 0; column < LOOKS; column++) {
      const [x, y] = [(column + 0.5) / LOOKS, (row + 0.5) / LOOKS]
      const behindCopy =
        x >= box.x && x <= box.x + box.width && y >= box.y && y <= box.y + box.height
      if (
        hiding(x * region.width, y * region.height) >=
        (behindCopy ? HIDING_BEHIND_COPY : HIDING_SCRIM)
      )
        hidden += 1
    }
  }
  return hidden / LOOKS ** 2
}

/** What is proposed for a class. */
export interface ProposedRow {
  readonly width: number
  readonly crop: 'whole' | 'screen'
}

/**
 * Files for each class: cropped to what its windows can show, just wide enough to cover the largest
 * of them, and never larger than the source's own detail.
 */
export function proposeRenditions({
  picture,
  detail,
  height,
  breakpoints,
  focalOf,
  scrim,
  copy,
  screens,
  servedBy = (screenClass) => [screenClass],
}: ProposalInput): Record<ScreenClass, ProposedRow> {
  const propose = (screenClass: ScreenClass): ProposedRow => {
    const crop = screenCrop(
      picture,
      height,
      breakpoints,
      focalOf(screenClass),
      servedBy(screenClass),
    )
    const cropped = {
      width: picture.width * (crop?.width ?? 1),
      height: picture.height * (crop?.height ?? 1),
    }
    const window = screens[screenClass]
    const density =
      window.density *
      (hiddenShare({ height, scrim, copy }, window) >= MAINLY_HIDDEN ? BEHIND_SCRIM : 1)
    const scale =
      Math.max(
        window.width / cropped.width,
        regionHeightPx(height, window.height) / cropped.height,
      ) * density
    return {
      width: Math.max(160, even(cropped.width * Math.min(1, detail, scale))),
      crop: crop ? 'screen' : 'whole',
    }
  }
  return Object.fromEntries(SCREEN_CLASSES.map((each) => [each, propose(each)])) as Record<
    ScreenClass,
    ProposedRow
  >
}
