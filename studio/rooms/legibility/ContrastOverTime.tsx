import { useEffect, useMemo } from 'react'
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from 'recharts'
import { SCREENS } from '../../../core/fit/screens'
import { worstMoments, worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { useStage } from '../../state/stageStore'
import { StandingMark } from '../../ui/controls'
import type { DeckProps } from '../Room'
import { isWatched } from './isWatched'
import { useContrasts, type Contrasts } from './useContrasts'

/** Lines differ in dash as well as in colour. */
const LOOKS = [
  { colour: '#9c1c35', dash: '0' },
  { colour: '#2f6b4f', dash: '6 3' },
  { colour: '#54406b', dash: '2 3' },
  { colour: '#7d4a1c', dash: '8 3 2 3' },
  { colour: '#26221c', dash: '4 4' },
] as const
/** Higher contrasts are of no matter. */
const HIGHEST = 12

/** The contrast of every text over all frames, on the screen of the stage. */
export function ContrastOverTime({ document, sources }: DeckProps) {
  const { contrasts, error } = useContrasts(document, sources)
  const screen = useStage((state) => state.screen)
  const set = useStage((state) => state.set)
  const worst = useMemo(
    () => (contrasts ? worstMoments(contrasts.texts, contrasts.rows) : []),
    [contrasts],
  )
  const isWhole = contrasts !== null && contrasts.rows.length === contrasts.count
  const least = isWhole ? worstOfAll(worst) : null
  const isOwn = !isWatched(document)
  const told = least && tell(least, SCREENS[screen].label)
  const key = JSON.stringify(told)
  useEffect(() => {
    // While it is measured anew, nothing of before is told.
    if (isOwn) set({ worst: told })
    // What is told is in the key.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, isOwn])
  useEffect(
    () => () => set({ parkedSeconds: null, mark: null, ...(isOwn && { worst: null }) }),
    [set, isOwn],
  )
  const go = (moment: WorstMoment): void => {
    const region = useStage.getState().layout?.region
    set({
      parkedSeconds: moment.seconds,
      mark: region ? { x: moment.x / region.width, y: moment.y / region.height } : null,
    })
  }
  if (error)
    return (
      <p role="alert" className="px-4 py-2.5 text-fix">
        {error}
      </p>
    )
  if (!contrasts)
    return (
      <p role="status" className="px-4 py-2.5 text-muted">
        Measuring every frame …
      </p>
    )
  return (
    <div className="flex h-full min-h-0 gap-4 px-4 py-2 max-lg:flex-col max-lg:overflow-auto">
      <Chart contrasts={contrasts} worst={worst} label={SCREENS[screen].label} />
      <WorstTable worst={worst} onGo={go} />
    </div>
  )
}

const tell = ({ text, ratio, seconds }: WorstMoment, screen: string) => ({
  ratio,
  needed: text.needed,
  where: `${text.label.toLowerCase()}, at ${seconds.toFixed(1)} s, ${screen.toLowerCase()}`,
})

function Chart({
  contrasts: { texts, rows, count, seconds: end },
  worst,
  label,
}: {
  contrasts: Contrasts
  worst: readonly WorstMoment[]
  label: string
}) {
  const data = rows.map(({ seconds, places }) => ({
    seconds,
    ...Object.fromEntries(
      texts.map((text, index) => [text.label, Math.min(HIGHEST, places[index]?.ratio ?? HIGHEST)]),
    ),
  }))
  const needs = [...new Set(texts.map(({ needed }) => needed))]
  return (
    <figure
      className="flex min-h-0 min-w-0 flex-1 flex-col max-lg:h-52 max-lg:flex-none"
      aria-label="Contrast over time"
    >
      <figcaption className="text-xs text-muted">
        Contrast over time, {label.toLowerCase()}:{' '}
        {texts.map((text, index) => (
          <span key={text.label}>
            {index > 0 && ', '}
            <b className="font-semibold" style={{ color: LOOKS[index % LOOKS.length]!.colour }}>
              {text.label.toLowerCase()}
            </b>
          </span>
        ))}
        {rows.length < count && (
          <span role="status"> · measuring, {Math.round((100 * rows.length) / count)} %</span>
        )}
      </figcaption>
      <div className="min-h-0 flex-1">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={data} margin={{ top: 8, right: 16, bottom: 0, left: -16 }}>
            <CartesianGrid strokeDasharray="2 4" />
            <XAxis
              dataKey="seconds"
              type="number"
              domain={[0, Math.max(end, 0.1)]}
              tick={{ fontSize: 11 }}
              tickFormatter={(seconds: number) => `${Math.round(seconds * 10) / 10} s`}
            />
            <YAxis
              type="number"
              domain={[1, HIGHEST]}
              ticks={[1, 3, 4.5, 7, 10]}
              tick={{ fontSize: 11 }}
            />
            {needs.map((needed) => (
              <ReferenceLine
                key={needed}
                y={needed}
                stroke="#9c1c35"
                strokeDasharray="5 4"
                label={{
                  value: `${needed} : 1 needed`,
                  position: 'insideTopRight',
                  fontSize: 11,
                  fill: '#9c1c35',
                }}
              />
            ))}
            {texts.map((text, index) => (
              <Line
                key={text.label}
                dataKey={text.label}
                stroke={LOOKS[index % LOOKS.length]!.colour}
                strokeDasharray={LOOKS[index % LOOKS.length]!.dash}
                dot={rows.length === 1}
                isAnimationActive={false}
              />
            ))}
            {worst.map(({ text, seconds, ratio }) => (
              <ReferenceDot
                key={text.label}
                x={seconds}
                y={Math.min(HIGHEST, ratio)}
                r={4}
                fill={ratio < text.needed ? '#9c1c35' : '#2f6b4f'}
                stroke="#fffdf8"
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
      </div>
    </figure>
  )
}

/** The worst moment of each text; each takes the stage there. */
function WorstTable({
  worst,
  onGo,
}: {
  worst: readonly WorstMoment[]
  onGo: (moment: WorstMoment) => void
}) {
  return (
    <div className="w-80 shrink-0 overflow-auto max-lg:w-full">
      <table className="w-full text-left text-[0.82rem]" aria-label="Worst contrast of each text">
        <thead className="text-xs text-muted">
          <tr>
            {['What', 'Worst', 'Needs', 'At'].map((head) => (
              <th
                key={head}
                scope="col"
                className="border-b border-line-strong/40 py-1 pr-3 font-normal"
              >
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {worst.map((moment) => {
            const { text, ratio, seconds } = moment
            return (
              <tr key={text.label}>
                <td className="border-b border-line py-1 pr-3">{text.label}</td>
                <td className="border-b border-line py-1 pr-3 tabular-nums">
                  <span className="inline-flex items-center gap-1.5">
                    <StandingMark standing={ratio >= text.needed ? 'settled' : 'fix'} />
                    {ratio.toFixed(2)}
                  </span>
                </td>
                <td className="border-b border-line py-1 pr-3 tabular-nums">{text.needed}</td>
                <td className="border-b border-line py-1 tabular-nums">
                  <button
                    type="button"
                    className="underline-offset-2 hover:underline"
                    aria-label={`${text.label}: ${ratio.toFixed(2)} to 1 at ${seconds.toFixed(2)} s. Show on stage.`}
                    onClick={() => onGo(moment)}
                  >
                    {seconds.toFixed(2)} s
                  </button>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}
