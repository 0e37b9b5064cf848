import type { OpenClip } from './OpenClip'

/** Bytes fetched at once, so that a clip is read in few requests. */
const READ_AHEAD_BYTES = 2 * 1024 * 1024

/** Bytes of the file that were asked for. */
interface Block {
  readonly start: number
  readonly bytes: Promise<Uint8Array>
  readonly length: number
}

/** How many frames before a block's end the next one is asked for. */
const FETCH_AHEAD_SAMPLES = 16

/** Reads samples' bytes, fetching neighbours that lie together in one go. */
export function chunkReader(clip: OpenClip): (sample: number) => Promise<Uint8Array> {
  const { samples } = clip.file.video
  let held: Block = { start: 0, bytes: Promise.resolve(new Uint8Array(0)), length: 0 }
  let next: Block | null = null
  const fetchBlock = (start: number, min: number): Block => {
    const length = Math.min(Math.max(min, READ_AHEAD_BYTES), Math.max(0, clip.source.size - start))
    const bytes = clip.source.read(start, length)
    // A block that is fetched ahead may never be wanted: its failure counts only when it is.
    bytes.catch(() => undefined)
    return { start, bytes, length }
  }
  const covers = (block: Block | null, offset: number, size: number): block is Block =>
    block !== null && offset >= block.start && offset + size <= block.start + block.length
  return async (sample) => {
    const offset = samples.offsets[sample]!
    const size = samples.sizes[sample]!
    if (!covers(held, offset, size)) {
      held = covers(next, offset, size) ? next : fetchBlock(offset, size)
      next = null
    }
    // The next block begins with a frame that ends the present one, so it is requested once that
    // frame is known.
    const following = sample + FETCH_AHEAD_SAMPLES
    if (
      next === null &&
      following < samples.count &&
      !covers(held, samples.offsets[following]!, samples.sizes[following]!)
    ) {
      const first = firstBeyond(sample, held)
      if (first !== null) next = fetchBlock(samples.offsets[first]!, samples.sizes[first]!)
    }
    return (await held.bytes).subarray(offset - held.start, offset - held.start + size)
  }

  /** The first sample after `sample` that does not lie in the block whole. */
  function firstBeyond(sample: number, block: Block): number | null {
    for (
      let index = sample + 1;
      index < Math.min(samples.count, sample + FETCH_AHEAD_SAMPLES + 1);
      index++
    ) {
      if (!covers(block, samples.offsets[index]!, samples.sizes[index]!)) return index
    }
    return null
  }
}
