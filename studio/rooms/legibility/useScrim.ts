import { create } from 'zustand'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { scrimOf, scrimPartOn } from '../../../core/backdrop/scrimOn'
import { withLayer, type Scrim, type ScrimLayer } from '../../../core/scrim/Scrim'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'

interface Selection {
  readonly layer: number
  readonly stop: number
  /** Whether its handles are on the stage: who reads the copy there wants nothing over it. */
  readonly onStage: boolean
}

/** Which layer of the scrim and which of its stops bench and stage show. */
const useSelection = create<Selection>()(() => ({ layer: 0, stop: 0, onStage: false }))

/** Opens a layer or a stop, with its handles. */
export const openScrim = (selection: Partial<Selection>): void =>
  useSelection.setState({ onStage: true, ...selection })

/**
 * The scrim of the stage's screen and its open layer, within what there is, and changes of it;
 * `gesture` is the same during a drag.
 */
export function useScrim(document: BackdropDocument) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const screen = useStage((state) => state.screen)
  const part = scrimPartOn(document, screen)
  const scrim = scrimOf(document, part)
  const selection = useSelection()
  const index = Math.min(selection.layer, scrim.layers.length - 1)
  const layer = scrim.layers[index] ?? null
  const set = (changed: Scrim, gesture: string | null = null): void =>
    dispatch({ type: part === 'phone' ? 'scrim/own' : 'scrim/set', scrim: changed }, gesture)
  return {
    part,
    scrim,
    index,
    layer,
    onStage: selection.onStage,
    stop: Math.min(selection.stop, (layer?.stops.length ?? 1) - 1),
    set,
    setLayer: (fields: Partial<ScrimLayer>, gesture: string | null = null): void => {
      if (layer) set(withLayer(scrim, index, { ...layer, ...fields }), gesture)
    },
  }
}
