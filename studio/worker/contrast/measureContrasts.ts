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
import type { heldTexts, LargeFrames } from './fullSize'
import type { Held } from './Held'
import { ParticleSamples, type SampledTimes } from './ParticleSamples'
import { ScreenCheck } from './ScreenCheck'

/** What is kept from one order to the next. */
export interface ContrastMemory {
  readonly traces: ContrastTraces
  readonly frames: LargeFrames
  readonly painted: ReturnType<typeof heldTexts>
  readonly sampled: Held<SampledTimes>
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
  memory: ContrastMemory,
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
      await memory.traces.get(base, own(index), opened[index]!, signal, (done) => {
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
  const checks: ScreenCheck[] = []
  for (const each of measured) {
    const { screen, view } = each
    const rows = await rowsOf(each, order, memory, signal)
    onStep({ phase: 'screen', screen: screen.name, rows })
    const { key } = bases[screen.base]!
    const particles = screen.isStill ? null : order.particles
    const parts = { baseKey: key, view, scrim: screen.scrim, particles, painted: memory.painted }
    checks.push(new ScreenCheck(parts, rows, momentsOf(screen, order)))
  }
  // Screens share the frames of a base: it is decoded once for all of them.
  for (const [index, base] of bases.entries()) {
    const those = checks.filter((_, at) => screens[at]!.base === index)
    const numbers = [...new Set(those.flatMap(({ missing }) => missing))]
    for await (const { number, frame } of memory.frames.get(
      base,
      numbers,
      own(index),
      opened[index]!,
      signal,
    ))
      for (const each of those) await each.add(number, frame)
  }
  const worst = screens.flatMap(({ name }, at) =>
    worstMoments(name, views[at]!.texts, checks[at]!.rows),
  )
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
  { sampled }: ContrastMemory,
  signal: AbortSignal,
): Promise<ContrastRow[]> {
  const moments = momentsOf(screen, order)
  const grid = traceGrid(view, trace)
  const scale = 1 / (grid.xOf(1) - grid.xOf(0))
  const particles =
    screen.isStill || !order.particles
      ? null
      : new ParticleSamples(order.particles, view, scale, samples, sampled)
  const rows: ContrastRow[] = []
  let since = performance.now()
  for (const { frame, seconds } of moments) {
    if (performance.now() - since > BREATHE_MS) {
      await new Promise((resolve) => setTimeout(resolve))
      if (signal.aborted) throw new WorkError('work/cancelled')
      since = performance.now()
    }
    const data = await particles?.at(seconds)
    rows.push({
      seconds,
      places: samples.map((each, text) => {
        const at = particles?.places[text]
        if (!isSeen(each?.text, screen.isStill ? 0 : seconds)) return null
        return each && meter.measure(each, frame, data && at ? { data, at } : null)
      }),
    })
  }
  particles?.keep()
  return rows
}
