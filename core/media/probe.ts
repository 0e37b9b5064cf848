import type { ByteSource } from '../bytes/ByteSource'
import type { ContainerError } from '../bytes/ContainerError'
import { toNumber, type Fraction } from '../Fraction'
import { ok, type Result } from '../result'
import type { PixelAspect } from './displaySize'
import { constantRate } from './frameGrid'
import type { ImageFile } from './image/ImageFile'
import type { CodecFamily, ColourFacts, MediaFile, PersonalKind, StreamFacts } from './MediaFile'
import { presentationOf } from './presentation'
import { readFile } from './readMedia'

/** What Telon keeps of a clip: plain JSON, all from the index and the codec's headers. */
export interface MediaFacts {
  readonly kind: 'clip'
  readonly container: MediaFile['container']
  readonly bytes: number
  readonly durationMs: number
  readonly video: {
    readonly family: CodecFamily
    readonly codecName: string
    /** RFC 6381 string. */
    readonly codec: string
    readonly displayWidth: number
    readonly displayHeight: number
    readonly rotationDeg: number
    readonly pixelAspect: PixelAspect
    /** Frames shown, divided by seconds. */
    readonly averageFps: number
    /** The constant frame rate; null if it varies. */
    readonly frameRate: Fraction | null
    readonly frameCount: number
    /** How often the index plays the frames over; the other figures are of one turn. */
    readonly repeats: number
    /** Ticks a second; cuts are kept in these ticks. */
    readonly timescale: number
    readonly durationTicks: number
    /** What frames take on average, in bytes a second. */
    readonly bytesPerSecond: number
    /** The heaviest second, in bytes. */
    readonly peakBytesPerSecond: number
    /** The longest distance between key frames, as the container flags them. */
    readonly keyEveryMs: number
    /** Whether parts of the picture may be transparent. */
    readonly alpha: boolean
    readonly colour: ColourFacts | null
    /** As the bitstream says; null where its headers are silent. */
    readonly stream: Omit<StreamFacts, 'width' | 'height' | 'colour'> | null
  }
  readonly audio: boolean
  readonly audioBytes: number
  readonly indexFirst: boolean | null
  readonly personal: readonly PersonalKind[]
}

/** What Telon stores of an image. */
export interface ImageFacts extends ImageFile {
  readonly kind: 'image'
}

/** What Telon keeps of any source. */
export type SourceFacts = MediaFacts | ImageFacts

/** Frames a second of a clip: its constant rate, or the mean where the rate varies. */
export function sourceFps({
  averageFps,
  frameRate,
}: Pick<MediaFacts['video'], 'averageFps' | 'frameRate'>): number {
  return frameRate ? toNumber(frameRate) : averageFps
}

/** The facts of a clip that was read. */
export function factsOf(file: MediaFile): MediaFacts {
  const { video } = file
  const shown = presentationOf(video)
  const seconds = shown.length / shown.timescale
  const { stream } = video.codec
  return {
    kind: 'clip',
    container: file.container,
    bytes: file.bytes,
    durationMs: Math.round(seconds * 1000),
    video: {
      family: video.codec.family,
      codecName: video.codec.name,
      codec: video.codec.codec,
      displayWidth: video.displayWidth,
      displayHeight: video.displayHeight,
      rotationDeg: video.rotationDeg,
      pixelAspect: video.pixelAspect,
      averageFps: Math.round((shown.order.length / seconds) * 1000) / 1000,
      frameRate: constantRate(shown),
      frameCount: shown.order.length,
      repeats: video.repeats,
      timescale: video.timescale,
      durationTicks: shown.length,
      bytesPerSecond: Math.round(
        video.samples.sizes.reduce((sum, size) => sum + size, 0) / seconds,
      ),
      peakBytesPerSecond: Math.max(0, ...bytesEachSecond(file).slice(0, 36_000)),
      keyEveryMs: longestKeyDistanceMs(file),
      alpha: video.alpha !== null,
      colour: video.colour,
      stream: stream && {
        profile: stream.profile,
        level: stream.level,
        bitDepth: stream.bitDepth,
        chroma: stream.chroma,
        ...(stream.interlaced ? { interlaced: true } : {}),
      },
    },
    audio: file.audio,
    audioBytes: file.audioBytes,
    indexFirst: file.indexFirst,
    personal: file.personal,
  }
}

/** Bytes of the frames shown in each second, from the first; the last second may be short. */
export function bytesEachSecond({ video }: Pick<MediaFile, 'video'>): number[] {
  const shown = presentationOf(video)
  const seconds = Math.min(86_400, Math.max(1, Math.ceil(shown.length / shown.timescale)))
  const sums = Array.from({ length: seconds }, () => 0)
  shown.order.forEach((sample, index) => {
    const second = Math.min(seconds - 1, Math.floor(shown.times[index]! / shown.timescale))
    sums[second]! += video.samples.sizes[sample]!
  })
  return sums
}

function longestKeyDistanceMs({ video }: MediaFile): number {
  const { samples, timescale, shownEnd } = video
  let last = samples.times[0] ?? 0
  let longest = 0
  for (let index = 0; index < samples.count; index++) {
    if (samples.keys[index] !== 1) continue
    longest = Math.max(longest, samples.times[index]! - last)
    last = samples.times[index]!
  }
  return Math.round((Math.max(longest, shownEnd - last) * 1000) / timescale)
}

/** Reads a file's index and headers and gives its facts, or the coded error. */
export async function probe(source: ByteSource): Promise<Result<SourceFacts, ContainerError>> {
  const read = await readFile(source)
  if (!read.ok) return read
  return ok(
    read.value.kind === 'clip' ? factsOf(read.value.file) : { kind: 'image', ...read.value.image },
  )
}
