import { useEffect } from 'react'
import { isOf, type DocumentOf } from '../../../core/backdrop/BackdropDocument'
import type { SceneSlide } from '../../../core/kinds/slideshow/scene'
import { SLIDE_COUNT, wordsInTurn } from '../../../core/kinds/slideshow/Slideshow'
import type { LoadedSources } from '../../state/loadedSources'
import { useBackdrop } from '../../state/backdropStore'
import { useStage, type HeadingPlace } from '../../state/stageStore'
import { contrastAt, scenesOf, useSlideContrasts, type SlideContrast } from './slideContrasts'
import { followDropped } from './droppedSlides'
import { slidesOf } from './slidesOf'
import { useSlideView } from './slideView'
import { usePreviews } from './usePreviews'

/** Black on white. */
const MAX_CONTRAST = 21

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
  const places = useStage((state) => state.headingPlaces)
  const needed = useStage((state) => state.needed)
  const setStage = useStage((state) => state.set)
  const pictures = usePreviews(slidesOf(document, sources).map(({ source }) => source))
  const { base, tone, scrim, ownScrim, copy, fit } = document
  const looks = [base, tone, scrim, ownScrim, copy.color, fit]
  const key = JSON.stringify([looks, places, pictures.size])
  useEffect(() => {
    const stopped = { is: false }
    const { set } = useSlideContrasts.getState()
    const measure = async (): Promise<void> => {
      if (places.length === 0) return
      const contrasts: SlideContrast[] = []
      for (const [index, slide] of document.base.slides.entries()) {
        // One slide at a time: the interface stays answering.
        await new Promise((resolve) => setTimeout(resolve))
        if (stopped.is) return
        const { full, middle } = scenesOf(document, index)
        const place = placeOver(document, places, index)
        const next = placeOver(document, places, (index + 1) % document.base.slides.length)
        const over = (each: HeadingPlace, scene: readonly SceneSlide[]): number | null =>
          // A slide without a heading has nothing to be lost.
          each.width === 0 ? MAX_CONTRAST : contrastAt({ document, place: each, pictures }, scene)
        const one = over(place, full)
        const others = [...new Set([place, next])].map((each) => over(each, middle))
        if (one === null || others.includes(null)) return
        // Half-way both headings are there, faintly.
        contrasts.push({ id: slide.id, full: one, middle: Math.min(...(others as number[])) })
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
  const dispatch = useBackdrop((state) => state.dispatch)
  useEffect(
    () =>
      followDropped(() => {
        const now = useBackdrop.getState().document
        return now && isOf(now, 'slideshow') ? SLIDE_COUNT.max - now.base.slides.length : 0
      }, dispatch),
    [dispatch],
  )
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

/** Where the heading in front of a slide is. */
function placeOver(
  { base }: DocumentOf<'slideshow'>,
  places: readonly HeadingPlace[],
  index: number,
): HeadingPlace {
  const turn = wordsInTurn(base).findIndex(({ slides }) => slides.includes(index))
  return places[Math.max(0, turn)] ?? places[0]!
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
