import { useEffect, useRef } from 'react'
import { sceneAt } from '../../../../core/kinds/slideshow/scene'
import { cycleOf } from '../../../../core/kinds/slideshow/cycle'
import type { Slide } from '../../../../core/kinds/slideshow/Slideshow'
import type { Transition } from '../../../../core/kinds/slideshow/transition'
import { drawScene, type SlideImage } from '../../../worker/compose/drawSlides'

const SIZE = { width: 128, height: 72 } as const
const HOLD_SECONDS = 0.6
/** At rest: a moment at which both images are seen, or an image and the colour. */
const MIDDLE = 0.45
const THROUGH_COLOUR = 0.72

/** A transition on two of the designer's own images: half-way at rest, moving while looked at. */
export function TransitionPreview({
  transition,
  slides,
  pictures,
  playing,
}: {
  transition: Transition
  slides: readonly [Slide, Slide]
  pictures: ReadonlyMap<string, SlideImage>
  playing: boolean
}) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const [from, to] = slides
  useEffect(() => {
    const seconds = Math.max(0.3, Math.min(transition.seconds, 2))
    const shown = { ...transition, seconds }
    const cycle = cycleOf(
      [from, to].map(() => ({ holdSeconds: HOLD_SECONDS, transitionSeconds: seconds })),
    )
    const draw = (time: number): void => {
      const context = canvas.current?.getContext('2d')
      if (!context) return
      context.reset()
      drawScene(context, sceneAt(cycle, [shown, shown], time), SIZE, (slide) => {
        const each = slide === 0 ? from : to
        return {
          place: {
            ...each,
            tileWidth: each.tileWidth / 10,
            focal: each.focal?.focal ?? { x: 0.5, y: 0.5 },
            pan: null,
          },
          picture: pictures.get(each.sourceId) ?? null,
        }
      })
    }
    if (!playing || matchMedia('(prefers-reduced-motion: reduce)').matches) {
      const share = transition.style === 'through-colour' ? THROUGH_COLOUR : MIDDLE
      draw(HOLD_SECONDS + seconds * share)
      return
    }
    let handle = 0
    let start = 0
    const step = (now: number): void => {
      start ||= now
      draw((now - start) / 1000)
      handle = requestAnimationFrame(step)
    }
    handle = requestAnimationFrame(step)
    return () => cancelAnimationFrame(handle)
  }, [transition, from, to, pictures, playing])
  return <canvas ref={canvas} aria-hidden {...SIZE} className="aspect-video w-full bg-ink" />
}
