import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { readGif } from '../gif/readGif'
import { readAvif } from './readAvif'
import { readJpeg } from './readJpeg'
import { readPng } from './readPng'
import type { ImageFile } from './ImageFile'
import { readSvg } from './readSvg'
import { readWebpImage } from './readWebpImage'

/** Larger sides than browsers decode anywhere. */
const LARGEST_SIDE = 65_535

/**
 * Reads an image of the format detected from its first bytes. Errors: those of the formats;
 * `media/bad-value` for sizes that browsers refuse.
 */
export async function readImage(
  source: ByteSource,
  format: ImageFile['format'],
): Promise<ImageFile> {
  const image = await READERS[format](source)
  if (image.width > LARGEST_SIDE || image.height > LARGEST_SIDE)
    throw new ContainerError('media/bad-value', {
      subject: `size ${image.width} × ${image.height}`,
    })
  return image
}

const READERS: Readonly<Record<ImageFile['format'], (source: ByteSource) => Promise<ImageFile>>> = {
  jpeg: readJpeg,
  png: readPng,
  webp: readWebpImage,
  avif: readAvif,
  gif: readGifImage,
  svg: readSvg,
}

async function readGifImage(source: ByteSource): Promise<ImageFile> {
  const { width, height, frames } = await readGif(source)
  return {
    format: 'gif',
    bytes: source.size,
    width,
    height,
    orientation: 1,
    displayWidth: width,
    displayHeight: height,
    bitDepth: 8,
    alpha: frames[0]!.transparent !== null,
    profile: null,
    progressive: frames[0]!.interlaced,
    animated: false,
    personal: [],
  }
}
