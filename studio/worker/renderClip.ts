import type { ClipFacts } from '../../core/api/wire'
import type { ClipRecipe } from '../../core/backdrop/recipe'
import { framePlan } from '../../core/loop/framePlan'
import { avcCodecString, parseSps } from '../../core/media/codecs/h264'
import { lowestVp9Level, parseVp9Frame, vp9CodecString } from '../../core/media/codecs/vp9'
import type { EncodedTrack } from '../../core/media/EncodedTrack'
import { bitsPerSecond, writeMp4 } from '../../core/media/isobmff/writeMp4'
import { writeWebm } from '../../core/media/matroska/writeWebm'
import { descriptionDistance, describeI420 } from '../../core/picture/describeI420'
import type { Oklab } from '../../core/picture/convertSrgbToOklab'
import { seamRatio } from '../../core/picture/frameDifference'
import { ceilingRate, nextRate, type Attempt } from '../../core/weight/rateControl'
import { composeFrame, needsComposing, planesOfFrame, type Shape } from './composeFrame'
import { decodeFrames } from './decodeFrames'
import { encodeFrames } from './encodeFrames'
import type { OpenClip } from './OpenClip'

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

/** Renders a loop from its recipe: decode, compose where needed, encode within the budget, put in a container. */
export async function renderClip(clip: OpenClip, recipe: ClipRecipe, onProgress: (progress: RenderProgress) => void, signal: AbortSignal): Promise<RenderedClip> {
  const start = performance.now()
  const plan = framePlan(recipe, clip.presentation)
  const seconds = (plan.length * recipe.frameRate.den) / recipe.frameRate.num
  const ceiling = ceilingRate(recipe.family, recipe.width, recipe.height, recipe.frameRate.num / recipe.frameRate.den)
  const seam = recipe.kind === 'proof' ? new SeamMeter() : null
  // Of each pass only its file is kept, not its frames: the output is all that grows with a clip's length.
  const attempts: { attempt: Attempt; facts: Omit<ClipFacts, 'seamRatio' | 'encodeSeconds'>; bytes: Uint8Array<ArrayBuffer> }[] = []
  for (;;) {
    const decision = recipe.budgetBytes === null
      ? attempts.length === 0 ? { kind: 'encode' as const, bitsPerSecond: ceiling } : { kind: 'keep' as const, index: 0 }
      : nextRate(attempts.map((each) => each.attempt), recipe.budgetBytes, seconds, ceiling)
    if (decision.kind === 'keep') {
      const { facts, bytes } = attempts[decision.index]!
      const ratio = seam?.ratio() ?? null
      const encodeSeconds = Math.round((performance.now() - start) / 100) / 10
      return { bytes, facts: { ...facts, seamRatio: ratio === null ? null : Math.round(ratio * 100) / 100, encodeSeconds } }
    }
    const frames = outputFrames(clip, recipe, plan, seam, signal)
    const pass = attempts.length
    const order = { ...recipe, bitsPerSecond: decision.bitsPerSecond }
    const track = await encodeFrames(order, frames, (done) => onProgress({ done: done / plan.length, pass }), signal)
    const bytes = recipe.family === 'h264' ? writeMp4(track) : writeWebm(track)
    attempts.push({ attempt: { bitsPerSecond: decision.bitsPerSecond, bytes: bytes.byteLength }, facts: factsOf(recipe, track), bytes })
  }
}

/** The output frames in order, each with its time. A source frame that is shown several times is decoded once. */
async function* outputFrames(clip: OpenClip, recipe: ClipRecipe, plan: readonly number[], seam: SeamMeter | null, signal: AbortSignal): AsyncGenerator<VideoFrame> {
  const { num, den } = recipe.frameRate
  const shape = clip.file.video
  const at = (k: number): number => Math.round((k * den * 1e6) / num)
  let k = 0
  for await (const { number, frame } of decodeFrames(clip, plan[0]!, plan[plan.length - 1]!, signal)) {
    try {
      if (seam && number === plan[k]) await seam.see(frame, shape)
      while (k < plan.length && plan[k]! <= number) {
        const duration = at(k + 1) - at(k)
        yield needsComposing(frame, shape)
          ? await composeFrame(frame, shape, recipe.width, recipe.height, at(k), duration)
          : new VideoFrame(frame, { timestamp: at(k), duration })
        k += 1
      }
    } finally {
      frame.close()
    }
  }
}

/** Measures the join on composed frames while they pass by, on 32 × 18 cells. */
class SeamMeter {
  private first: Oklab[] | null = null
  private last: Oklab[] | null = null
  private readonly steps: number[] = []

  async see(frame: VideoFrame, shape: Shape): Promise<void> {
    const cells = describeI420(await planesOfFrame(frame, shape))
    if (this.last) this.steps.push(descriptionDistance(this.last, cells))
    this.first ??= cells
    this.last = cells
  }

  ratio(): number | null {
    if (!this.first || !this.last) return null
    return seamRatio(descriptionDistance(this.last, this.first), this.steps)
  }
}

/** The facts of a clip; its codec string is what the bitstream itself declares. */
function factsOf(recipe: ClipRecipe, track: EncodedTrack): Omit<ClipFacts, 'seamRatio' | 'encodeSeconds'> {
  return {
    kind: 'clip',
    type: recipe.family === 'h264' ? 'video/mp4' : 'video/webm',
    codec: streamCodec(track),
    width: track.width,
    height: track.height,
    frames: track.frames.length,
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
