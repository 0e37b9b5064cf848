import { contrastKey } from '../../../core/backdrop/contrastBase'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { aroundRatio, surroundsOf, type Surrounds } from '../../../core/legibility/buttonColors'
import { isOneOf } from '../../../core/legibility/TextPlace'
import type { WorstMoment } from '../../../core/legibility/worstOf'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import type { LoadedSources } from '../../state/loadedSources'
import { useAsync } from '../../ui/useAsync'
import type { ContrastOf, ToldContrast } from '../../color/ColorField'
import type { ContrastOrder } from '../../worker/contrast/ContrastOrder'
import { measuredIn } from './weakestScrim'

/** What is behind a text in all frames and on all screens, whatever colour the text has. */
export interface TextSurrounds {
  readonly label: string
  readonly needed: number
  readonly surrounds: Surrounds
}

/** What has a ground of its own, whatever colour its sign has. */
const ON_PLATES = ['Button label', 'Slide controls', 'Pause control']
const BLACK = '#000000'
const WHITE = '#ffffff'

/**
 * What is behind each text that has no ground of its own, from the worst contrast of black and of
 * white in its place: two measurements say what any colour gives. With the order that was measured;
 * null where its frames are not known. Errors: those of measuring.
 */
export async function measureSurrounds(
  document: BackdropDocument,
  sources: LoadedSources,
  signal: AbortSignal,
): Promise<{ readonly order: ContrastOrder; readonly texts: readonly TextSurrounds[] } | null> {
  const layouts = await laidOut((page) => page.measure(document))
  const order = await contrastOrder(document, sources, layouts)
  return order && { order, texts: await surroundsIn(order, signal) }
}

/** The same of an order that is there already. Errors: those of measuring. */
export async function surroundsIn(
  order: ContrastOrder,
  signal: AbortSignal,
): Promise<readonly TextSurrounds[]> {
  const screens = order.screens.map((screen) => ({
    ...screen,
    layout: {
      ...screen.layout,
      texts: screen.layout.texts
        .filter((text) => !isOneOf(text, ON_PLATES))
        .flatMap((text) => [BLACK, WHITE].map((color) => ({ ...text, color }))),
    },
  }))
  return surroundsByText(await measuredIn({ ...order, screens }, signal))
}

/** Of all screens together. */
export function surroundsByText(worst: readonly WorstMoment[]): TextSurrounds[] {
  const least = new Map<string, { readonly needed: number; black: number; white: number }>()
  for (const { text, ratio } of worst) {
    const { label, needed, color } = text
    const known = least.get(label)
    const entry = { black: 21, white: 21, ...known, needed: Math.max(needed, known?.needed ?? 0) }
    const of = color === BLACK ? 'black' : 'white'
    least.set(label, { ...entry, [of]: Math.min(entry[of], ratio) })
  }
  return [...least].map(([label, { needed, black, white }]) => ({
    label,
    needed,
    surrounds: surroundsOf(black, white),
  }))
}

/**
 * The contrast of a colour over several texts: the one that lacks most. It has no ratio where one
 * of them has both darker and brighter behind it.
 */
export function leastContrast(texts: readonly TextSurrounds[], color: string): ToldContrast | null {
  return texts
    .map(({ needed, surrounds }) => ({ needed, ratio: aroundRatio(color, surrounds) }))
    .reduce<ToldContrast | null>(
      (least, each) => (least && shareOf(least) <= shareOf(each) ? least : each),
      null,
    )
}

/** How much of what is needed there is; 0 where that is not known. */
export const shareOf = ({ ratio, needed }: ToldContrast): number => (ratio ?? 0) / needed

/** Whether a text is a button against what is around it. */
export const isButton = (text: Pick<TextSurrounds, 'label'>): boolean => isOneOf(text, ['Button'])

/** Equal exactly when what is behind texts is, whatever colour they have. */
export const surroundsKey = (document: BackdropDocument): string =>
  contrastKey({
    ...document,
    copy: { ...document.copy, color: WHITE, buttonColor: WHITE, buttonStates: null },
  })

/**
 * What any colour gives in front of a document's base, of the texts that are meant; `noneText` says
 * that there are none.
 */
export function useContrastOf(
  document: BackdropDocument,
  sources: LoadedSources,
  isMeant: (text: TextSurrounds) => boolean,
  noneText: string,
): ReturnType<ContrastOf> {
  const { value, error } = useAsync(surroundsKey(document), async (signal) => {
    const found = await measureSurrounds(document, sources, signal)
    return { texts: found && found.texts.filter(isMeant) }
  })
  if (error) return { of: null, problem: error }
  if (!value) return { of: null, problem: null }
  const { texts } = value
  if (!texts) return { of: null, problem: 'The frames cannot be measured here.' }
  if (texts.length === 0) return { of: null, problem: noneText }
  return { of: (color) => leastContrast(texts, color), problem: null }
}
