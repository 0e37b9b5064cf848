import { windowedSource, type ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import type { PersonalKind } from '../MediaFile'
import { readExif, readXmp } from './readExif'
import { PRIMARIES_NAMES } from './readIccName'
import { uprightSize, type ImageFile } from './ImageFile'

const MAX_CHUNKS = 100_000
const LARGEST_TEXT = 64 * 1024

/**
 * Reads a PNG's chunks, without its pixels. Source: PNG specification, third edition, clause 11.
 * Errors: `media/truncated`, `media/bad-value`.
 */
export async function readPng(file: ByteSource): Promise<ImageFile> {
  const source = windowedSource(file, 4096)
  const head = await source.read(8, 25)
  if (head.byteLength < 25)
    throw new ContainerError('media/truncated', { offset: 8, subject: 'PNG' })
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength)
  if (view.getUint32(4) !== 0x49484452)
    throw new ContainerError('media/bad-value', { offset: 12, subject: 'PNG header' })
  const width = view.getUint32(8)
  const height = view.getUint32(12)
  const colourType = head[17]!
  if (width === 0 || height === 0 || width > 0x7fffffff || height > 0x7fffffff)
    throw new ContainerError('media/bad-value', { offset: 16, subject: 'PNG size' })
  const personal = new Set<PersonalKind>()
  let orientation = 1
  let profile: string | null = null
  let alpha = colourType === 4 || colourType === 6
  let animated = false
  let offset = 33
  for (let chunk = 0; ; chunk++) {
    const at = await source.read(offset, 8)
    if (at.byteLength < 8 || chunk === MAX_CHUNKS)
      throw new ContainerError('media/truncated', { offset, subject: 'PNG' })
    const size = ((at[0]! << 24) | (at[1]! << 16) | (at[2]! << 8) | at[3]!) >>> 0
    const tag = String.fromCharCode(...at.subarray(4, 8))
    if (offset + 12 + size > file.size)
      throw new ContainerError('media/truncated', { offset, path: tag })
    if (tag === 'IEND') break
    if (tag === 'tRNS') alpha = true
    if (tag === 'acTL') animated = true
    if (tag === 'sRGB') profile ??= 'sRGB'
    if (tag === 'cICP') profile = PRIMARIES_NAMES[(await source.read(offset + 8, 1))[0]!] ?? profile
    if (tag === 'iCCP') profile = nameBefore(await source.read(offset + 8, Math.min(size, 80)))
    if (tag === 'eXIf') {
      const exif = readExif(await source.read(offset + 8, Math.min(size, LARGEST_TEXT)))
      orientation = exif.orientation
      exif.personal.forEach((kind) => personal.add(kind))
    }
    if (tag === 'tEXt' || tag === 'iTXt' || tag === 'zTXt') {
      const text = String.fromCharCode(...(await source.read(offset + 8, Math.min(size, 8192))))
      if (/^(Author|Artist|Copyright)\0/.test(text)) personal.add('author')
      if (/^Creation Time\0/.test(text)) personal.add('date')
      if (/^(Software|Source)\0/.test(text)) personal.add('device')
      if (text.startsWith('XML:')) readXmp(text).forEach((kind) => personal.add(kind))
    }
    offset += 12 + size
  }
  return {
    format: 'png',
    bytes: file.size,
    width,
    height,
    orientation,
    ...uprightSize(width, height, orientation),
    bitDepth: head[16]!,
    alpha,
    profile,
    progressive: head[20] === 1,
    animated,
    personal: [...personal].sort(),
  }
}

function nameBefore(bytes: Uint8Array): string | null {
  const end = bytes.indexOf(0)
  return end > 0 ? String.fromCharCode(...bytes.subarray(0, end)) : null
}
