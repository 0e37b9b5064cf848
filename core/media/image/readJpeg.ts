import { windowedSource, type ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import type { PersonalKind } from '../MediaFile'
import { readExif, readXmp } from './readExif'
import { readIccName } from './readIccName'
import { uprightSize, type ImageFile } from './ImageFile'

const MAX_SEGMENTS = 5000
const END_WINDOW_BYTES = 64 * 1024

/**
 * Reads a JPEG's markers up to its picture data. Source: ITU-T T.81, annex B. Errors:
 * `media/truncated`, `media/bad-value`.
 */
export async function readJpeg(file: ByteSource): Promise<ImageFile> {
  const source = windowedSource(file, 64 * 1024)
  const personal = new Set<PersonalKind>()
  let orientation = 1
  let profile: string | null = null
  let offset = 2
  for (let segment = 0; segment < MAX_SEGMENTS; segment++) {
    const head = await source.read(offset, 4)
    if (head.byteLength < 4)
      throw new ContainerError('media/truncated', { offset, subject: 'JPEG' })
    if (head[0] !== 0xff)
      throw new ContainerError('media/bad-value', { offset, subject: 'JPEG marker' })
    const marker = head[1]!
    // Fill bytes and markers that stand alone.
    if (marker === 0xff || marker === 0x01 || (marker >= 0xd0 && marker <= 0xd8)) {
      offset += marker === 0xff ? 1 : 2
      continue
    }
    if (marker === 0xd9 || marker === 0xda)
      throw new ContainerError('media/bad-value', { offset, subject: 'JPEG without frame header' })
    const length = (head[2]! << 8) | head[3]!
    if (length < 2) throw new ContainerError('media/bad-size', { offset, path: 'JPEG segment' })
    const body = await source.read(offset + 4, length - 2)
    if (body.byteLength < length - 2)
      throw new ContainerError('media/truncated', { offset, subject: 'JPEG' })
    const named = (text: string): boolean =>
      [...text].every((letter, at) => body[at] === letter.charCodeAt(0))
    if (marker === 0xe1 && named('Exif\0\0')) {
      const exif = readExif(body.subarray(6))
      orientation = exif.orientation
      exif.personal.forEach((kind) => personal.add(kind))
    } else if (marker === 0xe1 && named('http://ns.'))
      readXmp(String.fromCharCode(...body.subarray(0, 20_000))).forEach((kind) =>
        personal.add(kind),
      )
    else if (marker === 0xe2 && named('ICC_PROFILE\0') && body[12] === 1)
      profile = readIccName(body.subarray(14))
    else if (isFrameHeader(marker)) {
      if (body.byteLength < 6)
        throw new ContainerError('media/truncated', { offset, subject: 'JPEG' })
      const height = (body[1]! << 8) | body[2]!
      const width = (body[3]! << 8) | body[4]!
      if (width === 0 || height === 0)
        throw new ContainerError('media/bad-value', { offset, subject: 'JPEG size' })
      if (!(await endsWhole(file)))
        throw new ContainerError('media/truncated', { offset: file.size, subject: 'JPEG' })
      return {
        format: 'jpeg',
        bytes: file.size,
        width,
        height,
        orientation,
        ...uprightSize(width, height, orientation),
        bitDepth: body[0]!,
        alpha: false,
        profile,
        progressive: marker === 0xc2 || marker === 0xca,
        animated: false,
        personal: [...personal].sort(),
      }
    }
    offset += 2 + length
  }
  throw new ContainerError('media/bad-value', { offset, subject: 'JPEG' })
}

/** SOF markers, without those for tables that share the range. */
function isFrameHeader(marker: number): boolean {
  return marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc
}

/**
 * Whether the end-of-image marker is there; cameras put previews and notes behind it, so it is
 * looked for some way back.
 */
async function endsWhole(file: ByteSource): Promise<boolean> {
  const start = Math.max(0, file.size - END_WINDOW_BYTES)
  const tail = await file.read(start, file.size - start)
  for (let at = tail.byteLength - 2; at >= 0; at--)
    if (tail[at] === 0xff && tail[at + 1] === 0xd9) return true
  return false
}
