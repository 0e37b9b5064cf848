import { outcomes } from '../../../core/behaviour/conditions'
import { DECK_SHELL, type DeckProps } from '../Room'

const SHOWN = {
  clip: '▶ Clip',
  poster: '◼ Poster',
  motion: '▶ Motion',
  still: '◼ Still',
  colour: '◼ Colour',
} as const

/** What shows in every condition. */
export function BehaviourDeck({ document }: DeckProps) {
  return (
    <div
      className={`${DECK_SHELL} grid grid-cols-2 content-start gap-2 md:grid-cols-4 xl:grid-cols-7`}
      tabIndex={0}
      role="region"
      aria-label="What visitors get"
    >
      {outcomes(document).map((outcome) => (
        <div key={outcome.condition} className="rounded border border-line bg-sheet px-3 py-2">
          <div className="text-xs text-muted">{outcome.label}</div>
          <div className="text-base font-semibold">{SHOWN[outcome.shows]}</div>
          <div className="text-xs">{outcome.because}</div>
        </div>
      ))}
    </div>
  )
}
