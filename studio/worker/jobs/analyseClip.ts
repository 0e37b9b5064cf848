import type { ClipRecipe } from '../../../core/backdrop/recipe'
import { plainSequence } from '../../../core/kinds/footage/footageSequence'
import { encodeTrace, TraceBuilder } from '../../../core/loop/FrameTrace'
import type { Analysis } from '../../../core/material/Analysis'
import { MaterialMeter } from '../../../core/material/MaterialMeter'
import { bytesEachSecond } from '../../../core/media/probe'
import { describeI420 } from '../../../core/picture/describeI420'
import { rotateI420 } from '../../../core/picture/rotateI420'
import { kindOfFrame, planesOfFrame } from '../compose/composeFrame'
import { decodeFrames } from '../decode/decodeFrames'
import { drawUpright } from '../decode/drawUpright'
import type { OpenClip } from '../decode/OpenClip'
import { OpenFootage } from '../sequences/OpenFootage'
import { WorkError } from '../WorkError'
import { renderClip } from './renderClip'

/** Pictures in a filmstrip, side by side in one image. */
const STRIP_FRAMES = 24
const STRIP_CELL = { width: 256, height: 192 }
const STRIP_QUALITY = 0.72

/** What an analysis gives: the figures, and a filmstrip as one WebP image of cells side by side. */
export interface Analysed {
  readonly analysis: Analysis
  readonly strip: { readonly bytes: Uint8Array<ArrayBuffer>; readonly cells: number }
  /** What the search for loops compares; null for images. */
  readonly trace: { readonly bytes: Uint8Array<ArrayBuffer>; readonly moments: number } | null
}

/**
 * Decodes a clip once, measures every frame and draws its filmstrip. `onProgress` gets the share
 * done, 0 to 1. Errors: those of decoding.
 */
export async function analyseClip(
  clip: OpenClip,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<Analysed> {
  const { presentation, file } = clip
  const count = presentation.order.length
  const seconds = presentation.length / presentation.timescale
  const meter = new MaterialMeter(count, seconds)
  const strip = new Filmstrip(
    file.video.displayWidth,
    file.video.displayHeight,
    Math.min(STRIP_FRAMES, count),
  )
  const trace = new TraceBuilder(seconds)
  let seen = 0
  for await (const { number, frame } of decodeFrames(clip, 0, count - 1, signal)) {
    try {
      if (signal.aborted) throw new WorkError('work/cancelled')
      strip.offer(frame, number, count, file.video)
      const picture = rotateI420(await planesOfFrame(frame, file.video), file.video.rotationDeg)
      const at = presentation.times[number]! / presentation.timescale
      meter.see(picture, at, kindOfFrame(frame))
      if (trace.wants(at)) trace.add(at, describeI420(picture))
    } finally {
      frame.close()
    }
    seen += 1
    if (seen % 8 === 0) onProgress(seen / count)
  }
  const isAnimation = file.container === 'gif' || file.container === 'webp'
  if (clip.missing.size > count * MAX_MISSING)
    throw new WorkError('work/decode-failed', tooMuchMissing(clip.missing.size, count))
  const kept = trace.finish()
  return {
    analysis: meter.finish(
      bytesEachSecond(file),
      isAnimation ? await bytesAsVideo(clip, signal) : null,
      missingPart(clip),
    ),
    strip: { bytes: await strip.finish(), cells: strip.cells },
    trace: { bytes: encodeTrace(kept), moments: kept.seconds.length },
  }
}

/** A clip of which more than this share cannot be decoded is refused. */
const MAX_MISSING = 0.5

const tooMuchMissing = (missing: number, count: number): string =>
  `${missing} of ${count} frames cannot be decoded in this browser. Export the clip again as MP4 with H.264, or copy it again from where it came.`

/** Where frames could not be decoded, in milliseconds; null if all were. */
function missingPart({ missing, presentation }: OpenClip): Analysis['missing'] {
  if (missing.size === 0) return null
  const numbers = [...missing].sort((a, b) => a - b)
  const ms = (number: number): number =>
    Math.round(
      ((presentation.times[number] ?? presentation.length) * 1000) / presentation.timescale,
    )
  return { frames: numbers.length, fromMs: ms(numbers[0]!), toMs: ms(numbers.at(-1)! + 1) }
}

/** What a sequence of pictures weighs as H.264 at its own size and pace: encoded, not guessed. */
async function bytesAsVideo(clip: OpenClip, signal: AbortSignal): Promise<number> {
  const { presentation, file } = clip
  const even = (side: number): number => Math.max(2, side - (side % 2))
  const rate = Math.min(
    30,
    Math.max(
      1,
      Math.round((presentation.order.length * presentation.timescale) / presentation.length),
    ),
  )
  const size = {
    width: even(file.video.displayWidth),
    height: even(file.video.displayHeight),
  }
  const sequence = plainSequence({
    size,
    cut: { timescale: presentation.timescale, start: 0, end: presentation.length },
    frameRate: { num: rate, den: 1 },
    loops: false,
  })
  const recipe: ClipRecipe = {
    kind: 'clip',
    sequence,
    copyBlur: null,
    family: 'h264',
    ...size,
    noiseReduction: 0,
    goal: null,
    encoder: null,
  }
  const open = new OpenFootage(clip, sequence)
  return (await renderClip(open, recipe, null, () => undefined, signal)).bytes.byteLength
}

/** Gathers small pictures spread evenly over a clip into one image. */
class Filmstrip {
  readonly cells: number
  private readonly width: number
  private readonly height: number
  private readonly canvas: OffscreenCanvas
  private drawn = 0

  constructor(width: number, height: number, cells: number) {
    const scale = Math.min(1, STRIP_CELL.width / width, STRIP_CELL.height / height)
    this.cells = cells
    this.width = Math.max(1, Math.round(width * scale))
    this.height = Math.max(1, Math.round(height * scale))
    this.canvas = new OffscreenCanvas(this.width * cells, this.height)
  }

  /** Draws a frame where it is the one nearest to the middle of the next cell. */
  offer(
    frame: VideoFrame,
    number: number,
    count: number,
    shape: Parameters<typeof drawUpright>[1],
  ): void {
    if (this.drawn >= this.cells || number < Math.floor(((this.drawn + 0.5) * count) / this.cells))
      return
    this.canvas
      .getContext('2d')!
      .drawImage(drawUpright(frame, shape, this.width, this.height), this.drawn * this.width, 0)
    this.drawn += 1
  }

  async finish(): Promise<Uint8Array<ArrayBuffer>> {
    const blob = await this.canvas.convertToBlob({ type: 'image/webp', quality: STRIP_QUALITY })
    return new Uint8Array(await blob.arrayBuffer())
  }
}
