import type { FrameWitness } from '../sequences/OpenSequence'
import type { ComposedFrame } from './composedFrames'
import { frameOf } from './composeFrame'

/**
 * Composed frames for an encoder, the `k`th of them from `at(k)` to `at(k + 1)` (microseconds),
 * number `first` the first. The taker closes them.
 */
export async function* encodedFrames(
  frames: AsyncIterable<ComposedFrame>,
  at: (k: number) => number,
  witness: FrameWitness | null,
  first = 0,
): AsyncGenerator<VideoFrame> {
  let k = first
  for await (const composed of frames) {
    if (witness?.wants(k)) await witness.see(k, () => Promise.resolve(composed.picture))
    witness?.seeParts?.(k, composed)
    yield frameOf(composed, at(k), at(k + 1) - at(k))
    k += 1
  }
}
