import type { ByteSource } from '../bytes/ByteSource'
import { fail, ok, type Result } from '../result'
import { ContainerError } from '../bytes/ContainerError'
import type { MediaFile } from './MediaFile'
import { readIsobmff } from './isobmff/readIsobmff'
import { readMatroska } from './matroska/readMatroska'

/** What a file's first bytes say it is; names and suffixes are not trusted. */
type Signature = 'isobmff' | 'matroska' | { readonly image: string } | null

const IMAGE_BRANDS: Readonly<Record<string, string>> = { avif: 'AVIF', avis: 'AVIF', heic: 'HEIC', heix: 'HEIC', mif1: 'HEIF' }
const TOP_BOXES = new Set(['ftyp', 'moov', 'mdat', 'free', 'skip', 'wide', 'pnot', 'moof', 'styp', 'sidx', 'uuid'])

function signatureOf(head: Uint8Array): Signature {
  const text = (from: number, to: number): string => String.fromCharCode(...head.subarray(from, to))
  if (head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3) return 'matroska'
  if (TOP_BOXES.has(text(4, 8))) {
    const image = text(4, 8) === 'ftyp' ? IMAGE_BRANDS[text(8, 12)] : undefined
    return image ? { image } : 'isobmff'
  }
  if (text(0, 3) === 'GIF') return { image: 'GIF' }
  if (head[0] === 0xff && head[1] === 0xd8) return { image: 'JPEG' }
  if (text(1, 4) === 'PNG') return { image: 'PNG' }
  if (text(0, 4) === 'RIFF' && text(8, 12) === 'WEBP') return { image: 'WebP' }
  return null
}

/** Reads any container Telon knows from its index. The error says what is wrong by code; it is never thrown. */
export async function readMedia(source: ByteSource): Promise<Result<MediaFile, ContainerError>> {
  try {
    if (source.size === 0) return fail(new ContainerError('media/empty'))
    const signature = signatureOf(await source.read(0, 16))
    if (signature === 'isobmff') return ok(await readIsobmff(source))
    if (signature === 'matroska') return ok(await readMatroska(source))
    return fail(signature ? new ContainerError('media/image', { subject: signature.image }) : new ContainerError('media/unknown-format'))
  } catch (error) {
    if (error instanceof ContainerError) return fail(error)
    throw error
  }
}
