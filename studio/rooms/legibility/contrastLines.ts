import type { ScreenContrasts } from '../../state/contrastStore'

/** One line of the chart: a text on a screen, or on all of them at its worst. */
export interface ContrastLine {
  readonly label: string
  readonly ratios: readonly (number | null)[]
}

/** The lines of one screen, or the worst of all screens for each text. */
export function linesOf(screens: readonly ScreenContrasts[]): ContrastLine[] {
  const labels = [
    ...new Set(screens.flatMap(({ layout }) => layout.texts.map(({ label }) => label))),
  ]
  return labels.map((label) => ({
    label,
    ratios: (screens[0]?.rows ?? []).map((_, moment) => {
      const all = screens.flatMap(({ layout, rows }) => {
        const text = layout.texts.findIndex((each) => each.label === label)
        return rows[moment]?.places[text]?.ratio ?? []
      })
      return all.length > 0 ? Math.min(...all) : null
    }),
  }))
}
