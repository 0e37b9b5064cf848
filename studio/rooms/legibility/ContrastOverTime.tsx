import { useEffect } from 'react'
import { SCREEN_NAMES, SCREENS } from '../../../core/fit/screens'
import { isEnough, worstAt, worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { useTried } from '../../state/useTried'
import { freshOf, useContrastStore, type ScreenContrasts } from '../../state/contrastStore'
import { useStage } from '../../state/stageStore'
import { StandingMark } from '../../ui/controls'
import { DECK_SHELL, type DeckProps } from '../Room'
import { ContrastChart, LOOKS } from './ContrastChart'
import { linesOf, type ContrastLine } from './contrastLines'
import { ContrastFilm } from './ContrastFilm'
import { goTo, showScreen, useContrastView } from './contrastView'
import { NotMeasured } from './NotMeasured'

/** The contrast of every text over all frames, on one screen or all of them. */
export function ContrastOverTime({ document, sources }: DeckProps) {
  const { contrasts, reading, error } = useContrastStore()
  const screen = useStage((state) => state.screen)
  const parked = useStage((state) => state.parkedSeconds)
  const set = useStage((state) => state.set)
  const { scope, set: setView } = useContrastView()
  const tried = useTried(document)
  useEffect(() => () => set({ parkedSeconds: null, mark: null }), [set])
  if (error)
    return (
      <div className={DECK_SHELL}>
        <NotMeasured />
      </div>
    )
  const all = contrasts?.screens ?? []
  const shown = all.filter((each) => scope === 'all' || each.screen === screen)
  const times = shown[0]?.rows.map(({ seconds }) => seconds) ?? []
  if (!contrasts || times.length === 0)
    return (
      <div className={DECK_SHELL}>
        <NotMeasured />
      </div>
    )
  const isFresh = freshOf(contrasts, tried, sources) !== null
  const lines = linesOf(shown)
  const worst = contrasts.worst.filter((each) => scope === 'all' || each.screen === screen)
  const go = (moment: number): void => {
    const least = worstOfAll(
      shown.flatMap(({ screen: name, layout, rows }) => {
        const row = rows[moment]
        return (row && worstAt(name, layout.texts, row)) ?? []
      }),
    )
    if (least) goTo(least)
  }
  return (
    <div className="flex h-full min-h-0 gap-4 px-4 py-1.5 max-lg:flex-col max-lg:overflow-auto">
      <figure
        className="flex min-h-0 min-w-0 flex-1 flex-col max-lg:h-56 max-lg:flex-none"
        aria-label="Contrast over time"
      >
        <figcaption className="text-xs text-muted">
          Contrast over time,{' '}
          {scope === 'all' ? 'the worst of all screens' : SCREENS[screen].label.toLowerCase()}
          {!isFresh || !contrasts.isWhole ? (
            <span role="status">
              {' '}
              · measuring the latest change
              {reading === null ? ' …' : `, reading frames, ${Math.round(reading * 100)} %`}
            </span>
          ) : (
            ' · click a time to see it on the stage'
          )}
        </figcaption>
        <div className="min-h-0 flex-1">
          <ContrastChart
            times={times}
            lines={lines}
            needs={[
              ...new Set(shown.flatMap(({ layout }) => layout.texts.map(({ needed }) => needed))),
            ]}
            worst={isFresh ? worst : []}
            parked={parked}
            onGo={go}
          />
        </div>
        <ContrastFilm document={document} sources={sources} onGo={go} />
      </figure>
      <div className="flex w-80 shrink-0 flex-col gap-1 overflow-auto max-lg:w-full">
        <ScreenChips scope={scope} screen={screen} onAll={() => setView({ scope: 'all' })} />
        <Legend lines={lines} worst={isFresh ? worst : []} shown={shown} />
      </div>
    </div>
  )
}

function ScreenChips({
  scope,
  screen,
  onAll,
}: {
  scope: 'one' | 'all'
  screen: string
  onAll: () => void
}) {
  const chip =
    'min-h-6 rounded border border-line-strong/50 px-2 text-xs aria-pressed:border-curtain aria-pressed:bg-sheet aria-pressed:font-semibold'
  return (
    <div className="flex shrink-0 flex-wrap gap-1" role="group" aria-label="Screens of the chart">
      {SCREEN_NAMES.map((name) => (
        <button
          key={name}
          type="button"
          aria-pressed={scope === 'one' && screen === name}
          className={chip}
          onClick={() => showScreen(name)}
        >
          {SCREENS[name].label}
        </button>
      ))}
      <button type="button" aria-pressed={scope === 'all'} className={chip} onClick={onAll}>
        All
      </button>
    </div>
  )
}

/** The lines with their worst moments; each takes the stage there. */
function Legend({
  lines,
  worst,
  shown,
}: {
  lines: readonly ContrastLine[]
  worst: readonly WorstMoment[]
  shown: readonly ScreenContrasts[]
}) {
  return (
    <ul className="text-[0.82rem]" aria-label="Worst contrast of each text">
      {lines.map(({ label }, index) => {
        const moment = worstOfAll(worst.filter(({ text }) => text.label === label))
        const needed =
          moment?.text.needed ??
          shown.flatMap(({ layout }) => layout.texts).find((text) => text.label === label)?.needed
        const { colour, dash } = LOOKS[index % LOOKS.length]!
        return (
          <li key={label} className="flex items-center gap-2 border-b border-line py-[3px]">
            <svg aria-hidden className="h-2 w-7 shrink-0">
              <line
                x1="0"
                x2="28"
                y1="4"
                y2="4"
                stroke={colour}
                strokeWidth="2"
                strokeDasharray={dash}
              />
            </svg>
            <span className="min-w-0 flex-1 truncate">
              {label}, <span className="text-muted">needs {needed}</span>
            </span>
            {moment && (
              <button
                type="button"
                className="inline-flex items-center gap-1.5 tabular-nums underline-offset-2 hover:underline"
                aria-label={`${label}: ${moment.ratio.toFixed(2)} to 1 at ${moment.seconds.toFixed(2)} s, ${SCREENS[moment.screen].label.toLowerCase()}. Show on stage.`}
                onClick={() => goTo(moment)}
              >
                <StandingMark
                  standing={isEnough(moment.ratio, moment.text.needed) ? 'settled' : 'fix'}
                />
                {moment.ratio.toFixed(2)} at {moment.seconds.toFixed(1)} s
              </button>
            )}
          </li>
        )
      })}
    </ul>
  )
}
