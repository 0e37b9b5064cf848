import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { readGif } from '../gif/readGif'
import { readAvif } from './readAvif'
import { readJpeg } from './readJpeg'
import { readPng } from './readPng'
import type { StillFile } from './StillFile'
import { readSvg } from './readSvg'
import { readWebpStill } from './readWebpStill'

/** Larger sides than browsers decode anywhere. */
const LARGEST_SIDE = 65_535

/**
 * Reads a still of a format that its first bytes told. Errors: those of the formats,
 * `media/bad-value` for sizes no browser takes.
 */
export async function readStill(
  source: ByteSource,
  format: StillFile['format'],
): Promise<StillFile> {
  const still = await READERS[format](source)
  if (still.width > LARGEST_SIDE || still.height > LARGEST_SIDE)
    throw new ContainerError('media/bad-value', {
      subject: `size ${still.width} × ${still.height}`,
    })
  return still
}

const READERS: Readonly<Record<StillFile['format'], (source: ByteSource) => Promise<StillFile>>> = {
  jpeg: readJpeg,
  png: readPng,
  webp: readWebpStill,
  avif: readAvif,
  gif: readGifStill,
  svg: readSvg,
}

async function readGifStill(source: ByteSource): Promise<StillFile> {
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
