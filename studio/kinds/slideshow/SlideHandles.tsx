import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import type { Point } from '../../../core/fit/cover'
import { classOfWindow, focalOn, isFocalClass, withFocal } from '../../../core/fit/focal'
import { SCREENS } from '../../../core/fit/screens'
import { shownAt, type Cycle } from '../../../core/kinds/slideshow/cycle'
import { focalsOf, panOf, slideCycle, type Slide } from '../../../core/kinds/slideshow/Slideshow'
import { FocalPoint } from '../../rooms/fit/FocalPoint'
import { FOCAL_WORDS } from '../../rooms/fit/useFocal'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'
import type { HandlesProps } from '../KindView'
import { PanFrames } from '../pan/PanFrames'
import { useSlideView } from './slideView'

type Props = Omit<HandlesProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** What is dragged of the chosen slide on the stage: its focal point, and both views of its pan. */
export function SlideHandles(props: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const selected = useSlideView((state) => state.selected)
  const { base } = props.document
  const parked = useStage((state) => state.parkedSeconds)
  const index = base.slides.findIndex(({ id }) => id === selected)
  const slide = base.slides[index]
  // On another slide, or on one that goes by, they would point at nothing.
  if (!slide || parked === null || nearest(slideCycle(base), parked) !== index) return null
  const pan = panOf(slide)
  return (
    <>
      {pan && (
        <PanFrames
          pan={pan}
          width={props.width}
          height={props.height}
          onChange={(next, gesture) =>
            dispatch({ type: 'slides/set', id: slide.id, slide: { pan: next } }, gesture)
          }
        />
      )}
      {slide.placing !== 'tile' && <SlideFocal {...props} slide={slide} />}
    </>
  )
}

/** The slide of which most is seen at a moment of the cycle. */
function nearest(cycle: Cycle, seconds: number): number {
  const { slide, next, progress } = shownAt(cycle, seconds)
  return progress > 0.5 ? next : slide
}

/** A slide that shares the backdrop's focal point gets its own once that is moved. */
function SlideFocal({
  document: { base, fit, weight },
  slide,
  width,
  height,
}: Props & { readonly slide: Slide }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const screen = useStage((state) => state.screen)
  const screenClass = classOfWindow(SCREENS[screen].width, weight.breakpoints)
  const focals = focalsOf(slide, fit)
  const own = isFocalClass(screenClass) && focals.ownFocal[screenClass] ? screenClass : null
  const move = (point: Point, gesture: string): void =>
    dispatch(
      {
        type: 'slides/set',
        id: slide.id,
        slide: { focal: withFocal(focals, own, point) },
      },
      gesture,
    )
  const number = base.slides.indexOf(slide) + 1
  return (
    <FocalPoint
      label={`Focal point of slide ${number}${own ? ` on ${FOCAL_WORDS[own]}` : ''}`}
      point={focalOn(focals, screenClass)}
      width={width}
      height={height}
      onMove={move}
    />
  )
}
