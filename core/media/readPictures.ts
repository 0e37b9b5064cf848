import type { ByteSource } from '../bytes/ByteSource'
import { ContainerError } from '../bytes/ContainerError'
import { readGif, standsAlone } from './gif/readGif'
import type { CodecFacts, MediaFile, VideoTrack } from './MediaFile'
import { SampleTableBuilder } from './SampleTableBuilder'
import { readWebp } from './webp/readWebp'

/**
 * An animated GIF as footage: a sample for each picture, in hundredths of a second. Errors: those
 * of `readGif`; `media/image` for a single picture.
 */
export async function readGifFile(source: ByteSource): Promise<MediaFile> {
  const gif = await readGif(source)
  if (gif.frames.length < 2) throw new ContainerError('media/image', { subject: 'GIF' })
  const builder = new SampleTableBuilder()
  let time = 0
  for (const [index, frame] of gif.frames.entries()) {
    builder.add(
      frame.offset,
      frame.end - frame.offset,
      time,
      frame.delayCs,
      index === 0 || standsAlone(gif, frame),
    )
    time += frame.delayCs
  }
  const codec: CodecFacts = {
    family: 'gif',
    codec: 'gif',
    name: 'GIF',
    description: null,
    stream: {
      profile: '256 colours',
      level: null,
      bitDepth: 8,
      chroma: '4:4:4',
      width: gif.width,
      height: gif.height,
      colour: null,
    },
  }
  const track = { codec, timescale: 100, width: gif.width, height: gif.height }
  // A transparent index is mostly used for "as before"; only on an empty canvas it shows through.
  const alpha = gif.frames.some(
    (frame, index) =>
      (index === 0 || gif.frames[index - 1]!.disposal === 'clear') && !standsAlone(gif, frame),
  )
  return pictureFile('gif', source.size, { ...track, alpha }, builder, time)
}

/**
 * An animated WebP as footage, in milliseconds; its frames may need those before them, so only the
 * first is a key frame. Errors as above.
 */
export async function readWebpFile(source: ByteSource): Promise<MediaFile> {
  const webp = await readWebp(source)
  if (webp.frames.length < 2) throw new ContainerError('media/image', { subject: 'WebP' })
  const builder = new SampleTableBuilder()
  let time = 0
  for (const [index, frame] of webp.frames.entries()) {
    builder.add(frame.offset, frame.size, time, frame.durationMs, index === 0)
    time += frame.durationMs
  }
  const codec: CodecFacts = {
    family: 'webp',
    codec: 'webp',
    name: 'animated WebP',
    description: null,
    stream: {
      profile: webp.lossless ? 'lossless' : 'lossy',
      level: null,
      bitDepth: 8,
      chroma: '4:2:0',
      width: webp.width,
      height: webp.height,
      colour: null,
    },
  }
  const { width, height, alpha } = webp
  const track = { codec, timescale: 1000, width, height, alpha }
  return pictureFile('webp', source.size, track, builder, time)
}

function pictureFile(
  container: 'gif' | 'webp',
  bytes: number,
  {
    codec,
    timescale,
    width,
    height,
    alpha,
  }: Pick<VideoTrack, 'codec' | 'timescale'> & { width: number; height: number; alpha: boolean },
  builder: SampleTableBuilder,
  length: number,
): MediaFile {
  if (width <= 0 || height <= 0) throw new ContainerError('media/bad-value', { subject: 'size' })
  return {
    container,
    bytes,
    audio: false,
    audioBytes: 0,
    personal: [],
    indexFirst: null,
    video: {
      codec,
      timescale,
      codedWidth: width,
      codedHeight: height,
      visibleWidth: width,
      visibleHeight: height,
      pixelAspect: { horizontal: 1, vertical: 1 },
      displayWidth: width,
      displayHeight: height,
      rotationDeg: 0,
      colour: null,
      samples: builder.finish(),
      alpha: alpha ? 'in-pictures' : null,
      repeats: 1,
      shownStart: 0,
      shownEnd: length,
    },
  }
}
