import { reduce, type BackdropAction } from '../../../core/backdrop/reduce'
import { AROUND, lettersWith, type Around } from '../../../core/copy/letters'
import { pictureCost, type CoveredBoxes } from '../../../core/legibility/pictureCost'
import { isOneOf, type ScreenLayout, type TextPlace } from '../../../core/legibility/TextPlace'
import { worstOfAll } from '../../../core/legibility/worstOf'
import { contrastOrder } from '../../layout/contrastOrder'
import { HEADER, oppositeOf, percents, seenIn, type Failures, type RemedySearch } from './Remedy'
import { areRead, measuredIn, weakestOf } from './weakestScrim'

const LETTERS_TITLE = 'Something around the letters'
const AROUND_TITLES: Readonly<Record<Around, string>> = {
  outline: 'An outline around the letters',
  shadow: 'A soft shadow behind the letters',
  plate: 'A plate behind each text',
}
/** Texts whose letters can have something around them; others are controls, or the page's own. */
const hasLetters = (text: TextPlace): boolean =>
  isOneOf(text, ['Heading', 'Text', 'Second button', 'Link onward', 'Footer'])

/** What the letters of a screen cover of its picture. */
const coveredBy = ({ texts }: ScreenLayout): CoveredBoxes[] =>
  texts.flatMap(({ boxes, plate, covered }) =>
    plate && covered !== undefined ? [{ boxes, layer: { ...plate.layer, alpha: covered } }] : [],
  )

/**
 * Something around the letters: an outline, a shadow and a plate, each as weak as it may be.
 * Errors: those of measuring.
 */
export async function tryLetters(
  search: RemedySearch,
  { order, failing, pictures }: Failures,
): Promise<void> {
  const { document, sources, page, signal, tell, onStep } = search
  if (failing.every(({ text }) => !hasLetters(text))) return
  if (failing.some(({ text }) => isOneOf(text, HEADER))) {
    onStep({ vain: { title: LETTERS_TITLE, worst: 'the header is the page’s own' } })
    return
  }
  const color = oppositeOf(document)
  const times = new Set(failing.map(({ seconds }) => seconds))
  const moments = order.moments.filter(({ seconds }) => times.has(seconds))
  for (const around of AROUND) {
    const title = AROUND_TITLES[around]
    tell(title)
    const actionsAt = (strength: number): BackdropAction[] => [
      { type: 'copy/parts', parts: { letters: { ...lettersWith(around, color), strength } } },
    ]
    const at = async (strength: number) => {
      const changed = actionsAt(strength).reduce(reduce, document)
      const layouts = await page.measure(changed)
      return { changed, layouts, order: await contrastOrder(changed, sources, layouts) }
    }
    const full = (await at(1)).order!
    const most = await measuredIn({ ...full, moments }, signal)
    if (!areRead(most)) {
      onStep({ vain: { title, worst: worstOfAll(most)! } })
      continue
    }
    const { strength, worst } = await weakestOf(
      order.moments,
      async (tried) => (await at(tried)).order!,
      signal,
      (tried) => tell(`${title}, ${percents([tried])}`),
      failing,
    )
    if (strength === null || !worst) {
      if (worst) onStep({ vain: { title, worst } })
      continue
    }
    const { changed, layouts } = await at(strength)
    onStep({
      remedy: {
        title: `${title}, ${percents([strength])}`,
        actions: actionsAt(strength),
        document: changed,
        layouts,
        worst,
        cost: pictureCost(
          seenIn(document, pictures),
          seenIn(changed, pictures).map((each, index) => ({
            ...each,
            covered: coveredBy(layouts[pictures[index]!.screen]),
          })),
        ),
      },
    })
  }
}
