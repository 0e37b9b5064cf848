import { useEffect } from 'react'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import type { LoadedSources } from '../../state/loadedSources'
import { useStage } from '../../state/stageStore'
import { contrastAt, scenesOf, useSlideContrasts, type SlideContrast } from './slideContrasts'
import { slidesOf } from './slidesOf'
import { useSlideView } from './slideView'
import { usePreviews } from './usePreviews'

/** Changes that follow one another quickly are measured together. */
const AFTER_MS = 250

/** Measures the heading over every slide, not only over the one on stage. */
export function WatchSlides({
  document,
  sources,
}: {
  document: DocumentOf<'slideshow'>
  sources: LoadedSources
}) {
  const place = useStage((state) => state.headingPlace)
  const needed = useStage((state) => state.needed)
  const setStage = useStage((state) => state.set)
  const pictures = usePreviews(slidesOf(document, sources).map(({ source }) => source))
  const { base, scrim, copy, fit } = document
  const key = JSON.stringify([base, scrim, copy.color, fit, place, pictures.size])
  useEffect(() => {
    const stopped = { is: false }
    const { set } = useSlideContrasts.getState()
    const measure = async (): Promise<void> => {
      if (!place) return
      const contrasts: SlideContrast[] = []
      for (const [index, slide] of document.base.slides.entries()) {
        // One slide at a time: the interface stays answering.
        await new Promise((resolve) => setTimeout(resolve))
        if (stopped.is) return
        const { full, middle } = scenesOf(document, index)
        const order = { document, place, pictures }
        const [one, other] = [contrastAt(order, full), contrastAt(order, middle)]
        if (one === null || other === null) return
        contrasts.push({ id: slide.id, full: one, middle: other })
      }
      set({ contrasts, key })
      setStage({ worst: worstOf(contrasts) })
    }
    const timer = setTimeout(() => void measure(), AFTER_MS)
    return () => {
      stopped.is = true
      clearTimeout(timer)
    }
    // The key holds everything that counts.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, needed])
  useEffect(
    () => () => {
      useSlideContrasts.getState().set({ contrasts: null, key: '' })
      useSlideView.getState().set({ selected: null, zoom: 1 })
      // What is shown next has no such moment.
      setStage({ worst: null, parkedSeconds: null })
    },
    [setStage],
  )
  return null
}

/** The worst moment, and where it is. */
export function worstOf(
  contrasts: readonly SlideContrast[],
): { readonly ratio: number; readonly where: string } | null {
  return contrasts.reduce<{ ratio: number; where: string } | null>((worst, each, index) => {
    const own =
      each.full <= each.middle
        ? { ratio: each.full, where: `slide ${index + 1}` }
        : { ratio: each.middle, where: `after slide ${index + 1}` }
    return worst === null || own.ratio < worst.ratio ? own : worst
  }, null)
}
