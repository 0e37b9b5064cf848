import { create } from 'zustand'
import { withLayer, type Scrim, type ScrimLayer } from '../../../core/scrim/Scrim'
import { useBackdrop } from '../../state/backdropStore'

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

/** The open layer, within what there is, and changes of it; `gesture` is the same during a drag. */
export function useScrim(scrim: Scrim) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const selection = useSelection()
  const index = Math.min(selection.layer, scrim.layers.length - 1)
  const layer = scrim.layers[index] ?? null
  const set = (changed: Scrim, gesture: string | null = null): void =>
    dispatch({ type: 'scrim/set', scrim: changed }, gesture)
  return {
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
