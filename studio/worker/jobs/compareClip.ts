import type { ClipQuality } from '../../../core/api/wire'
import { comparedFrames } from '../../../core/loop/comparedFrames'
import { SeamMeter, type SeamMeasure } from '../../../core/loop/SeamMeter'
import { describeI420 } from '../../../core/picture/describeI420'
import { i420Bytes } from '../../../core/picture/I420'
import { planesOfFrame } from '../compose/composeFrame'
import { decodeFrames } from '../decode/decodeFrames'
import { openClip } from '../decode/OpenClip'
import { comparedFrame, MAX_COMPARED, qualityOf, type ComparedFrame } from '../encode/QualityWatch'
import { openPlace, type ClipPlace } from '../sources'
import { WorkError } from '../WorkError'

/** A finished clip, and the frames that went in: I420 planes, one frame after another. */
export interface ComparisonOrder {
  readonly clip: ClipPlace
  readonly planes: ClipPlace
  readonly width: number
  readonly height: number
  /** Of one turn. */
  readonly frames: number
  readonly loops: boolean
  /** How many frames are compared; all of them where it is at least `frames`. */
  readonly max?: number
}

/** How like the frames it is. */
export interface Comparison {
  readonly quality: Required<ClipQuality>
  readonly compared: readonly ComparedFrame[]
  /** The seam of the decoded loop; null where it does not loop. */
  readonly seam: SeamMeasure | null
}

/**
 * Decodes a finished clip and compares frames with those that went in. Errors:
 * `work/decode-failed` where the clip has other frames than it should.
 */
export async function compareClip(
  { clip, planes, width, height, frames, loops, max = MAX_COMPARED }: ComparisonOrder,
  signal: AbortSignal,
): Promise<Comparison> {
  const [made, given] = [await openClip(openPlace(clip)), openPlace(planes)]
  const places = comparedFrames(frames, max)
  const meter = loops ? new SeamMeter(frames) : null
  const size = { visibleWidth: width, visibleHeight: height }
  const compared: ComparedFrame[] = []
  let seen = 0
  for await (const { number, frame } of decodeFrames(made, 0, frames - 1, signal)) {
    try {
      seen += 1
      if (!places.has(number) && !meter?.wants(number)) continue
      const picture = await planesOfFrame(frame, size)
      if (meter?.wants(number)) meter.see(number, describeI420(picture))
      if (!places.has(number)) continue
      const bytes = i420Bytes(width, height)
      const data = new Uint8Array(await given.read(number * bytes, bytes))
      compared.push(comparedFrame(number, { data, width, height }, picture))
    } finally {
      frame.close()
    }
  }
  if (seen !== frames || compared.length === 0) throw new WorkError('work/decode-failed')
  return { quality: qualityOf(compared), compared, seam: meter?.figure() ?? null }
}
