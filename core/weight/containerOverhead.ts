/** Bytes of an MP4's boxes besides its sample tables, and with an edit list and offsets. */
const MP4_BYTES = 720
const REORDERED_MP4_BYTES = 790
/** What the index takes for each listed frame and each turn of the loop, as our writer makes it. */
const MP4_BYTES_PER_FRAME = 4
const MP4_BYTES_PER_TURN = 8
/** What a frame takes besides where frames are reordered, in a usual pyramid: 5 to 8. */
const OFFSET_BYTES_PER_FRAME = 5.5
/** The same of a WebM: head and cues, and the head of each block. */
const WEBM_BYTES = 800
const WEBM_BYTES_PER_FRAME = 14

/** What the offsets of reordered frames take in each turn, as long as they are not known. */
export const usualOffsetBytes = (frames: number): number =>
  Math.ceil(frames * OFFSET_BYTES_PER_FRAME)

/**
 * How many bytes the index of an MP4 takes for each turn of a loop; `offsetBytes` are those of the
 * offsets of reordered frames, 0 where there are none.
 */
export function turnBytes(frames: number, offsetBytes: number): number {
  return frames * MP4_BYTES_PER_FRAME + offsetBytes + MP4_BYTES_PER_TURN
}

/**
 * About how many bytes a container adds to `frames` coded frames that its index lists `repeats`
 * times: never less than it really adds.
 */
export function containerOverhead(
  container: 'mp4' | 'webm',
  frames: number,
  repeats: number,
  offsetBytes = 0,
): number {
  return container === 'mp4'
    ? (offsetBytes > 0 ? REORDERED_MP4_BYTES : MP4_BYTES) + repeats * turnBytes(frames, offsetBytes)
    : WEBM_BYTES + frames * WEBM_BYTES_PER_FRAME
}
