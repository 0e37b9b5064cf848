import { planesOf, type I420, type Plane } from './I420'

/**
 * Sides of the blocks that are looked at, in samples: those of chroma cover the same part of the
 * picture, at half width and height.
 */
const LUMA_BLOCK = 8
const CHROMA_BLOCK = 4
/**
 * Variance in a block of the reference at which a loss of detail counts half. Grain of two levels
 * has this much; edges have a hundred times as much.
 */
const MASKING = 4
/** Loss is seen where it is greatest: the mean of this share of the blocks counts. */
const WORST_SHARE = 0.02
/** Less loss is not told apart. */
const MAX_DECIBELS = 60

/**
 * How little loss shows in a picture, in decibels of the same scale as PSNR, at most 60. In each
 * block the squared error of the mean (a step of brightness or colour: blocking, banding, smears)
 * counts whole, and the rest, which detail and grain hide, is divided by 1 + variance / 4. The mean
 * of the worst fiftieth of all blocks counts, that of luma or of a colour, whichever lost more.
 * Over whole pictures PSNR asks for grain that nobody misses, and does not mind a smear in a calm
 * sky. Throws RangeError for unequal sizes. Source: docs/weight.md, where loss is seen; calibrated
 * there by looking at drawn clips and camera clips.
 */
export function seenDecibels(reference: I420, made: I420): number {
  if (reference.width !== made.width || reference.height !== made.height)
    throw new RangeError('two pictures of one size are needed')
  const planes = planesOf(made)
  const loss = Math.max(
    ...planesOf(reference).map((plane, index) =>
      worstOf(blockLosses(plane, planes[index]!, index === 0 ? LUMA_BLOCK : CHROMA_BLOCK)),
    ),
  )
  return loss === 0 ? MAX_DECIBELS : Math.min(MAX_DECIBELS, 10 * Math.log10((255 * 255) / loss))
}

/**
 * The seen loss of each block, as a squared error. The last ones of a row and of a column end at
 * the edge, over others where the side does not divide the picture.
 */
function blockLosses(reference: Plane, made: Plane, side: number): Float32Array {
  const { width, height } = reference
  const wide = Math.min(side, width)
  const high = Math.min(side, height)
  const columns = Math.ceil(width / wide)
  const rows = Math.ceil(height / high)
  const losses = new Float32Array(columns * rows)
  for (let row = 0, index = 0; row < rows; row++) {
    const top = Math.min(row * high, height - high)
    for (let column = 0; column < columns; column++, index++) {
      const left = Math.min(column * wide, width - wide)
      losses[index] = blockLoss(reference.data, made.data, width, top * width + left, wide, high)
    }
  }
  return losses
}

function blockLoss(
  reference: Uint8Array,
  made: Uint8Array,
  stride: number,
  start: number,
  wide: number,
  high: number,
): number {
  let [sum, squares, difference, differences] = [0, 0, 0, 0]
  for (let y = 0, line = start; y < high; y++, line += stride)
    for (let at = line; at < line + wide; at++) {
      const a = reference[at]!
      const d = a - made[at]!
      sum = (sum + a) | 0
      squares = (squares + Math.imul(a, a)) | 0
      difference = (difference + d) | 0
      differences = (differences + Math.imul(d, d)) | 0
    }
  const count = wide * high
  const step = (difference / count) ** 2
  const variance = squares / count - (sum / count) ** 2
  return step + (differences / count - step) / (1 + variance / MASKING)
}

/** The mean of the worst share. */
function worstOf(losses: Float32Array): number {
  const count = Math.ceil(losses.length * WORST_SHARE)
  const worst = losses.sort().subarray(losses.length - count)
  return worst.reduce((sum, loss) => sum + loss, 0) / count
}
