import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import type { BrandColor } from '../../../core/brand/Brand'
import { isEnough } from '../../../core/legibility/worstOf'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import type { LoadedSources } from '../../state/loadedSources'
import { tryColors, tryPlaces } from './copyRemedies'
import { tryLetters } from './letterRemedies'
import { tryBlur, tryCut, tryPosters, trySlides } from './pictureRemedies'
import type { RemedySearch, RemedyStep } from './Remedy'
import { tryScrims } from './scrimRemedies'
import { smallPictures } from './smallPictures'
import { measuredIn } from './weakestScrim'

/**
 * Looks for changes after which all copy is read on all screens at all times: another colour or
 * position of the copy, the weakest layers of scrim, local and even, something around the letters,
 * blur behind the copy, a shorter cut, other slides and another poster. Copy in a locked colour of
 * the brand keeps it. Each is told as it is found. Gives whether anything could be measured.
 * Errors: those of measuring.
 */
export function findRemedies(
  document: BackdropDocument,
  sources: LoadedSources,
  brand: readonly BrandColor[],
  signal: AbortSignal,
  tell: (text: string) => void,
  onStep: (step: RemedyStep) => void,
): Promise<boolean> {
  return laidOut((page) => search({ document, sources, brand, page, signal, tell, onStep }))
}

async function search(wanted: RemedySearch): Promise<boolean> {
  const { document, sources, page, signal, tell, onStep } = wanted
  tell('Measuring')
  const layouts = await page.measure(document)
  const order = await contrastOrder(document, sources, layouts)
  if (!order) return false
  const failing = (await measuredIn(order, signal)).filter(
    ({ ratio, text }) => !isEnough(ratio, text.needed),
  )
  onStep({ failing })
  if (failing.length === 0) return true
  const pictures = await smallPictures(order, signal)
  onStep({ pictures })
  const failures = { order, layouts, failing, pictures }
  await tryColors(wanted, failures)
  await tryPlaces(wanted)
  await tryScrims(wanted, failures)
  await tryLetters(wanted, failures)
  await tryBlur(wanted, failures)
  await tryCut(wanted, failures)
  await trySlides(wanted, failures)
  await tryPosters(wanted, failures)
  return true
}
