import { decodeLzw } from './decodeLzw'
import { standsAlone, type GifFile, type GifFrame } from './readGif'

/**
 * Draws the frames of a GIF one on another, as its disposal rules say. Frames may be asked for in
 * any order; forward is cheap.
 */
export class GifDecoder {
  private readonly bytes: Uint8Array
  private readonly gif: GifFile
  /** RGBA, not premultiplied; pixels that were never drawn are transparent. */
  private readonly canvas: Uint8ClampedArray<ArrayBuffer>
  private drawn = -1
  private saved: Uint8ClampedArray | null = null

  /** `bytes` is the whole file that `gif` was read from. */
  constructor(bytes: Uint8Array, gif: GifFile) {
    this.bytes = bytes
    this.gif = gif
    this.canvas = new Uint8ClampedArray(gif.width * gif.height * 4)
  }

  /**
   * The canvas after frame `number` is drawn, as a view that the next call changes. Throws
   * RangeError where there is no such frame.
   */
  frame(number: number): Uint8ClampedArray<ArrayBuffer> {
    const { frames } = this.gif
    if (!Number.isInteger(number) || number < 0 || number >= frames.length)
      throw new RangeError(`there is no frame ${number}`)
    if (number < this.drawn) {
      this.drawn = -1
      this.canvas.fill(0)
    }
    let next = this.drawn + 1
    for (let start = number; start > next; start--)
      if (standsAlone(this.gif, frames[start]!)) next = start
    for (let index = next; index <= number; index++) {
      if (this.drawn >= 0) this.dispose(frames[this.drawn]!)
      this.saved = frames[index]!.disposal === 'restore' ? this.canvas.slice() : null
      this.draw(frames[index]!)
      this.drawn = index
    }
    return this.canvas
  }

  private dispose(frame: GifFrame): void {
    if (frame.disposal === 'restore' && this.saved) this.canvas.set(this.saved)
    if (frame.disposal !== 'clear') return
    for (let row = frame.y; row < Math.min(this.gif.height, frame.y + frame.height); row++) {
      const start = (row * this.gif.width + Math.min(frame.x, this.gif.width)) * 4
      const end = (row * this.gif.width + Math.min(this.gif.width, frame.x + frame.width)) * 4
      this.canvas.fill(0, start, end)
    }
  }

  private draw(frame: GifFrame): void {
    const { width, height } = this.gif
    // A frame may be declared larger than the canvas: rows below it are never looked at, so they
    // are not unpacked either.
    const rows = frame.interlaced
      ? frame.height
      : Math.min(frame.height, Math.max(0, height - frame.y))
    const { indexes, filled } = decodeLzw(
      this.bytes.subarray(frame.dataOffset, frame.end),
      frame.width * rows,
    )
    const palette = this.bytes.subarray(
      frame.palette.offset,
      frame.palette.offset + 3 * frame.palette.colours,
    )
    const order = frame.interlaced ? interlacedRows(frame.height) : null
    for (let row = 0; row * frame.width < filled; row++) {
      const y = frame.y + (order ? order[row]! : row)
      if (y >= height) continue
      const across = Math.min(frame.width, width - frame.x, filled - row * frame.width)
      for (let x = 0; x < across; x++) {
        const index = indexes[row * frame.width + x]!
        if (index === frame.transparent || index >= frame.palette.colours) continue
        const to = (y * width + frame.x + x) * 4
        this.canvas[to] = palette[index * 3]!
        this.canvas[to + 1] = palette[index * 3 + 1]!
        this.canvas[to + 2] = palette[index * 3 + 2]!
        this.canvas[to + 3] = 255
      }
    }
  }
}

/**
 * The rows of an interlaced picture in the order they are stored. Source: Graphics Interchange
 * Format 89a, appendix E.
 */
export function interlacedRows(height: number): number[] {
  const passes = [
    [0, 8],
    [4, 8],
    [2, 4],
    [1, 2],
  ] as const
  return passes.flatMap(([start, step]) =>
    Array.from(
      { length: Math.max(0, Math.ceil((height - start) / step)) },
      (_, index) => start + index * step,
    ),
  )
}
