import { sequenceKey } from '../../../core/kinds/Sequence'
import { descriptionDistance, describeI420 } from '../../../core/picture/describeI420'
import type { Oklab } from '../../../core/picture/convertSrgbToOklab'
import { allFrames } from '../compose/outputFrames'
import type { OpenSequence } from '../sequences/OpenSequence'
import { WorkError } from '../WorkError'

/** Large enough for a description's cells. */
const SIZE = { width: 96, height: 54 }
/** A designer's backdrop is probed for three formats and three sizes, one after another. */
const MAX_KNOWN = 4
const known = new Map<string, readonly number[]>()

/**
 * How far each frame of a sequence is from the one before, in mean ΔE; 0 for the first. Sequences
 * that were just looked at are known. Errors: those of decoding.
 */
export async function motionSteps(
  open: OpenSequence,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<readonly number[]> {
  const key = sequenceKey(open.sequence)
  const found = known.get(key)
  if (found) return found
  const steps: number[] = []
  let last: readonly Oklab[] | null = null
  const order = { ...SIZE, copyBlur: null, means: true }
  for await (const { picture } of open.composed(allFrames(open), order, signal)) {
    const cells = describeI420(picture)
    steps.push(last ? descriptionDistance(last, cells) : 0)
    last = cells
    onProgress(steps.length / open.sequence.frames)
  }
  if (signal.aborted) throw new WorkError('work/cancelled')
  known.set(key, steps)
  if (known.size > MAX_KNOWN) known.delete(known.keys().next().value!)
  return steps
}
