import type { ByteSource } from '../bytes/ByteSource'
import { ContainerError } from '../bytes/ContainerError'
import { fail, ok, type Result } from '../result'
import { readIsobmff } from './isobmff/readIsobmff'
import { readMatroska } from './matroska/readMatroska'
import type { MediaFile } from './MediaFile'
import { readGifFile, readWebpFile } from './readPictures'
import { readImage } from './image/readImage'
import { looksLikeSvg } from './image/readSvg'
import type { ImageFile } from './image/ImageFile'

/**
 * A file's type according to its first bytes; names and suffixes are not trusted. `pictures`: an
 * image, unless it contains more than one picture.
 */
type Signature =
  | { readonly kind: 'isobmff' | 'matroska' }
  | { readonly kind: 'pictures'; readonly format: 'gif' | 'webp' | 'avif' }
  | { readonly kind: 'image'; readonly format: 'jpeg' | 'png' | 'svg' }
  | { readonly kind: 'foreign'; readonly name: string }
  | null

/** Image brands that no browser shows everywhere. Source: ISO/IEC 23008-12:2022, annex B. */
const FOREIGN_BRANDS: Readonly<Record<string, string>> = {
  heic: 'HEIC',
  heix: 'HEIC',
  hevc: 'HEIC',
  heim: 'HEIC',
  mif1: 'HEIF',
  msf1: 'HEIF',
}
const TOP_BOXES = new Set([
  'ftyp',
  'moov',
  'mdat',
  'free',
  'skip',
  'wide',
  'pnot',
  'moof',
  'styp',
  'sidx',
  'uuid',
])
const HEAD_BYTES = 64
const SVG_HEAD_BYTES = 4096

function signatureOf(head: Uint8Array): Signature {
  const text = (from: number, to: number): string =>
    String.fromCharCode(...head.subarray(from, Math.min(to, head.byteLength)))
  if (head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3)
    return { kind: 'matroska' }
  if (TOP_BOXES.has(text(4, 8))) {
    const brand = text(4, 8) === 'ftyp' ? text(8, 12) : ''
    // Files whose first brand is general name AVIF among the compatible ones.
    const brands = brand === 'mif1' || brand === 'msf1' ? text(8, 64) : brand
    if (/avi[fs]/.test(brands)) return { kind: 'pictures', format: 'avif' }
    return FOREIGN_BRANDS[brand]
      ? { kind: 'foreign', name: FOREIGN_BRANDS[brand] }
      : { kind: 'isobmff' }
  }
  if (text(0, 4) === 'GIF8') return { kind: 'pictures', format: 'gif' }
  if (text(0, 4) === 'RIFF' && text(8, 12) === 'WEBP') return { kind: 'pictures', format: 'webp' }
  if (head[0] === 0xff && head[1] === 0xd8) return { kind: 'image', format: 'jpeg' }
  if (text(1, 4) === 'PNG' && head[0] === 0x89) return { kind: 'image', format: 'png' }
  if (text(0, 4) === 'II*\0' || text(0, 4) === 'MM\0*') return { kind: 'foreign', name: 'TIFF' }
  if (text(0, 4) === '8BPS') return { kind: 'foreign', name: 'layered image' }
  if (text(0, 2) === 'BM' && head[14] === 40) return { kind: 'foreign', name: 'BMP' }
  if (looksLikeSvg(head)) return { kind: 'image', format: 'svg' }
  return null
}

/**
 * Whether a first byte may begin a document: an angle bracket, white space, or a byte order mark.
 */
function isText(byte: number | undefined): boolean {
  return byte === 0x3c || byte === 0xef || (byte !== undefined && byte <= 0x20)
}

/** A file that Telon can use: footage or an image. */
export type ReadFile =
  | { readonly kind: 'clip'; readonly file: MediaFile }
  | { readonly kind: 'image'; readonly image: ImageFile }

/**
 * Reads any file Telon knows, from its index and headers. The error says what is wrong by code; it
 * is never thrown.
 */
export async function readFile(source: ByteSource): Promise<Result<ReadFile, ContainerError>> {
  try {
    return ok(await dispatch(source))
  } catch (error) {
    if (error instanceof ContainerError) return fail(error)
    throw error
  }
}

/** Reads footage; an image is refused with `media/image`. */
export async function readMedia(source: ByteSource): Promise<Result<MediaFile, ContainerError>> {
  const read = await readFile(source)
  if (!read.ok) return read
  return read.value.kind === 'clip'
    ? ok(read.value.file)
    : fail(new ContainerError('media/image', { subject: read.value.image.format.toUpperCase() }))
}

async function dispatch(source: ByteSource): Promise<ReadFile> {
  if (source.size === 0) throw new ContainerError('media/empty')
  const head = await source.read(0, Math.min(source.size, HEAD_BYTES))
  // Only text needs a longer look: much text may precede an SVG's root.
  const signature =
    signatureOf(head) ??
    (isText(head[0])
      ? signatureOf(await source.read(0, Math.min(source.size, SVG_HEAD_BYTES)))
      : null)
  switch (signature?.kind) {
    case 'isobmff':
      return { kind: 'clip', file: await readIsobmff(source) }
    case 'matroska':
      return { kind: 'clip', file: await readMatroska(source) }
    case 'image':
      return { kind: 'image', image: await readImage(source, signature.format) }
    case 'foreign':
      throw new ContainerError('media/image-unsupported', { subject: signature.name })
    case 'pictures':
      return readPictures(source, signature.format)
    default:
      throw new ContainerError('media/unknown-format')
  }
}

const ANIMATIONS: Readonly<
  Record<'gif' | 'webp' | 'avif', (source: ByteSource) => Promise<MediaFile>>
> = { gif: readGifFile, webp: readWebpFile, avif: readIsobmff }

/** Several pictures are a clip, one is an image. */
async function readPictures(
  source: ByteSource,
  format: 'gif' | 'webp' | 'avif',
): Promise<ReadFile> {
  try {
    return { kind: 'clip', file: await ANIMATIONS[format](source) }
  } catch (error) {
    const image =
      error instanceof ContainerError &&
      (error.code === 'media/image' ||
        (format === 'avif' &&
          (error.code === 'media/index-missing' || error.code === 'media/no-video')))
    if (!image) throw error
    return { kind: 'image', image: await readImage(source, format) }
  }
}
