import type { ClipFacts } from '../../../core/api/wire'
import { packClip } from '../../../core/api/packClip'
import { passJob } from '../../../core/backdrop/passJob'
import { probeOf, type ClipRecipe } from '../../../core/backdrop/recipe'
import { toNumber } from '../../../core/Fraction'
import { SeamMeter } from '../../../core/loop/SeamMeter'
import { describeI420 } from '../../../core/picture/describeI420'
import { maxBitrate } from '../../../core/weight/maxUsefulRate'
import { planPass, type PassResult } from '../../../core/weight/passes'
import type { Steering } from '../../../core/weight/ProbeCurve'
import type { ProbeFacts } from '../../../core/weight/ProbeFacts'
import type { RateControl } from '../../../core/weight/RateControl'
import type { LoopMeter } from '../compose/LoopMeter'
import { allFrames, outputFrames, toSize } from '../compose/outputFrames'
import { encodeFrames } from '../encode/encodeFrames'
import { qualityOf, QualityWatch } from '../encode/QualityWatch'
import type { FrameWitness, OpenSequence } from '../sequences/OpenSequence'
import { probeClip } from './probeClip'

/** Progress of a render: the share done of the present pass, and which pass it is. */
export interface RenderProgress {
  readonly done: number
  readonly pass: number
}

/** A finished clip. */
export interface RenderedClip {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly facts: ClipFacts
}

/**
 * Frames from the loop's end that an encoder sees first. Source: docs/method.md, rate control.
 */
const PREROLL_FRAMES = 6

/**
 * Renders a loop from its recipe: decodes, composes where needed, encodes towards its goal, and
 * writes the container; measures seam and quality on the way. `probe` is an earlier probe of the
 * same clip; without it one is made. Errors: those of decoding and encoding.
 */
export async function renderClip(
  open: OpenSequence,
  recipe: ClipRecipe,
  probe: ProbeFacts | null,
  onProgress: (progress: RenderProgress) => void,
  signal: AbortSignal,
): Promise<RenderedClip> {
  const { goal } = recipe
  if (!goal) return renderQuickly(open, recipe, onProgress, signal)
  const told =
    probe ??
    (await probeClip(open, probeOf(recipe), (done) => onProgress({ done, pass: 0 }), signal)).facts
  const start = performance.now()
  const count = recipe.sequence.frames
  const job = passJob(recipe, goal, told)
  const meter = open.seamMeter()
  // Of each pass only its file is kept, not its frames: the output is all that grows with a clip's
  // length.
  const made: { readonly result: PassResult; readonly clip: RenderedClip }[] = []
  for (;;) {
    const decision = planPass(
      job,
      made.map(({ result }) => result),
    )
    if (decision.kind === 'keep') {
      const { bytes, facts } = made[decision.index]!.clip
      const encodeSeconds = Math.round((performance.now() - start) / 100) / 10
      return {
        bytes,
        facts: { ...facts, seam: meter?.figure() ?? null, encodeSeconds, passes: made.length },
      }
    }
    const pass = made.length
    made.push(
      await makePass(
        open,
        recipe,
        told.steering,
        decision.rateControl,
        pass === 0 ? meter : null,
        (done) => onProgress({ done: done / count, pass }),
        signal,
      ),
    )
  }
}

/**
 * One pass towards a goal: the input is measured and kept for comparison, the output is decoded and
 * compared on the way.
 */
async function makePass(
  open: OpenSequence,
  recipe: ClipRecipe,
  steering: Steering,
  rateControl: RateControl,
  meter: LoopMeter | null,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<{ readonly result: PassResult; readonly clip: RenderedClip }> {
  const { width, height } = recipe
  const { frames: count, frameRate, loops } = recipe.sequence
  // An encoder with a target bit rate starts blurry, which would pulse at every loop point: it
  // first gets a little of the loop to adapt.
  const preroll = loops && steering === 'rate' ? Math.min(PREROLL_FRAMES, count) : 0
  const joined = loops ? new SeamMeter(count) : null
  const watch = new QualityWatch({ width, height, count, meter: joined })
  const settings: number[] = []
  const noted: RateControl = {
    next() {
      const setting = rateControl.next()
      settings.push(setting)
      return setting
    },
    took: (bytes) => rateControl.took(bytes),
    waits: () => rateControl.waits(),
  }
  const order = {
    ...recipe,
    frameRate,
    bitsPerSecond: maxBitrate(recipe.family, width, height, toNumber(frameRate)),
    preroll,
    steering: { by: steering, rateControl: noted },
  }
  try {
    const track = await encodeFrames(
      order,
      outputFrames(
        open,
        { ...recipe, exactSize: steering === 'rate' },
        allFrames(open),
        preroll,
        witnessOf(recipe, watch, meter),
        signal,
      ),
      (done) => onProgress(done / count),
      signal,
      (chunk, decoder) => watch.see(chunk, decoder),
    )
    const quality = qualityOf(await watch.finish())
    const { bytes, facts } = packClip(recipe, track)
    return {
      result: {
        bytes: bytes.byteLength,
        sizes: track.frames.map(({ data }) => data.byteLength),
        settings,
        ssim: quality.ssim,
        worst: quality.worstSsim,
        seen: quality.seen,
      },
      clip: {
        bytes,
        facts: { ...facts, deliveredSeam: joined?.figure() ?? null, quality },
      },
    }
  } finally {
    watch.close()
  }
}

/**
 * Shows input frames to the seam meter, and gives those that are compared to the watch, at the
 * delivered size.
 */
function witnessOf(
  { width, height }: ClipRecipe,
  watch: QualityWatch,
  meter: LoopMeter | null,
): FrameWitness {
  const fit = toSize(width, height)
  return {
    wants: (k) => watch.wants(k) || meter?.wants(k) === true,
    async see(k, picture) {
      const whole = await picture()
      if (meter?.wants(k)) meter.see(k, describeI420(whole))
      if (watch.wants(k)) watch.hold(k, fit(whole))
    },
    seeParts: (k, frame) => meter?.seeParts(k, frame),
  }
}

/** A proof: one pass at a generous rate, nothing compared. */
async function renderQuickly(
  open: OpenSequence,
  recipe: ClipRecipe,
  onProgress: (progress: RenderProgress) => void,
  signal: AbortSignal,
): Promise<RenderedClip> {
  const start = performance.now()
  const { frames: count, frameRate, loops } = recipe.sequence
  const meter = open.seamMeter()
  const preroll = loops ? Math.min(PREROLL_FRAMES, count) : 0
  const witness: FrameWitness | null = meter && {
    wants: (k) => meter.wants(k),
    see: async (k, picture) => meter.see(k, describeI420(await picture())),
    seeParts: (k, frame) => meter.seeParts(k, frame),
  }
  const order = {
    ...recipe,
    frameRate,
    bitsPerSecond: maxBitrate(recipe.family, recipe.width, recipe.height, toNumber(frameRate)),
    preroll,
  }
  const track = await encodeFrames(
    order,
    outputFrames(open, recipe, allFrames(open), preroll, witness, signal),
    (done) => onProgress({ done: done / count, pass: 0 }),
    signal,
  )
  const { bytes, facts } = packClip(recipe, track)
  return {
    bytes,
    facts: {
      ...facts,
      seam: meter?.figure() ?? null,
      encodeSeconds: Math.round((performance.now() - start) / 100) / 10,
    },
  }
}
