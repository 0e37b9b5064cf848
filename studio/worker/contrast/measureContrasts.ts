import type { ContrastTrace } from '../../../core/legibility/ContrastTrace'
import {
  CopyMeter,
  copySamples,
  traceGrid,
  type CopySamples,
  type ScreenView,
} from '../../../core/legibility/CopySamples'
import type { Moment } from '../../../core/legibility/contrastMoments'
import { quickWorst } from '../../../core/legibility/quickWorst'
import { doubtfulTimes } from '../../../core/legibility/doubtfulTimes'
import { worstMoments, type ContrastRow, type WorstMoment } from '../../../core/legibility/worstOf'
import type { TextPlace } from '../../../core/legibility/TextPlace'
import { isOfChannels } from '../../../core/picture/blend'
import type { ScrimLayer } from '../../../core/scrim/Scrim'
import { isWithin } from '../../../core/kinds/Span'
import type { OpenSequence } from '../sequences/OpenSequence'
import type {
  ContrastBase,
  ContrastOrder,
  ContrastOutcome,
  ContrastScreen,
  ContrastStep,
} from './ContrastOrder'
import type { ContrastTraces } from './ContrastTraces'
import { WorkError } from '../WorkError'
import { drawnParticles } from './drawnParticles'
import { FullSizeScreen, type LargeFrames } from './fullSize'

/** What is kept from one order to the next. */
export interface ContrastMemory {
  readonly traces: ContrastTraces
  readonly frames: LargeFrames
}

/** The worker takes other messages so often while it computes: it can be stopped. */
const BREATHE_MS = 40
/** Progress is told so often. */
const TELL_MS = 100

/** A screen with the trace of its base. */
interface MeasuredScreen {
  readonly screen: ContrastScreen
  readonly view: ScreenView
  readonly trace: ContrastTrace
  readonly meter: CopyMeter
  /** In order of its texts; null where one lies outside. */
  readonly samples: readonly (CopySamples | null)[]
}

/**
 * The contrast of every text at every moment on every screen, composited as a page shows it: the
 * base covers the region, particles lie over it, then the scrim, then what controls have behind
 * their signs. From traces; the worst times are then checked at full size. Places are told in CSS
 * pixels. Errors: those of decoding; `work/cancelled`.
 */
export async function measureContrasts(
  order: ContrastOrder,
  open: (base: ContrastBase) => Promise<OpenSequence>,
  { traces, frames }: ContrastMemory,
  onStep: (step: ContrastStep) => void,
  signal: AbortSignal,
): Promise<ContrastOutcome> {
  const { bases, screens } = order
  const views = screens.map(({ base, layout, focal }): ScreenView => {
    const { picture } = bases[base]!
    return { ...layout, picture, focal }
  })
  const opened = bases.map((base) => onceOf(() => open(base)))
  const own = (base: number): ScreenView[] => views.filter((_, at) => screens[at]!.base === base)
  const made: ContrastTrace[] = []
  let told = 0
  for (const [index, base] of bases.entries())
    made.push(
      await traces.get(base, own(index), opened[index]!, signal, (done) => {
        if (performance.now() - told < TELL_MS) return
        told = performance.now()
        onStep({ phase: 'reading', done: (index + done) / bases.length })
      }),
    )
  const measured = screens.map((screen, index): MeasuredScreen => {
    const [view, trace] = [views[index]!, made[screen.base]!]
    const samples = view.texts.map((text) => copySamples(trace, view, screen.scrim, text))
    return { screen, view, trace, meter: new CopyMeter(trace), samples }
  })
  if (!order.particles)
    onStep({ phase: 'quick', worst: measured.flatMap((each) => quick(each, order)) })
  const worst: WorstMoment[] = []
  for (const each of measured) {
    const rows = await rowsOf(each, order, signal)
    const { name, isStill, scrim } = each.screen
    const moments = momentsOf(each.screen, order)
    onStep({ phase: 'screen', screen: name, rows })
    const opens = opened[each.screen.base]!
    const numbers = new Map(moments.map(({ seconds, frame }) => [seconds, frame]))
    const doubtful = each.view.texts.map((_, text) => doubtfulTimes(rows, text))
    const times = [...new Set(doubtful.flat())]
    const wanted = [...new Set(times.map((seconds) => numbers.get(seconds)!))]
    const full = await FullSizeScreen.of(each.view, scrim, isStill ? null : order.particles)
    const checked: ContrastRow[] = []
    const base = bases[each.screen.base]!
    for await (const { number, frame } of frames.get(
      base,
      wanted,
      own(each.screen.base),
      opens,
      signal,
    ))
      for (const seconds of times.filter((time) => numbers.get(time) === number))
        checked.push({
          seconds,
          places: full
            .measure(frame, seconds, each.view.texts)
            .map((place, text) => (doubtful[text]!.includes(seconds) ? place : null)),
        })
    worst.push(...worstMoments(name, each.view.texts, checked))
  }
  return { worst }
}

/** Whether a text is seen at a moment: words of slides are with theirs. */
const isSeen = (text: TextPlace | undefined, seconds: number): boolean =>
  !text?.during || isWithin(text.during, seconds)

/** The moments of a screen: one that stands still shows its first frame at all of them. */
const momentsOf = ({ isStill }: ContrastScreen, { moments }: ContrastOrder): readonly Moment[] =>
  isStill ? moments.map(({ seconds }) => ({ seconds, frame: 0 })) : moments

/** Opens something when it is first asked for. */
function onceOf<T>(make: () => Promise<T>): () => Promise<T> {
  let made: Promise<T> | null = null
  return () => (made ??= make())
}

/** Bounds hardly tell frames apart behind a layer that mixes channels: fewer are looked at. */
const isUnbounded = ({ blend }: ScrimLayer): boolean => !isOfChannels(blend)

/** The worst times as bounds rank them. */
function quick({ screen, meter, samples }: MeasuredScreen, order: ContrastOrder): WorstMoment[] {
  const moments = momentsOf(screen, order)
  return samples.flatMap((each) => {
    const seen = moments.filter(({ seconds }) => isSeen(each?.text, screen.isStill ? 0 : seconds))
    const frames = [...new Set(seen.map(({ frame }) => frame))]
    const worst =
      each && quickWorst(meter, each, frames, screen.scrim.layers.some(isUnbounded) ? 2 : 4)
    const seconds = worst && seen.find(({ frame }) => frame === worst.frame)?.seconds
    return worst && seconds !== null && seconds !== undefined
      ? { screen: screen.name, text: each.text, seconds, ...worst.place }
      : []
  })
}

/** All moments of a screen. */
async function rowsOf(
  { screen, view, trace, meter, samples }: MeasuredScreen,
  order: ContrastOrder,
  signal: AbortSignal,
): Promise<ContrastRow[]> {
  const moments = momentsOf(screen, order)
  const particles = screen.isStill ? null : order.particles
  const grid = traceGrid(view, trace)
  const scale = 1 / (grid.xOf(1) - grid.xOf(0))
  const drawn = particles && (await drawnParticles(particles, view.region, scale))
  const spots = samples.map((each) => (each && drawn ? drawn.placesOf(each) : null))
  const rows: ContrastRow[] = []
  let since = performance.now()
  for (const { frame, seconds } of moments) {
    if (performance.now() - since > BREATHE_MS) {
      await new Promise((resolve) => setTimeout(resolve))
      if (signal.aborted) throw new WorkError('work/cancelled')
      since = performance.now()
    }
    const data = drawn?.at(seconds)
    rows.push({
      seconds,
      places: samples.map((each, text) => {
        const at = spots[text]
        if (!isSeen(each?.text, screen.isStill ? 0 : seconds)) return null
        return each && meter.measure(each, frame, data && at ? { data, at } : null)
      }),
    })
  }
  return rows
}
