import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import type { View } from '../../../../core/kinds/image/Image'
import { panOf } from '../../../../core/kinds/slideshow/Slideshow'
import { useBackdrop } from '../../../state/backdropStore'
import { ViewFrame } from '../../image/PanHandles'
import type { HandlesProps } from '../../KindView'
import { useSlideView } from '../slideView'

type Props = Omit<HandlesProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** The start and end views of the chosen slide as frames on the stage. */
export function PanFrames({ document: { base }, width, height }: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const selected = useSlideView((state) => state.selected)
  const slide = base.slides.find(({ id }) => id === selected)
  const pan = slide && panOf(slide)
  if (!slide || !pan) return null
  const change = (which: 'from' | 'to') => (view: View, gesture: string) =>
    dispatch(
      { type: 'slides/set', id: slide.id, slide: { pan: { ...pan, [which]: view } } },
      gesture,
    )
  return (
    <div className="pointer-events-none absolute top-0 left-0" style={{ width, height }}>
      <ViewFrame
        name="Start view"
        view={pan.from}
        className="border-white"
        onChange={change('from')}
      />
      <ViewFrame
        name="End view"
        view={pan.to}
        className="border-dashed border-white"
        onChange={change('to')}
      />
    </div>
  )
}
