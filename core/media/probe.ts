import type { ByteSource } from '../bytes/ByteSource'
import { ok, type Result } from '../result'
import type { ContainerError } from '../bytes/ContainerError'
import type { CodecFamily, MediaFile } from './MediaFile'
import { presentationOf } from './presentation'
import { readMedia } from './readMedia'

/** What Telon keeps of a source: plain JSON, all from the index and the codec's headers. */
export interface MediaFacts {
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
    readonly averageFps: number
    readonly frameCount: number
    /** Ticks a second; cuts are kept in these ticks. */
    readonly timescale: number
    readonly durationTicks: number
    /** What frames take on average, in bytes a second. */
    readonly bytesPerSecond: number
  }
  readonly audio: boolean
  readonly indexFirst: boolean | null
}

/** The facts of a file that was read. */
export function factsOf(file: MediaFile): MediaFacts {
  const { video } = file
  const shown = presentationOf(video)
  const seconds = shown.length / shown.timescale
  return {
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
      averageFps: Math.round((shown.order.length / seconds) * 1000) / 1000,
      frameCount: shown.order.length,
      timescale: video.timescale,
      durationTicks: shown.length,
      bytesPerSecond: Math.round(video.samples.sizes.reduce((sum, size) => sum + size, 0) / seconds),
    },
    audio: file.audio,
    indexFirst: file.indexFirst,
  }
}

/** Reads a file's index and gives its facts, or the coded error. */
export async function probe(source: ByteSource): Promise<Result<MediaFacts, ContainerError>> {
  const read = await readMedia(source)
  return read.ok ? ok(factsOf(read.value)) : read
}
