import { planesOf, type I420, type Plane } from './I420'

/** Side of the blocks whose change distinguishes motion from grain. */
const BLOCK = 8
/** Maximum weight of the previous picture, at full strength. */
const MAX_KEPT = 0.8
/**
 * Mean change of a block, in steps of 255, up to which all of it counts as noise, and above which
 * all of it is motion; both times the strength.
 */
const GRAIN = 5
const MOTION = 14

/**
 * Reduces noise over time: each picture is mixed with the filtered pictures before it, block by
 * block, and less where a block has changed, so that moving parts stay sharp. A recursive filter
 * after the idea of motion-adaptive averaging (Dubois and Sabri 1984,
 * doi:10.1109/TCOM.1984.1096143). `strength` is 0 to 1.
 */
export class TemporalFilter {
  private readonly strength: number
  private before: I420 | null = null

  constructor(strength: number) {
    this.strength = strength
  }

  /**
   * The next picture, in order, with less noise. The first is returned unchanged. Throws RangeError
   * for a picture of another size.
   */
  next(picture: I420): I420 {
    const { before } = this
    if (!before || this.strength === 0) {
      this.before = picture
      return picture
    }
    if (before.width !== picture.width || before.height !== picture.height)
      throw new RangeError('pictures of one size are needed')
    const cleaned: I420 = { ...picture, data: picture.data.slice() }
    const kept = this.keptShares(planesOf(picture)[0], planesOf(before)[0])
    const across = Math.ceil(picture.width / BLOCK)
    planesOf(cleaned).forEach((plane, index) =>
      mixBlocks(plane, planesOf(before)[index]!, kept, across, index === 0 ? BLOCK : BLOCK / 2),
    )
    this.before = cleaned
    return cleaned
  }

  /**
   * For each block the share (of 256) of the picture before, softened over its neighbours so that
   * no block edge shows.
   */
  private keptShares(now: Plane, before: Plane): Int32Array {
    const [across, down] = [Math.ceil(now.width / BLOCK), Math.ceil(now.height / BLOCK)]
    const raw = new Float64Array(across * down)
    for (let by = 0; by < down; by++) {
      for (let bx = 0; bx < across; bx++)
        raw[by * across + bx] = blockChange(now, before, bx * BLOCK, by * BLOCK)
    }
    const [grain, motion] = [GRAIN * this.strength, MOTION * this.strength]
    return Int32Array.from(raw, (_, index) => {
      const [x, y] = [index % across, Math.floor(index / across)]
      // The liveliest neighbour decides: an edge that enters a block moves all of it.
      let change = 0
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) {
          if (x + dx >= 0 && x + dx < across && y + dy >= 0 && y + dy < down)
            change = Math.max(change, raw[(y + dy) * across + x + dx]!)
        }
      }
      const still = Math.min(1, Math.max(0, (motion - change) / (motion - grain)))
      return Math.round(256 * MAX_KEPT * (0.4 + 0.6 * this.strength) * still)
    })
  }
}

/**
 * How much a block has changed beyond noise: noise changes sign from sample to sample, so the mean
 * over small cells removes part of it.
 */
function blockChange(now: Plane, before: Plane, left: number, top: number): number {
  const [right, bottom] = [Math.min(left + BLOCK, now.width), Math.min(top + BLOCK, now.height)]
  let total = 0
  let cells = 0
  for (let y = top; y + 1 < bottom || y === top; y += 2) {
    for (let x = left; x + 1 < right || x === left; x += 2) {
      const at = y * now.width + x
      const beside = x + 1 < right ? 1 : 0
      const below = y + 1 < bottom ? now.width : 0
      const change =
        now.data[at]! -
        before.data[at]! +
        now.data[at + beside]! -
        before.data[at + beside]! +
        now.data[at + below]! -
        before.data[at + below]! +
        now.data[at + below + beside]! -
        before.data[at + below + beside]!
      total += Math.abs(change) / 4
      cells += 1
    }
  }
  return total / cells
}

function mixBlocks(
  plane: Plane,
  before: Plane,
  kept: Int32Array,
  across: number,
  side: number,
): void {
  for (let y = 0; y < plane.height; y++) {
    const row = y * plane.width
    const blocks = Math.floor(y / side) * across
    for (let x = 0; x < plane.width; x++) {
      const share = kept[blocks + Math.floor(x / side)]!
      if (share > 0)
        plane.data[row + x] =
          (plane.data[row + x]! * (256 - share) + before.data[row + x]! * share + 128) >> 8
    }
  }
}
