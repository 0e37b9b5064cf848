import { windowedSource, type ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'

/** A chunk of a RIFF file: the position of its payload. */
export interface RiffChunk {
  readonly tag: string
  readonly offset: number
  readonly size: number
}

/**
 * A picture of an animated WebP. Offsets in bytes from the start of the file, durations in
 * milliseconds.
 */
export interface WebpFrame {
  readonly offset: number
  readonly size: number
  readonly durationMs: number
}

/** A WebP file's structure, without its pixels. */
export interface WebpFile {
  readonly width: number
  readonly height: number
  readonly alpha: boolean
  readonly lossless: boolean
  /** Empty for a single picture. */
  readonly frames: readonly WebpFrame[]
  readonly chunks: readonly RiffChunk[]
}

const MAX_CHUNKS = 100_000
const SLIP_DELAY_MS = 10
const USUAL_DELAY_MS = 100

/**
 * Walks the chunks of a WebP file. Source: RFC 9649, section 2. Errors: `media/truncated`,
 * `media/bad-value`, `media/index-too-large`.
 */
export async function readWebp(file: ByteSource): Promise<WebpFile> {
  const source = windowedSource(file, 4096)
  const chunks = await walkChunks(source)
  const find = (tag: string): RiffChunk | undefined => chunks.find((chunk) => chunk.tag === tag)
  const frames: WebpFrame[] = []
  for (const chunk of chunks) {
    if (chunk.tag !== 'ANMF') continue
    const head = await bytesAt(source, chunk.offset, 16)
    const duration = u24(head, 12)
    frames.push({
      offset: chunk.offset,
      size: chunk.size,
      durationMs: duration <= SLIP_DELAY_MS ? USUAL_DELAY_MS : duration,
    })
  }
  const extended = find('VP8X')
  const plain = find('VP8 ')
  const lossless = find('VP8L')
  if (extended) {
    const head = await bytesAt(source, extended.offset, 10)
    return {
      width: u24(head, 4) + 1,
      height: u24(head, 7) + 1,
      alpha: (head[0]! & 0x10) !== 0,
      lossless: lossless !== undefined,
      frames,
      chunks,
    }
  }
  if (plain) {
    const head = await bytesAt(source, plain.offset, 10)
    return {
      width: (head[6]! | (head[7]! << 8)) & 0x3fff,
      height: (head[8]! | (head[9]! << 8)) & 0x3fff,
      alpha: false,
      lossless: false,
      frames,
      chunks,
    }
  }
  if (!lossless) throw new ContainerError('media/bad-value', { subject: 'WebP without picture' })
  const head = await bytesAt(source, lossless.offset, 5)
  const bits = (head[1]! | (head[2]! << 8) | (head[3]! << 16) | (head[4]! << 24)) >>> 0
  return {
    width: (bits & 0x3fff) + 1,
    height: ((bits >>> 14) & 0x3fff) + 1,
    alpha: ((bits >>> 28) & 1) === 1,
    lossless: true,
    frames,
    chunks,
  }
}

async function walkChunks(source: ByteSource): Promise<RiffChunk[]> {
  const chunks: RiffChunk[] = []
  let offset = 12
  while (offset + 8 <= source.size) {
    if (chunks.length === MAX_CHUNKS) throw new ContainerError('media/index-too-large', { offset })
    const head = await bytesAt(source, offset, 8)
    const size = (head[4]! | (head[5]! << 8) | (head[6]! << 16) | (head[7]! << 24)) >>> 0
    const tag = String.fromCharCode(...head.subarray(0, 4))
    if (offset + 8 + size > source.size)
      throw new ContainerError('media/truncated', { offset, path: tag })
    chunks.push({ tag, offset: offset + 8, size })
    offset += 8 + size + (size & 1)
  }
  return chunks
}

function u24(bytes: Uint8Array, at: number): number {
  return bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16)
}

async function bytesAt(source: ByteSource, offset: number, count: number): Promise<Uint8Array> {
  const bytes = await source.read(offset, count)
  if (bytes.byteLength < count)
    throw new ContainerError('media/truncated', { offset, subject: 'WebP' })
  return bytes
}
