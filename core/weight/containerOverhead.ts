/** Bytes of an MP4's boxes besides its sample tables, and with an edit list and offsets. */
const MP4_BYTES = 720
const REORDERED_MP4_BYTES = 790
/** What the index takes for each listed frame and each turn of the loop, as our writer makes it. */
const MP4_BYTES_PER_FRAME = 4
const MP4_BYTES_PER_TURN = 8
/**
 * What a frame of a clip with reordered frames takes besides, with a usual pyramid of B-frames: 5
 * to 8.
 */
const REORDERED_BYTES_PER_FRAME = 5.5
/** The same of a WebM: head and cues, and the head of each block. */
const WEBM_BYTES = 800
const WEBM_BYTES_PER_FRAME = 14

/**
 * About how many bytes the index of an MP4 takes for each turn of a loop: exactly, where frames are
 * not reordered.
 */
export function turnBytes(frames: number, isReordered: boolean): number {
  const each = MP4_BYTES_PER_FRAME + (isReordered ? REORDERED_BYTES_PER_FRAME : 0)
  return Math.ceil(frames * each) + MP4_BYTES_PER_TURN
}

/**
 * About how many bytes a container adds to `frames` coded frames that its index lists `repeats`
 * times: never less than it really adds, where frames are not reordered.
 */
export function containerOverhead(
  container: 'mp4' | 'webm',
  frames: number,
  repeats: number,
  isReordered = false,
): number {
  return container === 'mp4'
    ? (isReordered ? REORDERED_MP4_BYTES : MP4_BYTES) + repeats * turnBytes(frames, isReordered)
    : WEBM_BYTES + frames * WEBM_BYTES_PER_FRAME
}
