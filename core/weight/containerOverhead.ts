/**
 * Bytes of an MP4's boxes besides its sample tables, and what the index takes for each listed frame
 * and each turn of the loop, as our writer makes it.
 */
const MP4_BYTES = 720
const MP4_BYTES_PER_FRAME = 4
const MP4_BYTES_PER_TURN = 8
/** The same of a WebM: head and cues, and the head of each block. */
const WEBM_BYTES = 800
const WEBM_BYTES_PER_FRAME = 14

/**
 * About how many bytes a container adds to `frames` coded frames that its index lists `repeats`
 * times: never less than it really adds.
 */
export function containerOverhead(
  container: 'mp4' | 'webm',
  frames: number,
  repeats: number,
): number {
  return container === 'mp4'
    ? MP4_BYTES + repeats * (frames * MP4_BYTES_PER_FRAME + MP4_BYTES_PER_TURN)
    : WEBM_BYTES + frames * WEBM_BYTES_PER_FRAME
}
