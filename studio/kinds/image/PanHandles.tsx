import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { drifts } from '../../../core/kinds/image/Image'
import { useBackdrop } from '../../state/backdropStore'
import type { HandlesProps } from '../KindView'
import { PanFrames } from '../pan/PanFrames'

type Props = Omit<HandlesProps, 'document'> & { readonly document: DocumentOf<'image'> }

/** The start and end views of the image on the stage. */
export function PanHandles({ document: { base }, width, height }: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  if (!drifts(base)) return null
  const drift = base.drift!
  return (
    <PanFrames
      pan={drift}
      width={width}
      height={height}
      onChange={(pan, gesture) =>
        dispatch({ type: 'image/set', image: { drift: { ...drift, ...pan } } }, gesture)
      }
    />
  )
}
