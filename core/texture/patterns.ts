import { FULL_LEVEL, type Pattern, type Texture, type Tile } from './Texture'

/** Whether a pattern runs along an angle. */
export const isAngled = (pattern: Pattern): boolean => pattern === 'lines'

/** The angles of lines, clockwise from upwards, as CSS counts them: their pixels are whole. */
export const LINE_ANGLES = [0, 45, 90, 135] as const

/** The one of `LINE_ANGLES` that is nearest to any angle in degrees. */
export function lineAngle(angleDeg: number): (typeof LINE_ANGLES)[number] {
  return LINE_ANGLES[Math.round(angleDeg / 45) % LINE_ANGLES.length]!
}

const tileOf = (
  width: number,
  height: number,
  levelAt: (x: number, y: number) => number,
): Tile => ({
  width,
  height,
  levels: Array.from({ length: width * height }, (_, at) =>
    levelAt(at % width, Math.floor(at / width)),
  ).join(''),
})

/** What a pixel of lines along an angle is told by: 0 is on the line, of 4. */
const LINES: Readonly<Record<(typeof LINE_ANGLES)[number], (x: number, y: number) => number>> = {
  0: (x) => x,
  45: (x, y) => x + y,
  90: (_, y) => y,
  135: (x, y) => x - y + 4,
}

/** Random levels that are the same everywhere: the high bits of a linear congruential generator. */
function randomLevels(seed: number): () => number {
  let state = seed
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    return state >>> 30
  }
}

const GRAIN_SIDE = 64
const PAPER_SIDE = 64

/** Grain that is drawn out along both axes, as fibres are. */
function paper(): Tile {
  const random = randomLevels(77)
  const raw = Array.from({ length: PAPER_SIDE ** 2 }, random)
  const at = (x: number, y: number): number =>
    raw[((y + PAPER_SIDE) % PAPER_SIDE) * PAPER_SIDE + ((x + PAPER_SIDE) % PAPER_SIDE)]!
  return tileOf(PAPER_SIDE, PAPER_SIDE, (x, y) => {
    let sum = 0
    for (let step = -3; step <= 3; step++) sum += at(x + step, y) + at(x, y + step)
    // The sum of 14 levels lies around 21; its spread is what four levels are made of.
    return Math.min(FULL_LEVEL, Math.max(0, Math.round(1.2 + (sum - 21) / 3.5)))
  })
}

const DRAWN: Readonly<Record<Exclude<Pattern, 'own' | 'lines'>, () => Tile>> = {
  // A row and the glow below it.
  'scan-lines': () => tileOf(1, 3, (_, y) => [3, 1, 0][y]!),
  hairline: () => tileOf(12, 1, (x) => (x === 0 ? 3 : 0)),
  dots: () =>
    tileOf(6, 6, (x, y) => {
      const isIn = (left: number, top: number): boolean =>
        x >= left && x < left + 2 && y >= top && y < top + 2
      return isIn(0, 0) || isIn(3, 3) ? 3 : 0
    }),
  checks: () => tileOf(4, 4, (x, y) => (x < 2 === y < 2 ? 3 : 0)),
  // Threads of three pixels that go over and under each other, with a gap of one.
  weave: () =>
    tileOf(8, 8, (x, y) => {
      const isOver = x < 4 === y < 4
      const [along, across] = isOver ? [x % 4, y % 4] : [y % 4, x % 4]
      return across === 3 ? 0 : along === 0 || along === 3 ? 1 : 3
    }),
  grain: () => {
    const random = randomLevels(20_261_129)
    return tileOf(GRAIN_SIDE, GRAIN_SIDE, random)
  },
  paper,
}

const made = new Map<string, Tile>()

/** The tile of a texture; lines run along the nearest angle that they have. */
export function tileOfTexture({ pattern, tile }: Texture, angleDeg: number): Tile {
  if (tile) return tile
  const angle = lineAngle(angleDeg)
  const key = isAngled(pattern) ? `${pattern} ${angle}` : pattern
  const known = made.get(key)
  if (known) return known
  const drawn =
    pattern === 'lines' || pattern === 'own'
      ? tileOf(4, 4, (x, y) => (LINES[angle](x, y) % 4 === 0 ? 3 : 0))
      : DRAWN[pattern]()
  made.set(key, drawn)
  return drawn
}

/** The share of a tile that is covered, 0 to 1. */
export function meanCoverage({ levels }: Tile): number {
  let sum = 0
  for (let at = 0; at < levels.length; at++) sum += levels.charCodeAt(at) - ZERO
  return sum / (FULL_LEVEL * levels.length)
}

const ZERO = 48

/** How far the coverage of a tile's pixels is from its mean, as a root mean square, 0 to 0.5. */
export function coverageSpread(tile: Tile): number {
  const mean = meanCoverage(tile)
  let sum = 0
  for (let at = 0; at < tile.levels.length; at++)
    sum += ((tile.levels.charCodeAt(at) - ZERO) / FULL_LEVEL - mean) ** 2
  return Math.sqrt(sum / tile.levels.length)
}

/**
 * How much of a square around a point a texture covers, 0 to 1: `x`, `y` and the square's `side` in
 * pixels of the region, of which each pixel of the tile takes `pitch`. The first tile lies in the
 * region's corner.
 */
export function coverageAround(
  tile: Tile,
  pitch: number,
  side: number,
): (x: number, y: number) => number {
  const { width, height } = tile
  const length = side / pitch
  const sums = sumsOf(tile, Math.ceil(length) + 1)
  return (x, y) => {
    const left = wrapped(x / pitch - length / 2, width)
    const top = wrapped(y / pitch - length / 2, height)
    const [right, bottom] = [left + length, top + length]
    const sum = sums(right, bottom) - sums(left, bottom) - sums(right, top) + sums(left, top)
    return sum / (length * length)
  }
}

const wrapped = (value: number, length: number): number =>
  value - Math.floor(value / length) * length

/**
 * The coverage between the corner of a tile and a point, in pixels of the tile, which may lie so
 * many pixels beyond it: a summed-area table, in which what lies between is exact, because each
 * pixel is even.
 */
function sumsOf({ width, height, levels }: Tile, beyond: number): (x: number, y: number) => number {
  const [across, down] = [width + beyond + 1, height + beyond + 1]
  const table = new Float64Array(across * down)
  for (let y = 1; y < down; y++) {
    let row = 0
    for (let x = 1; x < across; x++) {
      row += (levels.charCodeAt(((y - 1) % height) * width + ((x - 1) % width)) - ZERO) / FULL_LEVEL
      table[y * across + x] = table[(y - 1) * across + x]! + row
    }
  }
  return (x, y) => {
    const [column, row] = [Math.min(across - 2, Math.floor(x)), Math.min(down - 2, Math.floor(y))]
    const [right, below] = [x - column, y - row]
    const at = row * across + column
    const upper = table[at]! * (1 - right) + table[at + 1]! * right
    const lower = table[at + across]! * (1 - right) + table[at + across + 1]! * right
    return upper * (1 - below) + lower * below
  }
}
