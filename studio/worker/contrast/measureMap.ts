import type { ScreenView } from '../../../core/legibility/CopySamples'
import { loopMap, type MapCell } from '../../../core/legibility/loopMap'
import { parseHex } from '../../../core/picture/srgb'
import type { OpenSequence } from '../sequences/OpenSequence'
import type { ContrastBase, ContrastScreen } from './ContrastOrder'
import type { ContrastTraces } from './ContrastTraces'

/** Where copy of a colour fails on a screen over the whole loop. */
export interface MapOrder {
  readonly base: ContrastBase
  readonly screen: Pick<ContrastScreen, 'layout' | 'focal' | 'scrim'>
  readonly color: string
}

/** The least contrast in each part of a region, from the trace. Errors: those of decoding. */
export async function measureMap(
  { base, screen, color }: MapOrder,
  open: (base: ContrastBase) => Promise<OpenSequence>,
  traces: ContrastTraces,
  signal: AbortSignal,
): Promise<{ readonly map: readonly MapCell[] }> {
  const { layout, focal } = screen
  const view: ScreenView = { ...layout, picture: base.picture, focal }
  // The map needs no tiles: what is there already suffices.
  const trace = await traces.get(
    base,
    [],
    () => open(base),
    signal,
    () => undefined,
  )
  return { map: loopMap(trace, view, screen.scrim, parseHex(color)) }
}
