import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { COPY_PLACES, isSamePlace, type CopyPlace } from '../../../core/copy/copyPlace'
import { classOfWindow } from '../../../core/fit/focal'
import {
  SCREEN_CLASSES,
  SCREEN_NAMES,
  SCREENS,
  type ScreenClass,
  type ScreenName,
} from '../../../core/fit/screens'
import { leastInBoxes, type MapCell } from '../../../core/legibility/loopMap'
import { isOneOf } from '../../../core/legibility/TextPlace'
import { PERCENTILE } from '../../../core/scrim/frameContrast'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import type { ScreenLayouts } from '../../layout/LayoutPage'
import { frameWorker } from '../../state/frameWorker'
import type { LoadedSources } from '../../state/loadedSources'

/** The best place of the copy on a class of screens. */
export interface Suggestion {
  readonly screenClass: ScreenClass
  readonly place: CopyPlace
  /** What heading and text have there at least, in relation to what they need. */
  readonly share: number
  /** The same where the copy is now. */
  readonly shareNow: number
}

/** Texts in the colour of the copy. */
const WORDS = ['Heading', 'Text']

/**
 * For each class of screens the place at which heading and text are read best over the whole loop:
 * laid out in all nine, judged by the map of the least contrast. Null where nothing is measured.
 */
export async function suggestPlaces(
  document: BackdropDocument,
  sources: LoadedSources,
  signal: AbortSignal,
): Promise<Suggestion[] | null> {
  return laidOut(async (page) => {
    const layouts: { readonly place: CopyPlace; readonly on: ScreenLayouts }[] = []
    for (const place of COPY_PLACES) {
      if (signal.aborted) return null
      const places = { phone: place, laptop: place, wide: place }
      const moved = { ...document, copy: { ...document.copy, places } }
      layouts.push({ place, on: await page.measure(moved) })
    }
    const maps = await mapsOf(document, sources, layouts[0]!.on, signal)
    if (!maps) return null
    const { breakpoints } = document.weight
    return SCREEN_CLASSES.map((screenClass) => {
      const screens = SCREEN_NAMES.filter(
        (name) => classOfWindow(SCREENS[name].width, breakpoints) === screenClass,
      )
      const scored = layouts.map(({ place, on }) => ({
        place,
        share: Math.min(...screens.map((name) => shareOf(maps[name], on, name))),
      }))
      const now = document.copy.places[screenClass]
      const shareNow = scored.find(({ place }) => isSamePlace(place, now))!.share
      // A place that is hardly better is no reason to move.
      const best = scored.reduce((one, other) => (other.share > one.share ? other : one))
      return best.share > shareNow * 1.02
        ? { screenClass, ...best, shareNow }
        : { screenClass, place: now, share: shareNow, shareNow }
    })
  })
}

async function mapsOf(
  document: BackdropDocument,
  sources: LoadedSources,
  layouts: ScreenLayouts,
  signal: AbortSignal,
): Promise<Record<ScreenName, readonly MapCell[]> | null> {
  const order = await contrastOrder(document, sources, layouts)
  if (!order) return null
  const maps = await Promise.all(
    order.screens.map(async ({ name, base, layout, focal, scrim }) => {
      const { map } = await frameWorker().run(
        {
          type: 'contrast-map',
          base: order.bases[base]!,
          screen: { layout, focal, scrim },
          color: document.copy.color,
        },
        { signal },
      )
      return [name, map] as const
    }),
  )
  return Object.fromEntries(maps) as Record<ScreenName, readonly MapCell[]>
}

/** The least of heading and text on a screen, in relation to what each needs. */
function shareOf(map: readonly MapCell[], layouts: ScreenLayouts, name: ScreenName): number {
  const shares = layouts[name].texts
    .filter((text) => isOneOf(text, WORDS))
    .map(({ boxes, needed }) => (leastInBoxes(map, boxes, PERCENTILE) ?? 21) / needed)
  return Math.min(...shares, 21)
}
