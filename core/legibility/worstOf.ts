import type { ScreenName } from '../fit/screens'
import type { WorstPlace } from '../scrim/frameContrast'
import type { TextPlace } from './TextPlace'

/** What was measured at a moment, for each text in order; null where nothing is behind it. */
export interface ContrastRow {
  readonly seconds: number
  readonly places: readonly (WorstPlace | null)[]
}

/** The moment at which a text is hardest to read on a screen. */
export interface WorstMoment {
  readonly screen: ScreenName
  readonly text: TextPlace
  readonly ratio: number
  readonly seconds: number
  /** In the region, in CSS pixels. */
  readonly x: number
  readonly y: number
}

/** The worst moment of each text on a screen, of those that have something behind them. */
export function worstMoments(
  screen: ScreenName,
  texts: readonly TextPlace[],
  rows: readonly ContrastRow[],
): WorstMoment[] {
  return texts.flatMap((text, index) => {
    let worst: WorstMoment | null = null
    for (const { seconds, places } of rows) {
      const place = places[index]
      if (place && (!worst || place.ratio < worst.ratio))
        worst = { screen, text, seconds, ...place }
    }
    return worst ?? []
  })
}

/** Whether a contrast is enough: a figure is told to two digits, and so it is judged. */
export const isEnough = (ratio: number, needed: number): boolean =>
  Math.round(ratio * 100) / 100 >= needed

/** How far a text is from what it needs: less than 1 is not enough. */
const marginOf = ({ ratio, text }: Pick<WorstMoment, 'ratio' | 'text'>): number =>
  ratio / text.needed

/** The one that is farthest from enough; null where there is none. */
export const worstOfAll = (worst: readonly WorstMoment[]): WorstMoment | null =>
  worst.reduce<WorstMoment | null>(
    (least, each) => (least === null || marginOf(each) < marginOf(least) ? each : least),
    null,
  )

/** Where a text is hardest to read at the moment of a row; null where nothing is measured. */
export function worstAt(
  screen: ScreenName,
  texts: readonly TextPlace[],
  { seconds, places }: ContrastRow,
): WorstMoment | null {
  return worstOfAll(
    texts.flatMap((text, index) => {
      const place = places[index]
      return place ? { screen, text, seconds, ...place } : []
    }),
  )
}
