import type { CutMotion } from '../../../core/loop/chooseOverlap'
import { framePlan, type LoopSettings } from '../../../core/loop/framePlan'
import type { Oklab } from '../../../core/picture/convertSrgbToOklab'
import { descriptionDistance, describeI420 } from '../../../core/picture/describeI420'
import { seamRatio } from '../../../core/picture/frameDifference'
import { planesOfFrame } from '../compose/composeFrame'
import { decodeFrames } from '../decode/decodeFrames'
import type { OpenFootage } from '../sequences/OpenFootage'

/**
 * Measures every step of a cut as a straight loop would play it. Frames shown twice give a step of
 * nothing. Errors: those of decoding.
 */
export async function cutMotion(
  { clip, sequence }: OpenFootage,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<CutMotion> {
  const straight: LoopSettings = {
    ...sequence.loop,
    seam: { kind: 'straight', overlapSeconds: 0 },
    blendFrames: false,
  }
  const numbers = framePlan(straight, clip.presentation).map(({ show }) => show.frame)
  const steps: number[] = []
  let first: readonly Oklab[] | null = null
  let last: readonly Oklab[] | null = null
  let k = 0
  for await (const { number, frame } of decodeFrames(
    clip,
    numbers[0]!,
    numbers[numbers.length - 1]!,
    signal,
  )) {
    try {
      if (numbers[k]! > number) continue
      const cells = describeI420(await planesOfFrame(frame, clip.file.video))
      for (; k < numbers.length && numbers[k]! <= number; k++) {
        if (last) steps.push(last === cells ? 0 : descriptionDistance(last, cells))
        first ??= cells
        last = cells
      }
      onProgress(k / numbers.length)
    } finally {
      frame.close()
    }
  }
  return {
    steps,
    straightRatio: first && last ? seamRatio(descriptionDistance(last, first), steps) : null,
  }
}
