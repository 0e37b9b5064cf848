import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { panOf } from '../../../core/kinds/slideshow/Slideshow'
import { useBackdrop } from '../../state/backdropStore'
import type { HandlesProps } from '../KindView'
import { PanFrames } from '../pan/PanFrames'
import { useSlideView } from './slideView'

type Props = Omit<HandlesProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** The start and end views of the chosen slide on the stage. */
export function SlidePanHandles({ document: { base }, width, height }: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const selected = useSlideView((state) => state.selected)
  const slide = base.slides.find(({ id }) => id === selected)
  const shown = slide && panOf(slide)
  if (!slide || !shown) return null
  return (
    <PanFrames
      pan={shown}
      width={width}
      height={height}
      onChange={(pan, gesture) =>
        dispatch({ type: 'slides/set', id: slide.id, slide: { pan } }, gesture)
      }
    />
  )
}
