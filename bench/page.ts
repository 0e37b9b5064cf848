import { plainSequence, type FootageSequence } from '../core/kinds/footage/footageSequence'
import type { ClipQuality } from '../core/api/wire'
import { probeOf, type ClipRecipe } from '../core/backdrop/recipe'
import type { ByteSource } from '../core/bytes/ByteSource'
import { planTrace, TraceWriter } from '../core/legibility/ContrastTrace'
import type { I420 } from '../core/picture/I420'
import { maxBitrate } from '../core/weight/maxUsefulRate'
import { ProbeCurve } from '../core/weight/ProbeCurve'
import { constantQuantizer } from '../core/weight/RateControl'
import { planesOfFrame } from '../studio/worker/compose/composeFrame'
import { allFrames, outputFrames, toSize } from '../studio/worker/compose/outputFrames'
import { decodeFrames } from '../studio/worker/decode/decodeFrames'
import { openClip } from '../studio/worker/decode/OpenClip'
import { encodeFrames } from '../studio/worker/encode/encodeFrames'
import {
  comparedFrame,
  qualityOf,
  QualityWatch,
  type ComparedFrame,
} from '../studio/worker/encode/QualityWatch'
import { probeClip } from '../studio/worker/jobs/probeClip'
import { renderClip } from '../studio/worker/jobs/renderClip'
import { OpenFootage } from '../studio/worker/sequences/OpenFootage'
import { fileSource, httpSource, openPlace, type ClipPlace } from '../studio/worker/sources'

/** Quality of the frames of a file against the frames that were encoded, and the PSNR of each. */
export interface FrameQuality extends ClipQuality {
  readonly decibels: readonly number[]
}

/** What `benchGoal` measures. */
export interface GoalTimes {
  readonly raw: number
  readonly plain: number
  readonly whole: number
  readonly probe: number
  readonly passes: number
}

/* Measures the pipeline against the encoder alone, on the same frames, in the same run. */

declare global {
  interface Window {
    /**
     * Frames a second of encoding ready frames, and of the whole way from file to file; `runs` of
     * each, in turn.
     */
    benchRender(
      url: string,
      bytes: number,
      recipe: ClipRecipe,
      runs: number,
    ): Promise<{ raw: number[]; whole: number[] }>
    /**
     * Renders once from the file chosen in the page's field; gives the number of frames and the
     * bytes of the output.
     */
    benchOnce(recipe: ClipRecipe): Promise<{ frames: number; output: number }>
    /**
     * Encodes the frames of a recipe at the browser's own variable bit rate: bytes of all frames,
     * and their quality.
     */
    benchVariable(
      place: ClipPlace,
      recipe: ClipRecipe,
      bitsPerSecond: number,
    ): Promise<{ bytes: number; quality: FrameQuality }>
    /** Quality of all frames of a finished file against the composed frames. */
    benchQuality(place: ClipPlace, recipe: ClipRecipe, file: ClipPlace): Promise<FrameQuality>
    /**
     * Seconds in turns: of a whole render towards its goal with its probe given, of decoding and
     * encoding at one quantizer or rate with nothing else, and of encoding ready frames so; seconds
     * of the probe.
     */
    benchGoal(place: ClipPlace, recipe: ClipRecipe, turns: number): Promise<GoalTimes[]>
    /** Milliseconds a frame, in turns: of decoding alone, and of making a contrast trace. */
    benchTrace(
      place: ClipPlace,
      frames: number,
      turns: number,
    ): Promise<{ decode: number; trace: number }[]>
  }
}

const never = new AbortController().signal

window.benchTrace = async (place, frames, turns) => {
  const clip = await openClip(openPlace(place))
  const plan = planTrace({ width: 1920, height: 1080 }, frames, 10, [
    { x: 0.05, y: 0.3, width: 0.4, height: 0.4 },
  ])
  const sequence = plainSequence({
    size: { width: 1920, height: 1080 },
    cut: {
      timescale: clip.presentation.timescale,
      start: 0,
      end: clip.presentation.times[frames] ?? clip.presentation.length,
    },
    frameRate: { num: 24, den: 1 },
    loops: true,
  })
  const times: { decode: number; trace: number }[] = []
  for (let turn = 0; turn < turns; turn++) {
    let start = performance.now()
    for await (const { frame } of decodeFrames(clip, 0, frames - 1, never)) frame.close()
    const decode = (performance.now() - start) / frames
    start = performance.now()
    const writer = new TraceWriter({ ...plan, frames: sequence.frames })
    const numbers = Array.from({ length: sequence.frames }, (_, number) => number)
    const order = { width: plan.width, height: plan.height, copyBlur: null, means: true }
    for await (const { picture, kind } of new OpenFootage(clip, sequence).composed(
      numbers,
      order,
      never,
    ))
      writer.add(picture, kind)
    times.push({ decode, trace: (performance.now() - start) / sequence.frames })
  }
  return times
}

/** A recipe of footage: the bench has no other. */
const sequenceOf = ({ sequence }: Pick<ClipRecipe, 'sequence'>): FootageSequence =>
  sequence as FootageSequence

const opened = async (recipe: ClipRecipe, source: ByteSource): Promise<OpenFootage> =>
  new OpenFootage(await openClip(source), sequenceOf(recipe))

/** Copies, because a decoder stops while all of its few frames are referenced. */
async function readied(frames: AsyncIterable<VideoFrame>): Promise<VideoFrame[]> {
  const ready: VideoFrame[] = []
  for await (const frame of frames) {
    const data = new Uint8Array(frame.allocationSize())
    await frame.copyTo(data)
    ready.push(
      new VideoFrame(data, {
        format: frame.format!,
        codedWidth: frame.visibleRect!.width,
        codedHeight: frame.visibleRect!.height,
        timestamp: frame.timestamp,
        colorSpace: frame.colorSpace.toJSON(),
      }),
    )
    frame.close()
  }
  return ready
}

async function* shown(
  frames: AsyncIterable<{ readonly frame: VideoFrame }>,
): AsyncGenerator<VideoFrame> {
  for await (const { frame } of frames) yield frame
}

window.benchRender = async (url, bytes, recipe, runs) => {
  const clip = await openClip(httpSource(new URL(url, location.href).href, bytes))
  const { frames: count, frameRate } = recipe.sequence
  const order = {
    ...recipe,
    frameRate,
    bitsPerSecond: maxBitrate(
      recipe.family,
      recipe.width,
      recipe.height,
      frameRate.num / frameRate.den,
    ),
  }
  const raw: number[] = []
  const whole: number[] = []
  for (let run = 0; run < runs; run++) {
    const ready = await readied(shown(decodeFrames(clip, 0, count - 1, never)))
    const feed = async function* () {
      let k = 0
      for (const frame of ready) {
        yield new VideoFrame(frame, {
          timestamp: Math.round((k++ * 1e6 * frameRate.den) / frameRate.num),
        })
        frame.close()
      }
    }
    let start = performance.now()
    await encodeFrames(order, feed(), () => undefined, never)
    raw.push((count * 1000) / (performance.now() - start))
    start = performance.now()
    await renderClip(
      new OpenFootage(clip, sequenceOf(recipe)),
      { ...recipe, kind: 'clip', noiseReduction: 0, goal: null },
      null,
      () => undefined,
      never,
    )
    whole.push((count * 1000) / (performance.now() - start))
  }
  return { raw, whole }
}

const ofFrames = (compared: readonly ComparedFrame[]): FrameQuality => ({
  ...qualityOf(compared),
  decibels: compared.map(({ psnr: decibels }) => decibels),
})

window.benchVariable = async (place, recipe, bitsPerSecond) => {
  const open = await opened(recipe, openPlace(place))
  const { frames, frameRate } = recipe.sequence
  const watch = new QualityWatch({
    width: recipe.width,
    height: recipe.height,
    count: frames,
    max: frames,
  })
  const fit = toSize(recipe.width, recipe.height)
  const witness = {
    wants: (k: number) => watch.wants(k),
    see: async (k: number, picture: () => Promise<I420>) => watch.hold(k, fit(await picture())),
  }
  const track = await encodeFrames(
    { ...recipe, frameRate, bitsPerSecond },
    outputFrames(open, recipe, allFrames(open), 0, witness, never),
    () => undefined,
    never,
    (chunk, decoder) => watch.see(chunk, decoder),
  )
  return {
    bytes: track.frames.reduce((sum, { data }) => sum + data.byteLength, 0),
    quality: ofFrames(await watch.finish()),
  }
}

window.benchQuality = async (place, recipe, made) => {
  const open = await opened(recipe, openPlace(place))
  const file = await openClip(openPlace(made))
  const fit = toSize(recipe.width, recipe.height)
  const seen: I420[] = []
  const witness = {
    wants: () => true,
    see: async (_: number, picture: () => Promise<I420>) => void seen.push(fit(await picture())),
  }
  const compared: ComparedFrame[] = []
  // One of each at a time: the file's frames are decoded as the source's are composed.
  const decoded = decodeFrames(file, 0, recipe.sequence.frames - 1, never)
  for await (const frame of outputFrames(open, recipe, allFrames(open), 0, witness, never)) {
    frame.close()
    const { value } = await decoded.next()
    if (!value) throw new Error('the file has too few frames')
    const picture = await planesOfFrame(value.frame, file.file.video)
    value.frame.close()
    compared.push(comparedFrame(compared.length, seen.shift()!, picture))
  }
  return ofFrames(compared)
}

window.benchGoal = async (place, recipe, turns) => {
  const open = await opened(recipe, openPlace(place))
  const { facts } = await probeClip(open, probeOf(recipe), () => undefined, never)
  const { frames, frameRate } = recipe.sequence
  const setting = Math.round(
    new ProbeCurve(facts.points, facts.steering).finestWithin(
      recipe.goal?.kind === 'budget' ? recipe.goal.bytes : Infinity,
      frames,
      facts.bounds.finest,
      facts.bounds.coarsest,
    ),
  )
  const order = {
    ...recipe,
    frameRate,
    bitsPerSecond: setting * (facts.steering === 'rate' ? 1 : 10_000),
    steering: { by: facts.steering, rateControl: constantQuantizer(setting) },
  }
  const taken: GoalTimes[] = []
  for (let turn = 0; turn < turns; turn++) {
    let start = performance.now()
    const rendered = await renderClip(open, recipe, facts, () => undefined, never)
    const whole = (performance.now() - start) / 1000
    const ready = await readied(outputFrames(open, recipe, allFrames(open), 0, null, never))
    const feed = async function* () {
      for (const frame of ready) yield frame
    }
    start = performance.now()
    await encodeFrames(
      order,
      outputFrames(open, recipe, allFrames(open), 0, null, never),
      () => undefined,
      never,
    )
    const plain = (performance.now() - start) / 1000
    start = performance.now()
    await encodeFrames(order, feed(), () => undefined, never)
    taken.push({
      raw: (performance.now() - start) / 1000,
      plain,
      whole,
      probe: facts.seconds,
      passes: rendered.facts.passes,
    })
  }
  return taken
}

window.benchOnce = async (recipe) => {
  const chosen = document.querySelector('input')!.files![0]!
  const open = await opened(recipe, fileSource(chosen))
  const rendered = await renderClip(open, recipe, null, () => undefined, never)
  return { frames: rendered.facts.frames, output: rendered.bytes.byteLength }
}
