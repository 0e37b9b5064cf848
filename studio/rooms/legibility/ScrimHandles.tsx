import { moveScrimStop } from '../../../core/scrim/editScrim'
import { GradientHandles } from '../../ui/GradientHandles'
import type { StageArea } from './StageArea'
import { openScrim, useScrim } from './useScrim'

/** The open layer of the scrim on the stage, where it is a gradient. */
export function ScrimHandles({ document, width, height }: StageArea) {
  const { layer, stop, onStage, setLayer } = useScrim(document)
  if (!onStage || (layer?.shape !== 'linear' && layer?.shape !== 'radial')) return null
  return (
    <GradientHandles
      gradient={{ ...layer, shape: layer.shape }}
      {...{ width, height }}
      open={stop}
      onOpen={(next) => openScrim({ stop: next })}
      onChange={setLayer}
      onMove={(moved, at, gesture) => setLayer(moveScrimStop(layer, moved, at), gesture)}
    />
  )
}
