import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { baseOnScreen } from '../../core/backdrop/contrastBase'
import { liveParticlesOf } from '../../core/backdrop/delivered'
import { SCREEN_NAMES } from '../../core/fit/screens'
import { contrastMoments } from '../../core/legibility/contrastMoments'
import { scrimOn } from '../../core/backdrop/scrimOn'
import { prepare } from '../../core/particles/prepare'
import type { LoadedSources } from '../state/loadedSources'
import type { ScreenLayouts } from './LayoutPage'
import type { ContrastBase, ContrastOrder, ContrastScreen } from '../worker/contrast/ContrastOrder'
import { drawnPlaces } from '../worker/vectorPlace'

/** What is measured of a document; null where its frames are not known. */
export async function contrastOrder(
  document: BackdropDocument,
  { known, places }: Pick<LoadedSources, 'known' | 'places'>,
  layouts: ScreenLayouts,
): Promise<ContrastOrder | null> {
  const bases: ContrastBase[] = []
  const screens: ContrastScreen[] = []
  const definition = liveParticlesOf(document)
  for (const name of SCREEN_NAMES) {
    const layout = layouts[name]
    const base = baseOnScreen(document, known, name, layout.region)
    if (!base) return null
    const picture = base.picture ?? layout.region
    const key = base.picture ? base.key : JSON.stringify([base.key, picture])
    const found = bases.findIndex((each) => each.key === key)
    screens.push({
      name,
      base: found < 0 ? bases.length : found,
      layout,
      focal: base.focal,
      scrim: scrimOn(document, name),
      isStill: base.isStill,
    })
    if (found >= 0) continue
    const { sequence, copyBlur } = base
    bases.push({
      key,
      sequence,
      copyBlur,
      picture,
      places: await drawnPlaces({ sequence, width: picture.width }, places),
    })
  }
  return {
    bases,
    screens,
    // Bases differ in crop and blur, never in time; but one may stand still.
    moments: contrastMoments(
      bases
        .map(({ sequence }) => sequence)
        .reduce((one, other) => (other.frames > one.frames ? other : one)),
      definition && {
        period: definition.period,
        frameRate: document.particles!.frameRate,
      },
    ),
    particles: definition && {
      key: JSON.stringify(definition),
      prepared: prepare(definition),
    },
  }
}
