import { toNumber } from '../../../core/Fraction'
import {
  keepsAreas,
  planTrace,
  TraceWriter,
  type ContrastTrace,
} from '../../../core/legibility/ContrastTrace'
import { copyAreas } from '../../../core/legibility/copyAreas'
import type { ScreenView } from '../../../core/legibility/CopySamples'
import type { ShareRect } from '../../../core/picture/pictureShape'
import { inTurn } from '../inTurn'
import type { OpenSequence } from '../sequences/OpenSequence'
import { WorkError } from '../WorkError'
import type { ContrastBase } from './ContrastOrder'
import { keepTrace, keptTrace } from './keptTraces'

/** Traces that are held: each screen may have its own. */
const MAX_HELD = 4
/** Of fewer frames a second a trace has no more bytes for each. */
const USUAL_RATE = 24

/** Makes traces and remembers them: frames are decoded again only where copy has moved away. */
export class ContrastTraces {
  private readonly turn = inTurn()
  private readonly held = new Map<string, ContrastTrace>()

  /**
   * The trace of a base with what lies behind all of `views`. Errors: those of decoding;
   * `work/cancelled`.
   */
  async get(
    base: ContrastBase,
    views: readonly ScreenView[],
    open: () => Promise<OpenSequence>,
    signal: AbortSignal,
    onDone: (done: number) => void,
  ): Promise<ContrastTrace> {
    const areas = views.flatMap(copyAreas)
    const serves = (trace: ContrastTrace | null | undefined): trace is ContrastTrace =>
      trace?.frames === base.sequence.frames && keepsAreas(trace, areas)
    const held = this.held.get(base.key)
    if (serves(held)) return this.hold(base.key, held)
    // One at a time: who asks while the same frames are being decoded gets what comes of it.
    return this.turn(async () => {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const known = this.held.get(base.key) ?? (await keptTrace(base.key))
      if (serves(known)) return this.hold(base.key, known)
      const trace = await decoded(await open(), base, areas, signal, onDone)
      await keepTrace(base.key, trace)
      return this.hold(base.key, trace)
    })
  }

  private hold(key: string, trace: ContrastTrace): ContrastTrace {
    this.held.delete(key)
    this.held.set(key, trace)
    for (const oldest of this.held.keys()) if (this.held.size > MAX_HELD) this.held.delete(oldest)
    return trace
  }
}

async function decoded(
  open: OpenSequence,
  { picture, copyBlur }: ContrastBase,
  areas: readonly ShareRect[],
  signal: AbortSignal,
  onDone: (done: number) => void,
): Promise<ContrastTrace> {
  const { frames, frameRate } = open.sequence
  const seconds = frames / Math.max(USUAL_RATE, toNumber(frameRate))
  const plan = planTrace(picture, frames, seconds, areas)
  const writer = new TraceWriter(plan)
  const numbers = Array.from({ length: frames }, (_, number) => number)
  const { width, height } = plan
  const order = { width, height, copyBlur, means: true }
  let count = 0
  for await (const composed of open.composed(numbers, order, signal)) {
    writer.add(composed.picture, composed.kind)
    onDone(++count / frames)
  }
  if (signal.aborted) throw new WorkError('work/cancelled')
  return writer.finish()
}
