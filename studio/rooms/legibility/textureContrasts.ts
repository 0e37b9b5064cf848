import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { scrimOf, scrimPartOn } from '../../../core/backdrop/scrimOn'
import type { ScreenName } from '../../../core/fit/screens'
import { worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { withLayer, type Scrim } from '../../../core/scrim/Scrim'
import type { Pattern } from '../../../core/texture/Texture'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import type { LoadedSources } from '../../state/loadedSources'
import { withScrims } from '../../worker/contrast/ContrastOrder'
import { measuredIn } from './weakestScrim'

/** What a layer can be of: one of the patterns, or nothing at all. */
export type Offered = Pattern | 'none'

/**
 * What copy has at least with each pattern in a layer's place, and without the layer, on the
 * screens that have its scrim: at the times at which it is read worst now or without the layer.
 * Each is told as it is found; false where nothing is measured. Errors: those of measuring.
 */
export async function textureContrasts(
  document: BackdropDocument,
  sources: LoadedSources,
  screen: ScreenName,
  index: number,
  patterns: readonly Pattern[],
  signal: AbortSignal,
  onFound: (offered: Offered, worst: WorstMoment | null) => void,
): Promise<boolean> {
  const layouts = await laidOut((page) => page.measure(document))
  const whole = await contrastOrder(document, sources, layouts)
  if (!whole) return false
  const part = scrimPartOn(document, screen)
  const scrim = scrimOf(document, part)
  const layer = scrim.layers[index]!
  const screens = whole.screens.filter(({ name }) => scrimPartOn(document, name) === part)
  const without: Scrim = { layers: scrim.layers.toSpliced(index, 1) }
  const measured = (moments: typeof whole.moments, tried: Scrim): Promise<readonly WorstMoment[]> =>
    measuredIn(
      withScrims({ ...whole, screens, moments }, () => tried),
      signal,
    )
  const [now, bare] = [await measured(whole.moments, scrim), await measured(whole.moments, without)]
  onFound('none', worstOfAll(bare))
  const times = new Set([...now, ...bare].map(({ seconds }) => seconds))
  const moments = whole.moments.filter(({ seconds }) => times.has(seconds))
  for (const pattern of patterns) {
    const { scale } = layer.texture
    const texture = pattern === 'own' ? layer.texture : { pattern, scale, tile: null }
    const found = await measured(moments, withLayer(scrim, index, { ...layer, texture }))
    onFound(pattern, worstOfAll(found))
  }
  return true
}
