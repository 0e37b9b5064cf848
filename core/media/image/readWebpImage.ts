import type { ByteSource } from '../../bytes/ByteSource'
import { readWebp } from '../webp/readWebp'
import { readExif, readXmp } from './readExif'
import { readIccName } from './readIccName'
import { uprightSize, type ImageFile } from './ImageFile'

const LARGEST_META = 256 * 1024

/** A WebP image: its size, alpha, profile and metadata. Errors: those of `readWebp`. */
export async function readWebpImage(source: ByteSource): Promise<ImageFile> {
  const { width, height, alpha, chunks } = await readWebp(source)
  const bytesOf = async (tag: string): Promise<Uint8Array | null> => {
    const chunk = chunks.find((each) => each.tag === tag)
    return chunk ? source.read(chunk.offset, Math.min(chunk.size, LARGEST_META)) : null
  }
  const icc = await bytesOf('ICCP')
  const exifBytes = await bytesOf('EXIF')
  const xmp = await bytesOf('XMP ')
  // Some writers keep JPEG's six bytes before the TIFF block.
  const prefixed = exifBytes !== null && exifBytes[0] === 0x45 && exifBytes[1] === 0x78
  const exif = exifBytes
    ? readExif(prefixed ? exifBytes.subarray(6) : exifBytes)
    : { orientation: 1, personal: [] }
  const told = xmp ? readXmp(String.fromCharCode(...xmp.subarray(0, 20_000))) : []
  return {
    format: 'webp',
    bytes: source.size,
    width,
    height,
    orientation: exif.orientation,
    ...uprightSize(width, height, exif.orientation),
    bitDepth: 8,
    alpha,
    profile: icc ? readIccName(icc) : null,
    progressive: false,
    animated: false,
    personal: [...new Set([...exif.personal, ...told])].sort(),
  }
}
