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
import { isEnough, type WorstMoment } from '../../../core/legibility/worstOf'
import type { ContrastLine } from './contrastLines'

/** Lines differ in dash as well as in colour. */
export const LOOKS = [
  { colour: '#9c1c35', dash: '0' },
  { colour: '#2f6b4f', dash: '6 3' },
  { colour: '#54406b', dash: '2 3' },
  { colour: '#7d4a1c', dash: '8 3 2 3' },
  { colour: '#26221c', dash: '4 4' },
  { colour: '#1f5a7a', dash: '1 2' },
  { colour: '#6b3f2f', dash: '10 2' },
  { colour: '#4a5a1f', dash: '3 1' },
] as const
/** Black on white. */
const HIGHEST = 21

/** Contrast over time, a line for each text; a click takes the stage to that time. */
export function ContrastChart({
  times,
  lines,
  needs,
  worst,
  parked,
  onGo,
}: {
  /** Seconds of each moment. */
  times: readonly number[]
  lines: readonly ContrastLine[]
  needs: readonly number[]
  worst: readonly WorstMoment[]
  /** Where the stage is held; null where it plays. */
  parked: number | null
  onGo: (moment: number) => void
}) {
  const data = times.map((seconds, moment) => ({
    seconds,
    ...Object.fromEntries(
      lines.map(({ label, ratios }) => {
        // Where nothing of a text has anything behind it, its line has a gap.
        const ratio = ratios[moment] ?? null
        return [label, ratio === null ? null : Math.min(HIGHEST, ratio)]
      }),
    ),
  }))
  return (
    <ResponsiveContainer width="100%" height="100%">
      <LineChart
        data={data}
        margin={{ top: 6, right: 8, bottom: 0, left: -22 }}
        onClick={({ activeTooltipIndex }) => {
          const moment = Number(activeTooltipIndex)
          if (activeTooltipIndex !== undefined && Number.isInteger(moment)) onGo(moment)
        }}
        className="cursor-pointer"
      >
        <CartesianGrid strokeDasharray="2 4" />
        <XAxis
          dataKey="seconds"
          type="number"
          domain={[0, Math.max(times.at(-1) ?? 0, 0.1)]}
          tick={{ fontSize: 11 }}
          height={18}
          tickFormatter={(seconds: number) => `${Math.round(seconds * 10) / 10} s`}
        />
        <YAxis
          type="number"
          // Equal ratios are equally far apart: what is low is seen best.
          scale="log"
          domain={[1, HIGHEST]}
          ticks={[1, 2, 3, 4.5, 7, 12, HIGHEST]}
          interval={0}
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
        {parked !== null && <ReferenceLine x={parked} stroke="#26221c" strokeWidth={1.5} />}
        {lines.map(({ label }, index) => (
          <Line
            key={label}
            dataKey={label}
            stroke={LOOKS[index % LOOKS.length]!.colour}
            strokeDasharray={LOOKS[index % LOOKS.length]!.dash}
            dot={times.length === 1}
            isAnimationActive={false}
          />
        ))}
        {worst.map(({ text, screen, seconds, ratio }) => (
          <ReferenceDot
            key={`${screen} ${text.label}`}
            x={seconds}
            y={Math.min(HIGHEST, ratio)}
            r={4}
            fill={isEnough(ratio, text.needed) ? '#2f6b4f' : '#9c1c35'}
            stroke="#fffdf8"
          />
        ))}
      </LineChart>
    </ResponsiveContainer>
  )
}
