import { windowedSource, type ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'

/**
 * One picture of a GIF, which covers all or part of the canvas. Offsets in bytes from the start of
 * the file.
 */
export interface GifFrame {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly interlaced: boolean
  /** Hundredths of a second, as browsers play them. */
  readonly delayCs: number
  /** What happens to the frame's area before the next frame: kept, cleared, or restored. */
  readonly disposal: 'keep' | 'clear' | 'restore'
  /** Index of the transparent colour; null if every pixel is drawn. */
  readonly transparent: number | null
  /** Position of its palette, and its number of colours. */
  readonly palette: { readonly offset: number; readonly colours: number }
  /** From the first byte of its graphic control (or image) block to behind its last data block. */
  readonly offset: number
  readonly end: number
  /** Where its picture data begin: the byte of the least code size. */
  readonly dataOffset: number
}

/** A GIF's structure, without its pixels. */
export interface GifFile {
  readonly width: number
  readonly height: number
  /** How often the animation plays; 0 means forever, 1 if the file does not say. */
  readonly plays: number
  readonly frames: readonly GifFrame[]
}

const WINDOW_BYTES = 256 * 1024
const MAX_FRAMES = 100_000
/** A canvas of more pixels is no background. */
const MAX_PIXELS = 16 * 1024 * 1024
/**
 * Browsers treat delays of less than two hundredths as an error of the writer and show the frame
 * for a tenth of a second.
 */
const SLIP_DELAY_CS = 1
const USUAL_DELAY_CS = 10

/**
 * Walks the blocks of a GIF. A file cut short keeps its whole frames. Source: Graphics Interchange
 * Format 89a specification. Errors: `media/truncated` where no frame is whole, `media/bad-value`,
 * `media/no-frames`, `media/index-too-large`.
 */
export async function readGif(file: ByteSource): Promise<GifFile> {
  const source = windowedSource(file, WINDOW_BYTES)
  const head = await bytesAt(source, 0, 13)
  const width = head[6]! | (head[7]! << 8)
  const height = head[8]! | (head[9]! << 8)
  if (width === 0 || height === 0 || width * height > MAX_PIXELS)
    throw new ContainerError('media/bad-value', { offset: 6, subject: `size ${width} × ${height}` })
  const global = paletteAt(13, head[10]!)
  const frames: GifFrame[] = []
  let plays = 1
  let control: Control = NO_CONTROL
  let controlAt: number | null = null
  let offset = 13 + (global ? 3 * global.colours : 0)
  try {
    for (;;) {
      const [kind] = await bytesAt(source, offset, 1)
      if (kind === 0x3b) break
      if (kind === 0x21) {
        const [, label, size] = await bytesAt(source, offset, 3)
        if (label === 0xf9 && size === 4) {
          control = readControl(await bytesAt(source, offset + 3, 4))
          controlAt = offset
        } else if (label === 0xff) plays = (await readPlays(source, offset + 3 + size!)) ?? plays
        offset = await skipBlocks(source, offset + 2)
      } else if (kind === 0x2c) {
        if (frames.length === MAX_FRAMES)
          throw new ContainerError('media/index-too-large', { offset })
        const frame = readFrame(await bytesAt(source, offset, 10), offset, global, control)
        const end = await skipBlocks(source, frame.dataOffset + 1)
        frames.push({ ...frame, offset: controlAt ?? offset, end })
        control = NO_CONTROL
        controlAt = null
        offset = end
      } else throw new ContainerError('media/bad-value', { offset, subject: 'GIF block' })
    }
  } catch (error) {
    // Many GIFs lack their last byte or have garbage at the end: everything complete before it
    // counts.
    if (
      !(error instanceof ContainerError) ||
      frames.length === 0 ||
      error.code === 'media/index-too-large'
    )
      throw error
  }
  if (frames.length === 0) throw new ContainerError('media/no-frames')
  return { width, height, plays, frames }
}

/** A picture that covers the whole canvas with every pixel does not depend on earlier ones. */
export function standsAlone(gif: GifFile, frame: GifFrame): boolean {
  return (
    frame.transparent === null &&
    frame.x === 0 &&
    frame.y === 0 &&
    frame.width >= gif.width &&
    frame.height >= gif.height
  )
}

interface Control {
  readonly delayCs: number
  readonly disposal: GifFrame['disposal']
  readonly transparent: number | null
}

const NO_CONTROL: Control = { delayCs: USUAL_DELAY_CS, disposal: 'keep', transparent: null }

function readControl(bytes: Uint8Array): Control {
  const delay = bytes[1]! | (bytes[2]! << 8)
  const disposal = (bytes[0]! >> 2) & 7
  return {
    delayCs: delay <= SLIP_DELAY_CS ? USUAL_DELAY_CS : delay,
    disposal: disposal === 2 ? 'clear' : disposal === 3 ? 'restore' : 'keep',
    transparent: bytes[0]! & 1 ? bytes[3]! : null,
  }
}

function readFrame(
  head: Uint8Array,
  offset: number,
  global: GifFrame['palette'] | null,
  control: Control,
): Omit<GifFrame, 'offset' | 'end'> {
  const u16 = (at: number): number => head[at]! | (head[at + 1]! << 8)
  const own = paletteAt(offset + 10, head[9]!)
  const palette = own ?? global
  if (u16(5) * u16(7) > MAX_PIXELS)
    throw new ContainerError('media/bad-value', {
      offset,
      subject: `picture of ${u16(5)} × ${u16(7)}`,
    })
  if (!palette) throw new ContainerError('media/bad-value', { offset, subject: 'GIF palette' })
  return {
    x: u16(1),
    y: u16(3),
    width: u16(5),
    height: u16(7),
    interlaced: (head[9]! & 0x40) !== 0,
    ...control,
    palette,
    dataOffset: offset + 10 + (own ? 3 * own.colours : 0),
  }
}

function paletteAt(offset: number, flags: number): GifFrame['palette'] | null {
  return flags & 0x80 ? { offset, colours: 2 << (flags & 7) } : null
}

/**
 * How often it plays, from the first data block of an application extension: 1, then a count; null
 * where the block is another.
 */
async function readPlays(source: ByteSource, offset: number): Promise<number | null> {
  const [size, id, low, high] = await bytesAt(source, offset, 4)
  if (size !== 3 || id !== 1) return null
  const repeats = low! | (high! << 8)
  return repeats === 0 ? 0 : repeats + 1
}

/** Behind a chain of data blocks, each preceded by its length, up to the empty one. */
async function skipBlocks(source: ByteSource, start: number): Promise<number> {
  let offset = start
  for (;;) {
    const [size] = await bytesAt(source, offset, 1)
    offset += 1 + size!
    if (size === 0) return offset
  }
}

async function bytesAt(source: ByteSource, offset: number, count: number): Promise<Uint8Array> {
  const bytes = await source.read(offset, count)
  if (bytes.byteLength < count)
    throw new ContainerError('media/truncated', { offset, subject: 'GIF' })
  return bytes
}
