import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { slideCycle } from '../../../../core/kinds/slideshow/Slideshow'
import { DECK_SHELL, type DeckProps } from '../../../rooms/Room'
import { useStage } from '../../../state/stageStore'
import { StandingMark } from '../../../ui/controls'
import { useSlideContrasts } from '../slideContrasts'
import { slidesOf } from '../slidesOf'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** The heading over every slide and over the middle of every transition. */
export function LegibilityView({ document, sources }: Props) {
  const contrasts = useSlideContrasts((state) => state.contrasts)
  const needed = useStage((state) => state.needed)
  const set = useStage((state) => state.set)
  const { spans } = slideCycle(document.base)
  if (!contrasts || contrasts.length !== spans.length)
    return (
      <p className={`${DECK_SHELL} text-muted`} role="status">
        Measuring every slide …
      </p>
    )
  const cell = (ratio: number, seconds: number, label: string) => (
    <button
      type="button"
      className="inline-flex items-center gap-1.5 underline-offset-2 hover:underline"
      aria-label={`${label}: ${ratio.toFixed(2)} to 1. Show on stage.`}
      onClick={() => set({ parkedSeconds: seconds })}
    >
      <StandingMark standing={ratio >= needed ? 'settled' : 'fix'} />
      {ratio.toFixed(2)} : 1
    </button>
  )
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Legibility per slide">
      <table className="w-full text-left text-[0.82rem]" aria-label="Legibility per slide">
        <thead className="text-xs text-muted">
          <tr>
            {[
              'Slide',
              'Image',
              `Heading over it (needs ${needed} : 1)`,
              'Middle of the transition after it',
            ].map((head) => (
              <th
                key={head}
                scope="col"
                className="border-b border-line-strong/40 py-1 pr-4 font-normal"
              >
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {slidesOf(document, sources).map(({ slide, number, source }, index) => {
            const { full, middle } = contrasts[index]!
            const { fullFrom, leavesFrom, goneAt } = spans[index]!
            return (
              <tr key={slide.id}>
                <td className="border-b border-line py-1 pr-4">{number}</td>
                <td className="max-w-60 truncate border-b border-line py-1 pr-4">
                  {source?.name ?? '–'}
                </td>
                <td className="border-b border-line py-1 pr-4 tabular-nums">
                  {cell(full, (fullFrom + leavesFrom) / 2, `Slide ${number}`)}
                </td>
                <td className="border-b border-line py-1 pr-4 tabular-nums">
                  {cell(middle, (leavesFrom + goneAt) / 2, `After slide ${number}`)}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}
