import { useEffect, useRef, useState } from 'react'
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from 'recharts'
import { SLOWDOWNS, type SlowRun } from '../../core/api/slowMachines'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { renderHindrance } from '../../core/backdrop/delivered'
import { pageParts } from '../../core/backdrop/recipe'
import type { Size } from '../../core/fit/cover'
import { elementCount } from '../../core/particles/elements'
import { costingParts } from '../../core/particles/costingParts'
import { particleData, prepare, spritesOf } from '../../core/particles/prepare'
import type { Definition } from '../../core/particles/Definition'
import type { Particles } from '../../core/particles/Particles'
import type { LoadedSources } from '../state/loadedSources'
import { useStage } from '../state/stageStore'
import { useWork } from '../state/workStore'
import { Button } from '../ui/controls'
import { formatBytes } from '../ui/format'
import { withCount } from '../../core/particles/withCount'
import { costCurve, mostOnSlow, slowPoints, type CostPoint } from './costCurve'
import { TRY_SECONDS, useSlowMachines, type SlowMachines } from './useSlowMachines'
import { useArea } from './ParticlesBench'
import { inForm, laptopVisit } from './laptopVisit'
import { useParticles } from './useParticles'

/** Canvas pixels for each CSS pixel, as the delivered script has at most. */
const MAX_DENSITY = 1.5
/** Changes are waited for, so that a drag does not measure all the way. */
const WAIT_MS = 700

/** What particles cost: on this machine, and by their number; and what they weigh. */
export function CostDeck({
  document,
  particles,
  sources,
}: {
  document: BackdropDocument
  particles: Particles
  sources: LoadedSources
}) {
  const { definition, frameRate } = particles
  const area = useArea(document)
  const { points, measuring } = useCurve(definition, area)
  const live = useStage((state) => state.particleCost)
  const count = elementCount(prepare(definition), area)
  const limit = 1000 / frameRate
  const slow = useSlowMachines({ ...area, definition, frameRate })
  return (
    <div className="flex h-full min-h-0 gap-4 px-4 py-2 max-lg:flex-col max-lg:overflow-auto">
      <Chart points={points} runs={slow.runs} count={count} limit={limit} measuring={measuring} />
      <dl className="grid w-72 shrink-0 content-start gap-1 text-[0.82rem] max-lg:w-full">
        <Fact
          name="This machine"
          value={
            live
              ? `${live.milliseconds.toFixed(1)} ms, ${Math.round(live.framesPerSecond)} fps`
              : '–'
          }
        />
        <SlowFacts slow={slow} limit={limit} count={count} area={area} definition={definition} />
      </dl>
      <Bytes document={document} definition={definition} sources={sources} />
    </div>
  )
}

/** How slowed machines did, or the way to try them. */
function SlowFacts({
  slow,
  limit,
  count,
  area,
  definition,
}: {
  slow: SlowMachines
  limit: number
  count: number
  area: Size
  definition: Definition
}) {
  const { define } = useParticles(definition)
  const { runs, trying, problem, begin, stop } = slow
  const whole = SLOWDOWNS.flatMap((factor) => runs.findLast((each) => each.factor === factor) ?? [])
  const most = mostOnSlow(runs, limit)
  return (
    <>
      {whole.map((run) => (
        <Fact key={run.factor} name={`${run.factor} × slower`} value={wordsOf(run)} />
      ))}
      <div className="flex flex-wrap items-center gap-2 pt-1">
        {trying ? (
          <>
            <Button onClick={stop}>Stop</Button>
            <span role="status" className="text-xs text-muted">
              Trying it in a slowed browser, about {TRY_SECONDS} s; nothing is drawn here meanwhile
            </span>
          </>
        ) : (
          <Button onClick={begin}>{runs.length > 0 ? 'Try again' : 'Try on slow machines'}</Button>
        )}
        {most !== null && most > 0 && most < count && (
          <Button
            onClick={() => {
              const { perMegapixel, most: limitTo } = withCount(definition, area, most)
              define({
                perMegapixel: Math.round(perMegapixel * 10) / 10,
                most: Math.max(limitTo, most),
              })
            }}
          >
            Use {most}
          </Button>
        )}
      </div>
      {problem && (
        <p role="alert" className="text-xs text-fix">
          {problem}
        </p>
      )}
      {most !== null && (
        <p className="text-xs text-muted">
          {most >= count
            ? `Without a graphics processor the slowest keeps its frame rate with all ${count}.`
            : most > 0
              ? `Without a graphics processor the slowest keeps its frame rate with ${most}.`
              : 'Without a graphics processor the slowest does not reach its frame rate.'}
        </p>
      )}
    </>
  )
}

const wordsOf = ({ drawn, asked, milliseconds, framesPerSecond }: SlowRun): string =>
  milliseconds === null
    ? 'first picture only'
    : `${milliseconds.toFixed(1)} ms, ${Math.round(framesPerSecond)} fps${drawn < asked ? `, thinned to ${drawn}` : ''}`

function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div className="flex items-baseline justify-between gap-3 border-b border-line py-1">
      <dt className="text-muted">{name}</dt>
      <dd className="font-semibold whitespace-nowrap">{value}</dd>
    </div>
  )
}

/** What visitors load for particles. */
function Bytes({
  document,
  definition,
  sources,
}: {
  document: BackdropDocument
  definition: Definition
  sources: LoadedSources
}) {
  const made = useWork((state) => state.made)
  const hasSprites = spritesOf(definition).length > 0
  const visit = (form: Particles['form']): string =>
    laptopVisit(inForm(document, form), sources.known, made)
  const parts = pageParts(inForm(document, 'live'))
  const bare = pageParts({ ...document, particles: null })
  return (
    <dl className="grid w-72 shrink-0 content-start gap-1 text-[0.82rem] max-lg:w-full">
      <Fact name="Script for particles" value={`≤ ${formatBytes(parts.script - bare.script)}`} />
      <Fact
        name={hasSprites ? 'Definition with its sprites' : 'Definition in the markup'}
        value={`≤ ${formatBytes(parts.markup - bare.markup)}`}
      />
      {renderHindrance(document.base) === null && (
        <>
          <Fact name="First visit, live" value={visit('live')} />
          <Fact name="First visit, as one clip" value={visit('rendered')} />
        </>
      )}
      <p className="text-xs text-muted">
        Compressed; {formatBytes(particleData(definition).length)} uncompressed. No other file is
        loaded. Visitors without script see the base alone.
      </p>
    </dl>
  )
}

/** Measures the curve anew when something that costs has changed and has rested. */
function useCurve(
  definition: Definition,
  area: Size,
): { points: readonly CostPoint[]; measuring: boolean } {
  const [points, setPoints] = useState<readonly CostPoint[]>([])
  const [measuring, setMeasuring] = useState(true)
  // Colours, directions and the seed do not change what a frame costs.
  const key = JSON.stringify([costingParts(definition), area.width, Math.round(area.height)])
  const latest = useRef({ definition, area })
  useEffect(() => {
    latest.current = { definition, area }
  })
  useEffect(() => {
    const abort = new AbortController()
    const timer = setTimeout(() => {
      const { definition: of, area: within } = latest.current
      const density = Math.min(MAX_DENSITY, devicePixelRatio)
      void (async () => {
        const made: CostPoint[] = []
        setMeasuring(true)
        for await (const point of costCurve(of, within, density, abort.signal)) {
          made.push(point)
          setPoints([...made])
        }
        if (!abort.signal.aborted) setMeasuring(false)
      })()
    }, WAIT_MS)
    return () => {
      clearTimeout(timer)
      abort.abort()
    }
  }, [key])
  return { points, measuring }
}

/** How the curves differ: in dash as well as in colour. */
const CURVES = [
  { factor: 1, name: 'this machine', colour: '#2f6b4f', text: 'text-settled', dash: '0' },
  { factor: 4, name: '4 × slower', colour: '#a0622b', text: 'text-look', dash: '6 3' },
  { factor: 8, name: '8 × slower', colour: '#9c1c35', text: 'text-fix', dash: '2 3' },
] as const

/** Milliseconds a frame by the number of elements, with the limit and the present number. */
function Chart({
  points,
  runs,
  count,
  limit,
  measuring,
}: {
  points: readonly CostPoint[]
  runs: readonly SlowRun[]
  count: number
  limit: number
  measuring: boolean
}) {
  const curves = CURVES.map((curve) => ({
    ...curve,
    points: curve.factor === 1 ? points : slowPoints(runs, curve.factor),
  })).filter((curve) => curve.points.length > 0)
  const all = curves.flatMap((curve) => curve.points)
  const highest = Math.max(limit * 1.15, ...all.map(({ milliseconds }) => milliseconds))
  return (
    <figure
      className="flex min-h-0 min-w-0 flex-1 flex-col max-lg:h-52 max-lg:flex-none"
      aria-label="Milliseconds a frame by the number of elements"
    >
      <figcaption className="text-xs text-muted">
        Milliseconds a frame by elements, measured:{' '}
        {curves.map(({ factor, name, text }, index) => (
          <span key={factor}>
            {index > 0 && ', '}
            <b className={`font-semibold ${text}`}>{name}</b>
          </span>
        ))}
        {measuring && <span role="status"> · measuring …</span>}
      </figcaption>
      <div className="min-h-0 flex-1">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart margin={{ top: 8, right: 16, bottom: 0, left: -16 }}>
            <CartesianGrid strokeDasharray="2 4" />
            <XAxis
              dataKey="count"
              type="number"
              domain={[0, Math.max(count, ...all.map((point) => point.count))]}
              allowDuplicatedCategory={false}
              tick={{ fontSize: 11 }}
            />
            <YAxis
              dataKey="milliseconds"
              type="number"
              domain={[0, Math.ceil(highest)]}
              tick={{ fontSize: 11 }}
              allowDecimals={false}
            />
            <ReferenceLine
              y={limit}
              stroke="#9c1c35"
              strokeDasharray="5 4"
              label={{
                value: `${Math.round(limit)} ms: ${Math.round(1000 / limit)} frames a second`,
                position: 'insideTopRight',
                fontSize: 11,
                fill: '#9c1c35',
              }}
            />
            <ReferenceLine
              x={count}
              stroke="#26221c"
              label={{ value: String(count), position: 'insideTopLeft', fontSize: 11 }}
            />
            {curves.map(({ factor, colour, dash, points: line }) => (
              <Line
                key={factor}
                data={line}
                dataKey="milliseconds"
                stroke={colour}
                strokeDasharray={dash}
                dot={{ r: 2 }}
                isAnimationActive={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
      </div>
    </figure>
  )
}
