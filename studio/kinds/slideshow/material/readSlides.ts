import { CLASS_SCREENS } from '../../../../core/fit/screens'
import { kindOf } from '../../../../core/kinds'
import { describeSlideFinding } from '../../../../core/kinds/slideshow/slideFindings'
import type { Readout } from '../../../rooms/Balance'
import type { BalanceOf } from '../../ofKind'
import { findingsOf, slidesOf } from '../slidesOf'

/** How many slides there are, and the gravest problem with them. */
export function readSlides({ document, sources }: BalanceOf<'slideshow'>): Readout {
  const slides = slidesOf(document, sources)
  const figure = { figure: String(slides.length), unit: 'slides' }
  const lost = slides.find(({ source }) => source === null)
  if (lost) return { ...figure, note: `slide ${lost.number} has no image`, standing: 'fix' }
  const found = findingsOf(document, sources, CLASS_SCREENS.wide).find(
    ({ weight }) => weight === 'look',
  )
  if (found)
    return {
      ...figure,
      note: `${found.slide + 1}: ${describeSlideFinding(found).title.toLowerCase()}`,
      standing: 'look',
    }
  const grave = kindOf(document.base)
    .checks(document.base, sources.known)
    .find(({ weight }) => weight === 'fix')
  if (grave) return { ...figure, note: 'an image has a problem', standing: 'fix' }
  const narrowest = Math.min(...slides.map(({ source }) => source!.facts.displayWidth))
  return { ...figure, note: `narrowest ${narrowest} px`, standing: 'settled' }
}
