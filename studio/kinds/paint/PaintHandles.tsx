import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { moveStop } from '../../../core/kinds/paint/editGradient'
import { GradientHandles } from '../../ui/GradientHandles'
import type { HandlesProps } from '../KindView'
import { useSelected } from './paintSelection'
import { usePaint } from './usePaint'

type Props = Omit<HandlesProps, 'document'> & { readonly document: DocumentOf<'paint'> }

/** The open gradient on the stage. */
export function PaintHandles({ document: { base }, width, height }: Props) {
  const { setGradient } = usePaint(base)
  const { index, stop: open, set } = useSelected(base.gradients)
  const gradient = base.gradients[index]
  if (!gradient) return null
  return (
    <GradientHandles
      {...{ gradient, width, height, open }}
      onOpen={(stop) => set({ stop })}
      onChange={(fields, gesture) => setGradient(index, { ...gradient, ...fields }, gesture)}
      onMove={(stop, at, gesture) => setGradient(index, moveStop(gradient, stop, at), gesture)}
    />
  )
}
