import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { scrimPartOn, type ScrimPart } from '../../../core/backdrop/scrimOn'
import { SCREEN_NAMES } from '../../../core/fit/screens'
import { localScrims, textsBox } from '../../../core/legibility/localScrims'
import { isOneOf } from '../../../core/legibility/TextPlace'
import type { ScrimLayer } from '../../../core/scrim/Scrim'
import { laidOut } from '../../layout/laidOut'
import type { ScreenLayouts } from '../../layout/LayoutPage'
import { HEADER } from './Remedy'

/** What a layer takes from one that is fitted: its colour and strength stay. */
type Fitted = Pick<ScrimLayer, 'shape' | 'angleDeg' | 'centre' | 'radius' | 'stops'>

/**
 * A layer that lies behind the copy on all screens that have it, and fades out beyond: a radial one
 * as a soft spot, any other as a band. The header is left out: it is far away. Undefined where
 * there is no copy. Errors: those of laying it out.
 */
export async function fittedLayer(
  document: BackdropDocument,
  part: ScrimPart,
  layer: ScrimLayer,
): Promise<Fitted | undefined> {
  const layouts = await laidOut((page) => page.measure(document))
  return fittedTo(document, layouts, part, layer)
}

/** The same where the copy is laid out already. */
export function fittedTo(
  document: BackdropDocument,
  layouts: ScreenLayouts,
  part: ScrimPart,
  layer: ScrimLayer,
): Fitted | undefined {
  const own = SCREEN_NAMES.filter((name) => scrimPartOn(document, name) === part)
  const box = textsBox(
    own.map((name) => layouts[name]),
    (text) => !isOneOf(text, HEADER) && !isOneOf(text, AROUND),
  )
  if (!box) return undefined
  const kind = layer.shape === 'radial' ? 'spot' : 'band'
  const found = localScrims(box, layer.stops[0]!.color).find((each) => each.kind === kind)!
  const { shape, angleDeg, centre, radius, stops } = found.layer
  return { shape, angleDeg, centre, radius, stops }
}

/** Controls in corners of the region, and what lies at its end. */
const AROUND = ['Slide controls', 'Pause control', 'Link onward', 'Footer']
