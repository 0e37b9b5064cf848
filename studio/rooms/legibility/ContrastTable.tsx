import { SCREEN_NAMES, SCREENS } from '../../../core/fit/screens'
import { isEnough } from '../../../core/legibility/worstOf'
import { useTried } from '../../state/useTried'
import { freshOf, useContrastStore } from '../../state/contrastStore'
import { StandingMark } from '../../ui/controls'
import { DECK_SHELL, type DeckProps } from '../Room'
import { goTo } from './contrastView'
import { NotMeasured } from './NotMeasured'

/** The worst contrast and its time of every text on every screen; each takes the stage there. */
export function ContrastTable({ document, sources }: DeckProps) {
  const { contrasts: all, error } = useContrastStore()
  const contrasts = freshOf(all, useTried(document), sources)
  if (error || !contrasts?.isWhole)
    return (
      <div className={DECK_SHELL}>
        <NotMeasured />
      </div>
    )
  const labels = [...new Set(contrasts.worst.map(({ text }) => text.label))]
  return (
    <div className={DECK_SHELL}>
      <table className="text-left text-[0.82rem]" aria-label="Worst contrast by text and screen">
        <thead className="text-xs text-muted">
          <tr>
            {['What', ...SCREEN_NAMES.map((name) => SCREENS[name].label)].map((head) => (
              <th
                key={head}
                scope="col"
                className="border-b border-line-strong/40 py-1 pr-6 font-normal"
              >
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {labels.map((label) => (
            <tr key={label}>
              <th scope="row" className="border-b border-line py-1 pr-6 font-medium">
                {label}
              </th>
              {SCREEN_NAMES.map((name) => {
                const moment = contrasts.worst.find(
                  ({ text, screen }) => text.label === label && screen === name,
                )
                return (
                  <td key={name} className="border-b border-line py-1 pr-6 tabular-nums">
                    {moment ? (
                      <button
                        type="button"
                        className="inline-flex items-center gap-1.5 underline-offset-2 hover:underline"
                        aria-label={`${label}, ${SCREENS[name].label.toLowerCase()}: ${moment.ratio.toFixed(2)} to 1 at ${moment.seconds.toFixed(2)} s, needs ${moment.text.needed}. Show on stage.`}
                        onClick={() => goTo(moment)}
                      >
                        <StandingMark
                          standing={isEnough(moment.ratio, moment.text.needed) ? 'settled' : 'fix'}
                        />
                        {moment.ratio.toFixed(2)}
                        <span className="text-muted">
                          needs {moment.text.needed}, at {moment.seconds.toFixed(1)} s
                        </span>
                      </button>
                    ) : (
                      '–'
                    )}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
