import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import {
  classServing,
  clipRecipes,
  pageParts,
  posterRecipes,
  recipeKey,
} from '../../../core/backdrop/recipe'
import { autoplays } from '../../../core/behaviour/autoplays'
import { SCREENS, SCREEN_CLASSES } from '../../../core/fit/screens'
import { toNumber } from '../../../core/Fraction'
import {
  firstLoad,
  LINES,
  type FirstLoad,
  type Line,
  type LineName,
  type LoadedPage,
} from '../../../core/weight/firstLoad'
import type { LoadedSources } from '../../state/loadedSources'
import { useWork } from '../../state/workStore'
import { NumberField } from '../../ui/controls'
import { FORMAT_NAMES, formatBytes } from '../../ui/format'
import { Picker } from '../../ui/Picker'
import { timeTicks } from './tradeCurves'
import { useRenditionIndex } from './useRenditionIndex'
import { useWeightView, type ChosenLine } from './weightView'

const NAMES = {
  page: 'page',
  style: 'style',
  script: 'script',
  poster: 'poster',
  clip: 'clip',
} as const

/** The line that was chosen, with what is assumed of it in words. */
function lineOf({ preset, megabits, roundTripMs }: ChosenLine): Line & { readonly note: string } {
  return preset === 'own'
    ? {
        bitsPerSecond: megabits * 1e6,
        roundTripMs,
        handshakes: 3,
        slowStart: true,
        note: 'your own values; DNS, TCP and TLS before the first request',
      }
    : LINES[preset]
}

/**
 * The page that a screen is delivered, with the clips it may choose from; the page is null until
 * its files are rendered.
 */
function useDeliveredPage(document: BackdropDocument, sources: LoadedSources) {
  const made = useWork((state) => state.made)
  const { screenClass, family } = useWeightView()
  const from = sources.known
  const clips = clipRecipes(document, from)
  const served =
    screenClass === 'phone' && document.behaviour.phone === 'poster'
      ? null
      : classServing(
          screenClass,
          clips.map((clip) => clip.screenClass),
        )
  const offered = clips.filter((clip) => clip.screenClass === served)
  const clip = offered.find(({ recipe }) => recipe.family === family) ?? offered[0]
  const rendition = clip && made[recipeKey(clip.recipe)]
  const { index } = useRenditionIndex(rendition)
  const posters = posterRecipes(document, from)
  const posterClass = classServing(
    screenClass,
    posters.map((poster) => poster.screenClass),
  )
  const posterBytes = posters
    // Of several slides the first one is waited for.
    .filter(({ screenClass: each, slide = 0 }) => each === posterClass && slide === 0)
    .flatMap(({ recipe }) => made[recipeKey(recipe)]?.bytes ?? [])
  const ready = posterBytes.length > 0 && (!clip || index !== null)
  const page: LoadedPage | null = ready
    ? {
        ...pageParts(document),
        poster: Math.min(...posterBytes),
        autoplay: autoplays(document),
        clip:
          clip && index
            ? {
                headBytes: rendition!.bytes - index.sizes.reduce((sum, bytes) => sum + bytes, 0),
                frameBytes: index.sizes,
                framesPerSecond: toNumber(clip.recipe.sequence.frameRate),
              }
            : null,
      }
    : null
  return { page, offered, clip }
}

/** What a visitor waits for: the delivered page on a line, as a waterfall. */
export function LoadView({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const { screenClass, line, visits, set } = useWeightView()
  const { page, offered, clip } = useDeliveredPage(document, sources)
  const chosen = lineOf(line)
  const load = page && firstLoad(page, chosen)
  return (
    <div className="flex h-full gap-4 overflow-auto px-4 py-1.5 max-lg:flex-col">
      <div className="flex shrink-0 flex-col gap-1.5 text-xs lg:w-72">
        <div className="flex flex-wrap gap-1.5">
          <Picker
            label="Line"
            value={line.preset}
            onChange={(preset) => set({ line: { ...line, preset } })}
            options={[
              ...(Object.keys(LINES) as LineName[]).map((name) => ({
                value: name as ChosenLine['preset'],
                label: capital(name),
              })),
              { value: 'own' as const, label: 'Own values' },
            ]}
          />
          <Picker
            label="Screen"
            value={screenClass}
            onChange={(next) => set({ screenClass: next })}
            options={SCREEN_CLASSES.map((each) => ({ value: each, label: SCREENS[each].label }))}
          />
          {offered.length > 1 && clip && (
            <Picker
              label="Format"
              value={clip.recipe.family}
              onChange={(next) => set({ family: next })}
              options={offered.map(({ recipe }) => ({
                value: recipe.family,
                label: FORMAT_NAMES[recipe.family],
              }))}
            />
          )}
        </div>
        <div className="flex gap-1.5">
          {line.preset === 'own' && (
            <>
              <NumberField
                label="Mbit/s"
                value={line.megabits}
                low={0.1}
                high={10_000}
                decimals={1}
                onChange={(megabits) => set({ line: { ...line, megabits } })}
              />
              <NumberField
                label="Round trip"
                value={line.roundTripMs}
                low={1}
                high={2000}
                suffix="ms"
                onChange={(roundTripMs) => set({ line: { ...line, roundTripMs } })}
              />
            </>
          )}
          <NumberField
            label="Visits a month"
            value={visits}
            low={1}
            high={1_000_000_000}
            onChange={(next) => set({ visits: next })}
          />
        </div>
        <p className="text-muted">
          Assumed: {chosen.note}. Connections start with ten segments and double; nothing is in the
          cache.
        </p>
      </div>
      <div className="flex min-w-0 flex-1 flex-col gap-1">
        {load ? (
          <Waterfall load={load} visits={visits} />
        ) : (
          <p className="py-2 text-muted">
            Render the files first: this view loads their real bytes.
          </p>
        )}
      </div>
    </div>
  )
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)
const seconds = (ms: number): string => `${(ms / 1000).toFixed(2)} s`

function Waterfall({ load, visits }: { load: FirstLoad; visits: number }) {
  const until = Math.max(load.motionMs ?? 0, load.posterMs) * 1.6
  const end = Math.min(Math.max(...load.transfers.map(({ doneMs }) => doneMs)), until)
  const left = (ms: number): string => `${Math.min(100, (ms / end) * 100)}%`
  return (
    <>
      <dl className="flex flex-wrap gap-x-6 gap-y-0.5">
        <Figure term="Poster visible" value={seconds(load.posterMs)} />
        <Figure
          term="Motion starts"
          value={load.motionMs === null ? 'never (poster only)' : seconds(load.motionMs)}
        />
        <Figure
          term="While it plays"
          value={
            load.motionMs === null
              ? '–'
              : load.stalls === 0
                ? 'without stops'
                : `stops ${load.stalls} ×, ${seconds(load.stalledMs)} in total`
          }
          alarm={load.stalls > 0}
        />
        <Figure term="First visit" value={formatBytes(load.bytes)} />
        <Figure term="A month" value={`${formatBytes(load.bytes * visits)}`} />
      </dl>
      <div
        className="relative min-h-28 flex-1"
        role="img"
        aria-label={`Waterfall: poster after ${seconds(load.posterMs)}, motion after ${load.motionMs === null ? 'never' : seconds(load.motionMs)}`}
      >
        <div aria-hidden className="pointer-events-none absolute inset-y-0 right-0 left-28">
          {timeTicks(end / 1000).map((tick) => (
            <span
              key={tick}
              className="absolute inset-y-0 border-l border-line-strong/30 pl-1 font-mono text-[0.65rem] leading-none text-muted"
              style={{ left: left(tick * 1000) }}
            >
              {tick} s
            </span>
          ))}
        </div>
        {load.transfers.map(({ name, bytes, askedMs, firstByteMs, doneMs }, row) => (
          <div
            key={name}
            className="absolute inset-x-0 flex items-center text-xs"
            style={{ top: `${10 + row * 16}%`, height: '15%' }}
          >
            <span className="w-28 shrink-0 truncate pr-2 text-right text-muted">
              {NAMES[name]}, {formatBytes(bytes)}
            </span>
            <span className="relative h-full flex-1 border-l border-line-strong/50">
              <span
                className="absolute top-1/2 h-px bg-ink/50"
                style={{
                  left: left(askedMs),
                  width: `calc(${left(firstByteMs)} - ${left(askedMs)})`,
                }}
                title="requested"
              />
              <span
                className={`absolute inset-y-0.5 rounded-sm ${name === 'poster' ? 'bg-curtain' : name === 'clip' ? 'bg-[#54406b]' : 'bg-line-strong'}`}
                style={{
                  left: left(firstByteMs),
                  width: `max(2px, calc(${left(Math.min(doneMs, end))} - ${left(firstByteMs)}))`,
                }}
                title={`${seconds(firstByteMs)} to ${seconds(doneMs)}`}
              />
            </span>
          </div>
        ))}
        <div aria-hidden className="pointer-events-none absolute inset-y-0 right-0 left-28">
          <Mark left={left(load.posterMs)} label="poster" className="border-curtain text-curtain" />
          {load.motionMs !== null && (
            <Mark
              left={left(load.motionMs)}
              label="motion"
              className="border-[#54406b] text-[#54406b]"
            />
          )}
          {end < Math.max(...load.transfers.map(({ doneMs }) => doneMs)) && (
            <span className="absolute right-0 bottom-0 text-xs text-muted">
              the clip loads until{' '}
              {seconds(Math.max(...load.transfers.map(({ doneMs }) => doneMs)))}
            </span>
          )}
        </div>
      </div>
    </>
  )
}

function Mark({ left, label, className }: { left: string; label: string; className: string }) {
  return (
    <span className={`absolute inset-y-0 border-l-2 border-dashed ${className}`} style={{ left }}>
      <span className="absolute -bottom-0.5 left-1 rounded bg-paper px-1 text-xs font-medium">
        {label}
      </span>
    </span>
  )
}

function Figure({ term, value, alarm = false }: { term: string; value: string; alarm?: boolean }) {
  return (
    <div className="flex items-baseline gap-1.5">
      <dt className="text-xs text-muted">{term}</dt>
      <dd className={`text-base figure-face ${alarm ? 'text-fix' : ''}`}>{value}</dd>
    </div>
  )
}
