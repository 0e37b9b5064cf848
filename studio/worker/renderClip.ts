import type { ClipFacts, SeamFigure } from '../../core/api/wire'
import { containerOf, type ClipRecipe } from '../../core/backdrop/recipe'
import { cutFrames, framePlan, type PlannedFrame } from '../../core/loop/framePlan'
import { loopRepeats } from '../../core/loop/loopRepeats'
import { SeamMeter } from '../../core/loop/SeamMeter'
import { avcCodecString, parseSps } from '../../core/media/codecs/h264'
import { lowestVp9Level, parseVp9Frame, vp9CodecString } from '../../core/media/codecs/vp9'
import type { EncodedTrack } from '../../core/media/EncodedTrack'
import { bitsPerSecond, writeMp4 } from '../../core/media/isobmff/writeMp4'
import { writeWebm } from '../../core/media/matroska/writeWebm'
import { describeI420 } from '../../core/picture/describeI420'
import type { Oklab } from '../../core/picture/convertSrgbToOklab'
import { isPlain } from '../../core/picture/pictureShape'
import { nextQuantizer, type QuantizerDecision } from '../../core/weight/quantizerControl'
import { ceilingRate, nextRate, type RateDecision } from '../../core/weight/rateControl'
import { composeFrame, type ComposeOrder, frameOf, needsComposing, planesOfFrame } from './composeFrame'
import { composedFrames } from './composedFrames'
import { decodeFrames } from './decodeFrames'
import { encodeFrames, takesQuantizer } from './encodeFrames'
import { openClip, type OpenClip } from './OpenClip'
import { fileSource } from './sources'

/** How far a render is: the share done of the pass under way, and which pass it is. */
export interface RenderProgress {
  readonly done: number
  readonly pass: number
}

/** A finished clip. */
export interface RenderedClip {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly facts: ClipFacts
}

/** Renders a loop from its recipe: decode, compose where needed, encode within the budget, put in a container, measure the join. */
export async function renderClip(clip: OpenClip, recipe: ClipRecipe, onProgress: (progress: RenderProgress) => void, signal: AbortSignal): Promise<RenderedClip> {
  const start = performance.now()
  const plan = framePlan(recipe, clip.presentation)
  const seconds = (plan.length * recipe.frameRate.den) / recipe.frameRate.num
  const ceiling = ceilingRate(recipe.family, recipe.width, recipe.height, recipe.frameRate.num / recipe.frameRate.den)
  const seam = recipe.loops ? new LoopMeter(recipe, plan) : null
  const quantized = recipe.budgetBytes !== null && (await takesQuantizer({ ...recipe, bitsPerSecond: ceiling }))
  // Of each pass only its file is kept, not its frames: the output is all that grows with a clip's length.
  const attempts: Attempted[] = []
  for (;;) {
    const decision = decide(attempts, recipe.budgetBytes, seconds, ceiling, quantized)
    if (decision.kind === 'keep') {
      const { facts, bytes } = attempts[decision.index]!
      const encodeSeconds = Math.round((performance.now() - start) / 100) / 10
      const deliveredSeamRatio = recipe.kind === 'clip' && recipe.loops ? await joinOfFile(bytes, plan.length, signal) : null
      return { bytes, facts: { ...facts, seam: seam?.figure() ?? null, deliveredSeamRatio, encodeSeconds } }
    }
    const pass = attempts.length
    const quantizer = 'quantizer' in decision ? decision.quantizer : null
    const bitsPerSecond = 'bitsPerSecond' in decision ? decision.bitsPerSecond : ceiling
    // An encoder that aims at a bit rate starts blurry, which would pulse at every join: it first sees how the loop ends.
    const preroll = recipe.loops && quantizer === null ? Math.min(PREROLL_FRAMES, plan.length) : 0
    // What the first pass showed, the others show again.
    const frames = outputFrames(clip, recipe, plan, preroll, pass === 0 ? seam : null, signal)
    const track = await encodeFrames({ ...recipe, bitsPerSecond, preroll, quantizerOf: quantizer === null ? null : (k) => joinQuantizer(quantizer, k, plan.length) }, frames, (done) => onProgress({ done: done / plan.length, pass }), signal)
    const repeats = recipe.loops ? loopRepeats(track.frames.length, recipe.frameRate, track.frames.reduce((sum, frame) => sum + frame.data.byteLength, 0)) : 1
    const bytes = containerOf(recipe) === 'mp4' ? writeMp4(track, null, repeats) : writeWebm(track)
    attempts.push({ bitsPerSecond, quantizer: quantizer ?? 0, bytes, facts: factsOf(recipe, track, repeats) })
  }
}

/** Frames from the loop's end that an encoder sees first. Source: docs/method.md, "What the platform does", rate control. */
const PREROLL_FRAMES = 15
/** The range of constant quantizers: finer than the first is seen by nobody. */
const FINEST_QUANTIZER = 84
const COARSEST_QUANTIZER = 255

/** The quantizer of frame `k`: finer at the join. */
function joinQuantizer(quantizer: number, k: number, count: number): number {
  const left = k === 0 ? 0 : count - k
  return Math.round(quantizer * (0.5 + 0.5 * Math.min(1, left / 12)))
}

/** A pass that was made. */
interface Attempted {
  readonly bitsPerSecond: number
  readonly quantizer: number
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly facts: Pick<ClipFacts, 'kind' | 'type' | 'codec' | 'width' | 'height' | 'frames' | 'repeats'>
}

function decide(attempts: readonly Attempted[], budgetBytes: number | null, seconds: number, ceiling: number, quantized: boolean): RateDecision | QuantizerDecision {
  if (budgetBytes === null) return attempts.length === 0 ? { kind: 'encode', bitsPerSecond: ceiling } : { kind: 'keep', index: 0 }
  const sizes = attempts.map(({ bitsPerSecond, quantizer, bytes }) => ({ bitsPerSecond, quantizer, bytes: bytes.byteLength }))
  return quantized ? nextQuantizer(sizes, budgetBytes, FINEST_QUANTIZER, COARSEST_QUANTIZER) : nextRate(sizes, budgetBytes, seconds, ceiling)
}

/** The output frames in order, each with its time, after `preroll` frames of the loop's end. */
async function* outputFrames(clip: OpenClip, recipe: ClipRecipe, plan: readonly PlannedFrame[], preroll: number, meter: LoopMeter | null, signal: AbortSignal): AsyncGenerator<VideoFrame> {
  const { num, den } = recipe.frameRate
  const at = (k: number): number => Math.round((k * den * 1e6) / num)
  if (preroll > 0) yield* turnOfFrames(clip, recipe, plan.slice(plan.length - preroll), at, null, signal)
  yield* turnOfFrames(clip, recipe, plan, (k) => at(k + preroll), meter, signal)
}

/**
 * Planned frames in order. Where nothing but their size changes, decoded ones go to the encoder as they are, and mixed ones are composed at the clip's own size: the
 * encoder scales both, faster than we could and alike. All others are composed at the size that is delivered.
 */
async function* turnOfFrames(clip: OpenClip, recipe: ClipRecipe, plan: readonly PlannedFrame[], at: (k: number) => number, meter: LoopMeter | null, signal: AbortSignal): AsyncGenerator<VideoFrame> {
  const { rotationDeg, visibleWidth, visibleHeight } = clip.file.video
  const forward = isPlain(recipe.shape) && rotationDeg === 0 && recipe.seam.kind !== 'there-and-back'
  const native = { shape: recipe.shape, width: visibleWidth - (visibleWidth % 2), height: visibleHeight - (visibleHeight % 2) }
  let k = 0
  for (const run of forward ? runsByMixing(plan) : [{ mixed: true, frames: plan }]) {
    if (run.mixed) yield* mixedFrames(clip, forward ? native : recipe, run.frames, k, at, meter, signal)
    else yield* passedFrames(clip, recipe, run.frames.map(({ show }) => show.frame), k, at, meter, signal)
    k += run.frames.length
  }
}

/** Splits a plan into runs of frames that are mixed from others and of frames that stand alone. */
function runsByMixing(plan: readonly PlannedFrame[]): { readonly mixed: boolean; readonly frames: PlannedFrame[] }[] {
  const runs: { mixed: boolean; frames: PlannedFrame[] }[] = []
  for (const frame of plan) {
    const mixed = frame.under !== null || frame.show.share > 0
    const run = runs[runs.length - 1]
    if (run?.mixed === mixed) run.frames.push(frame)
    else runs.push({ mixed, frames: [frame] })
  }
  return runs
}

/** Composed frames, the first of them number `first` of the loop. */
async function* mixedFrames(clip: OpenClip, order: ComposeOrder, plan: readonly PlannedFrame[], first: number, at: (k: number) => number, meter: LoopMeter | null, signal: AbortSignal): AsyncGenerator<VideoFrame> {
  let k = first
  for await (const composed of composedFrames(clip, order, plan, signal)) {
    if (meter?.wants(k)) meter.see(k, describeI420(composed.picture))
    if (meter) meter.seeEnds(k, () => ({ show: describeI420(composed.show.picture), under: composed.under && describeI420(composed.under.picture) }))
    yield frameOf(composed, at(k), at(k + 1) - at(k))
    k += 1
  }
}

/** Frames that only change their size, the first of them number `first` of the loop. A source frame that is shown several times is decoded once. */
async function* passedFrames(clip: OpenClip, recipe: ClipRecipe, numbers: readonly number[], first: number, at: (k: number) => number, meter: LoopMeter | null, signal: AbortSignal): AsyncGenerator<VideoFrame> {
  const track = clip.file.video
  let due = 0
  for await (const { number, frame } of decodeFrames(clip, numbers[0]!, numbers[numbers.length - 1]!, signal)) {
    try {
      for (; due < numbers.length && numbers[due]! <= number; due++) {
        const k = first + due
        if (meter?.wants(k)) meter.see(k, describeI420(await planesOfFrame(frame, track)))
        const duration = at(k + 1) - at(k)
        yield needsComposing(frame, track, recipe.shape)
          ? frameOf(await composeFrame(frame, track, recipe), at(k), duration)
          : new VideoFrame(frame, { timestamp: at(k), duration })
      }
    } finally {
      frame.close()
    }
  }
}

/** Measures the join of a loop on its composed frames, and what a straight seam of the same cut would have. */
class LoopMeter extends SeamMeter {
  private readonly lastBlend: number
  private readonly straight: boolean
  private start: readonly Oklab[] | null = null
  private end: readonly Oklab[] | null = null

  constructor(recipe: ClipRecipe, plan: readonly PlannedFrame[]) {
    super(plan.length)
    this.straight = recipe.seam.kind === 'straight'
    // The cut's last frame: the last one under a blend, or where there and back turns.
    this.lastBlend = recipe.seam.kind === 'there-and-back' ? cutFrames(recipe) - 1 : plan.reduce((last, { under }, k) => (under ? k : last), 0)
  }

  /** Notes the cut's own first and last frame, unblended, as they pass by. */
  seeEnds(k: number, describe: () => { show: readonly Oklab[]; under: readonly Oklab[] | null }): void {
    if (k === 0) this.start = describe().show
    if (k === this.lastBlend && !this.straight) {
      const { show, under } = describe()
      this.end = under ?? show
    }
  }

  override figure(): SeamFigure | null {
    const own = super.figure()
    if (!own) return null
    if (this.straight) return { ...own, straightRatio: own.ratio }
    return { ...own, straightRatio: this.start && this.end ? (super.figure({ last: this.end, first: this.start })?.ratio ?? null) : null }
  }
}

/** The join as the finished file shows it: decoded again. Null for a loop without motion. */
async function joinOfFile(bytes: Uint8Array<ArrayBuffer>, frames: number, signal: AbortSignal): Promise<number | null> {
  const made = await openClip(fileSource(new Blob([bytes])))
  const meter = new SeamMeter(frames)
  for await (const { number, frame } of decodeFrames(made, 0, frames - 1, signal)) {
    try {
      if (meter.wants(number)) meter.see(number, describeI420(await planesOfFrame(frame, made.file.video)))
    } finally {
      frame.close()
    }
  }
  return meter.figure()?.ratio ?? null
}

/** The facts of a clip; its codec string is what the bitstream itself declares. */
function factsOf(recipe: ClipRecipe, track: EncodedTrack, repeats: number) {
  return {
    kind: 'clip' as const,
    type: `video/${containerOf(recipe)}` as const,
    codec: streamCodec(track),
    width: track.width,
    height: track.height,
    frames: track.frames.length,
    repeats,
  }
}

function streamCodec(track: EncodedTrack): string {
  if (track.family === 'h264') {
    // avcC: version, profile, compatibility, level, length size, count of SPS, then a length and the SPS itself.
    const record = track.description!
    const spsLength = (record[6]! << 8) | record[7]!
    return avcCodecString('avc1', parseSps(record.subarray(8, 8 + spsLength)))
  }
  const facts = parseVp9Frame(track.frames[0]!.data)
  const level = lowestVp9Level(track.width, track.height, track.frameRate.num / track.frameRate.den, bitsPerSecond(track))
  return vp9CodecString({ ...facts, level })
}
