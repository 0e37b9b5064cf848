import { memo, useState, type Key, type KeyboardEvent } from 'react'
import {
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceLine,
  ResponsiveContainer,
  Scatter,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts'
import type { Rendition } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import {
  budgetLeaving,
  clipBudget,
  clipRecipes,
  probeOf,
  recipeKey,
} from '../../../core/backdrop/recipe'
import type { BackdropAction } from '../../../core/backdrop/reduce'
import { SCREENS, type ScreenClass } from '../../../core/fit/screens'
import type { Family } from '../../../core/weight/families'
import { VISUALLY_LOSSLESS_SSIM } from '../../../core/weight/passes'
import { atFullEffort } from '../../../core/weight/native/atFullEffort'
import { ProbeCurve } from '../../../core/weight/ProbeCurve'
import { useBackdrop } from '../../state/backdropStore'
import type { LoadedSources } from '../../state/loadedSources'
import { useProbing } from '../../state/useProbing'
import { rendersApart, useWork } from '../../state/workStore'
import { Button } from '../../ui/controls'
import { FORMAT_NAMES, formatBytes } from '../../ui/format'
import {
  curvePoints,
  nearestPlace,
  niceTicks,
  steppedPlace,
  type CurvePlace,
  type CurvePoint,
} from './tradeCurves'
import { useWeightView } from './weightView'

/** Formats differ in dash and mark as well as in colour. */
const DRAWN: Record<
  Family,
  {
    readonly colour: string
    readonly dash: string
    readonly shape: 'circle' | 'square' | 'triangle'
  }
> = {
  av1: { colour: '#9c1c35', dash: '0', shape: 'circle' },
  vp9: { colour: '#54406b', dash: '6 3', shape: 'square' },
  h264: { colour: '#a0622b', dash: '2 3', shape: 'triangle' },
}
/**
 * Quality against bytes for each format of a screen: curves from the probe, points measured on
 * finished files, the budget as a line. A point on a curve is selected by clicking it. Drawn again
 * only if a figure has changed, not at each step of an encode, which needs the same processor.
 */
export const TradeChart = memo(function TradeChart({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const made = useWork((state) => state.made)
  const dispatch = useBackdrop((state) => state.dispatch)
  const screenClass = useWeightView((state) => state.screenClass)
  const clips = curvesOf(document, sources, made, screenClass)
  const unprobed = clips.filter(({ curve }) => curve.length === 0)
  const { probing, probe } = useProbing(sources, unprobed)
  const [place, setPlace] = useState<CurvePlace | null>(null)
  if (clips.length === 0)
    return (
      <p className="px-4 py-3 text-muted">{SCREENS[screenClass].label} has no files of its own.</p>
    )
  const budget = clipBudget(document, screenClass)
  const choose = (point: CurvePoint): void => dispatch(choiceOf(document, screenClass, point))
  const pointed =
    (place && clips.find(({ family }) => family === place.family)?.curve[place.index]) ?? null
  const pressed = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === 'Enter' || event.key === ' ') {
      if (pointed) choose(pointed)
    } else if (event.key === 'Escape') setPlace(null)
    else if (event.key.startsWith('Arrow') || event.key === 'Home' || event.key === 'End')
      setPlace((now) =>
        now ? steppedPlace(clips, now, event.key) : nearestPlace(clips, budget / 1000),
      )
    else return
    event.preventDefault()
  }
  return (
    <figure
      className="flex min-h-0 flex-col px-3 py-1.5 max-lg:h-60 max-lg:shrink-0"
      aria-label={`Quality against bytes, ${SCREENS[screenClass].label}`}
    >
      <figcaption className="flex items-baseline justify-between gap-2 text-xs text-muted">
        <span className="min-w-0 truncate">
          <b className="font-semibold text-ink">{SCREENS[screenClass].label}</b>:{' '}
          {place && pointed
            ? `${wordsOf(place, pointed)}; click or Enter sets it`
            : 'Quality (SSIM) against size (kB). Select a point to set the budget or target.'}
        </span>
        <span className="flex shrink-0 gap-2">
          {clips.map(({ recipe }) => (
            <Sign key={recipe.family} family={recipe.family} />
          ))}
        </span>
      </figcaption>
      {unprobed.length > 0 && (
        <p className="flex items-center gap-2 py-1 text-xs">
          {probing?.abort ? (
            <Button onClick={() => probing.abort?.abort()}>Stop</Button>
          ) : (
            <Button onClick={() => void probe()}>Draw the curves</Button>
          )}
          <span role="status">
            {probing?.words ??
              (rendersApart(document)
                ? 'The render worker encodes the loop quickly at a few quality levels.'
                : 'Short parts of the loop are encoded at five quality levels.')}
          </span>
        </p>
      )}
      <div
        className="min-h-0 flex-1 rounded"
        role="slider"
        tabIndex={0}
        aria-label="Place on the curves"
        aria-valuemin={0}
        aria-valuemax={Math.max(...clips.map(({ curve }) => curve.length)) - 1}
        aria-valuenow={place?.index ?? 0}
        aria-valuetext={place && pointed ? wordsOf(place, pointed) : 'none chosen'}
        title="Arrow keys move along a curve and between curves, Enter sets the place"
        onKeyDown={pressed}
        onFocus={() => setPlace((now) => now ?? nearestPlace(clips, budget / 1000))}
        onBlur={() => setPlace(null)}
      >
        <Plot
          clips={clips}
          budgetKilobytes={budget / 1000}
          place={place}
          onPlace={setPlace}
          onChoose={choose}
        />
      </div>
    </figure>
  )
})

/** What choosing a point of a curve changes: the quality to reach, or the screen's budget. */
function choiceOf(
  document: BackdropDocument,
  screenClass: ScreenClass,
  { ssim, kilobytes }: CurvePoint,
): BackdropAction {
  if (document.weight.goal === 'quality')
    return {
      type: 'weight/set',
      weight: { targetSsim: Math.min(0.995, Math.max(0.8, Math.round(ssim * 1000) / 1000)) },
    }
  const budget = budgetLeaving(document, screenClass, Math.round(kilobytes * 1000))
  return { type: 'weight/row', screenClass, row: { budgetBytes: Math.max(20_000, budget) } }
}

/** The curve and the measured file of each format that a screen class is delivered in. */
function curvesOf(
  document: BackdropDocument,
  sources: LoadedSources,
  made: Readonly<Record<string, Rendition>>,
  screenClass: ScreenClass,
) {
  return clipRecipes(document, sources.known)
    .filter((clip) => clip.screenClass === screenClass)
    .map(({ recipe }) => {
      const probed = made[recipeKey(probeOf(recipe))]?.facts
      const facts = probed?.kind === 'probe' ? atFullEffort(probed, recipe.encoder) : null
      const rendition = made[recipeKey(recipe)]
      const quality = rendition?.facts.kind === 'clip' ? rendition.facts.quality : null
      return {
        family: recipe.family,
        recipe,
        curve: facts ? curvePoints(new ProbeCurve(facts.points, facts.steering), facts.frames) : [],
        point:
          rendition && quality ? [{ kilobytes: rendition.bytes / 1000, ssim: quality.ssim }] : [],
      }
    })
}

type ClipCurves = ReturnType<typeof curvesOf>

interface PlotProps {
  readonly clips: ClipCurves
  readonly budgetKilobytes: number
  readonly place: CurvePlace | null
  readonly onPlace: (place: CurvePlace | null) => void
  readonly onChoose: (point: CurvePoint) => void
}

/** Beside the curves, which would run through it on the left. */
const CEILING_LABEL = {
  value: 'detail is visually lossless above this',
  fontSize: 10,
  fill: '#625a4d',
  position: 'insideTopRight',
  offset: 16,
} as const

function Plot({ clips, budgetKilobytes, place, onPlace, onChoose }: PlotProps) {
  const all = clips.flatMap(({ curve, point }) => [...curve, ...point])
  const max = Math.max(budgetKilobytes, ...all.map(({ kilobytes }) => kilobytes)) * 1.1
  // The part of the scale that the curves run over: calm clips never fall below 0.97.
  const lowest = Math.max(
    0,
    Math.floor(Math.min(0.98, ...all.map(({ ssim }) => ssim)) * 100 - 0.5) / 100,
  )
  const min = Math.max(
    1,
    Math.min(budgetKilobytes, ...all.map(({ kilobytes }) => kilobytes)) * 0.85,
  )
  return (
    <ResponsiveContainer width="100%" height="100%">
      <ComposedChart
        margin={{ top: 6, right: 14, bottom: 2, left: -12 }}
        accessibilityLayer={false}
      >
        <CartesianGrid stroke="#d9d1c1" />
        <XAxis
          dataKey="kilobytes"
          type="number"
          scale="log"
          domain={[min, max]}
          allowDataOverflow
          ticks={niceTicks(min, max)}
          tick={{ fontSize: 10, fill: '#625a4d' }}
        />
        <YAxis
          dataKey="ssim"
          type="number"
          domain={[lowest, 1]}
          allowDataOverflow
          tickCount={5}
          tickFormatter={(value: number) => value.toFixed(lowest > 0.9 ? 3 : 2)}
          width={58}
          tick={{ fontSize: 10, fill: '#625a4d' }}
        />
        <Tooltip content={() => null} isAnimationActive={false} cursor={false} />
        <ReferenceLine
          x={budgetKilobytes}
          stroke="#9c1c35"
          strokeDasharray="4 3"
          label={{
            value: 'budget',
            fontSize: 10,
            fill: '#9c1c35',
            position: 'insideBottomRight',
            offset: 6,
          }}
        />
        <ReferenceLine
          y={VISUALLY_LOSSLESS_SSIM}
          stroke="#625a4d"
          strokeDasharray="1 3"
          label={CEILING_LABEL}
        />
        {clips.map(({ recipe: { family }, curve }) => (
          <Line
            key={family}
            data={curve}
            dataKey="ssim"
            name={FORMAT_NAMES[family]}
            stroke={DRAWN[family].colour}
            strokeDasharray={DRAWN[family].dash}
            strokeWidth={2}
            isAnimationActive={false}
            activeDot={false}
            dot={({ key, ...dot }: CurveDotProps & { key?: Key | null }) => (
              <CurveDot
                key={key}
                {...dot}
                family={family}
                isSelected={place?.family === family && place.index === dot.index}
                onPlace={onPlace}
                onChoose={onChoose}
              />
            )}
          />
        ))}
        {clips.map(({ recipe: { family }, point }) => (
          <Scatter
            key={family}
            data={point}
            dataKey="ssim"
            name={`${FORMAT_NAMES[family]}, made`}
            fill={DRAWN[family].colour}
            shape={DRAWN[family].shape}
            isAnimationActive={false}
          />
        ))}
      </ComposedChart>
    </ResponsiveContainer>
  )
}

interface CurveDotProps {
  readonly cx?: number
  readonly cy?: number
  readonly index?: number
  readonly payload?: CurvePoint
}

/** A place on a curve: larger than what is drawn of it, so that it can be hit. */
function CurveDot({
  cx,
  cy,
  index,
  payload,
  family,
  isSelected,
  onPlace,
  onChoose,
}: CurveDotProps &
  Pick<PlotProps, 'onPlace' | 'onChoose'> & { family: Family; isSelected: boolean }) {
  return (
    <g>
      {isSelected && (
        <circle
          cx={cx}
          cy={cy}
          r={5}
          fill="#fbf8f2"
          stroke={DRAWN[family].colour}
          strokeWidth={2.5}
        />
      )}
      <circle
        cx={cx}
        cy={cy}
        r={7}
        fill="transparent"
        style={{ cursor: 'pointer' }}
        onMouseEnter={() => onPlace({ family, index: index! })}
        onMouseLeave={() => onPlace(null)}
        onPointerDown={(event) => event.button === 0 && payload && onChoose(payload)}
        data-testid={`curve-${family}-${index}`}
      />
    </g>
  )
}

const wordsOf = ({ family }: CurvePlace, { kilobytes, ssim }: CurvePoint): string =>
  `${FORMAT_NAMES[family]} ${formatBytes(kilobytes * 1000)}, ${ssim.toFixed(3)}`

function Sign({ family }: { family: Family }) {
  const { colour, dash } = DRAWN[family]
  return (
    <span className="inline-flex items-center gap-1">
      <svg width="18" height="6" aria-hidden>
        <line x1="0" x2="18" y1="3" y2="3" stroke={colour} strokeWidth="2" strokeDasharray={dash} />
      </svg>
      {FORMAT_NAMES[family]}
    </span>
  )
}
