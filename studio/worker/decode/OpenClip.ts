import type { ByteSource } from '../../../core/bytes/ByteSource'
import { assumedColour } from '../../../core/media/assumedColour'
import { avcLengthBytes, unitsBeforePicture } from '../../../core/media/codecs/h264'
import { isKeyFrame, KEY_HEAD_BYTES } from '../../../core/media/codecs/isKeyFrame'
import { saneCodecStrings } from '../../../core/media/codecs/saneCodecStrings'
import { describeContainerError } from '../../../core/media/describeContainerError'
import type { GifDecoder } from '../../../core/media/gif/GifDecoder'
import type { GifFile } from '../../../core/media/gif/readGif'
import { isPictureSequence, type ColourFacts, type MediaFile } from '../../../core/media/MediaFile'
import { presentationOf, type Presentation } from '../../../core/media/presentation'
import { readMedia } from '../../../core/media/readMedia'
import { refusalOf } from '../../../core/media/refusal'
import { PLAIN_SHAPE } from '../../../core/picture/pictureShape'
import { WorkError } from '../WorkError'

/**
 * A clip ready to be decoded: its index, its frames in order of presentation, and where to start
 * for each.
 */
export interface OpenClip {
  readonly source: ByteSource
  readonly file: MediaFile
  readonly presentation: Presentation
  /** Null for sequences of pictures, which no video decoder takes. */
  readonly config: VideoDecoderConfig | null
  /**
   * For each sample (in decoding order) its place among all samples by time: what decoders are
   * given as timestamp.
   */
  readonly rankOf: Int32Array
  /** For each shown frame the rank of its sample. */
  readonly ranks: Int32Array
  /** The first sample that decoding can start at. */
  readonly firstKey: number
  /**
   * The first sample's units that are no picture (H.264: parameter sets, SEI), each after its
   * length. Some decoders fail without them when they start at a later key frame.
   */
  readonly startUnits: Uint8Array
  /**
   * The second pictures that hold the opacity, as a clip of their own; null where there are none.
   */
  readonly alpha: OpenClip | null
  /** What transparent parts are filled with, `#rrggbb`. */
  readonly matte: string
  /** Numbers of shown frames that could not be decoded so far. */
  readonly missing: Set<number>
  /** What is kept while the clip is open, whatever fills it. */
  readonly kept: KeptWithClip
}

/** What stays with an open clip from one order to the next. */
export interface KeptWithClip {
  /** The same clip with other mattes. */
  readonly filled: Map<string, OpenClip>
  /** The whole file, of formats that are decoded from it. */
  file: Promise<Uint8Array> | null
  gif: { readonly file: GifFile; readonly decoder: GifDecoder } | null
}

/**
 * How far a start is searched for in a recording that begins in the middle of a group of frames.
 */
const SEARCHED_SAMPLES = 600

/**
 * Reads a clip's index and makes sure that the browser decodes it. Errors: `work/cannot-decode`,
 * `work/unreadable`.
 */
export async function openClip(source: ByteSource): Promise<OpenClip> {
  const read = await readMedia(source)
  if (!read.ok) throw new WorkError('work/cannot-decode', describeContainerError(read.error))
  const { video } = read.value
  const byTime = Array.from({ length: video.samples.count }, (_, index) => index).sort(
    (a, b) => video.samples.times[a]! - video.samples.times[b]!,
  )
  const rankOf = new Int32Array(video.samples.count)
  byTime.forEach((sample, rank) => (rankOf[sample] = rank))
  const { family, name: codecName } = video.codec
  const refusal = refusalOf({ family, codecName, colour: video.colour }, true)
  if (refusal) throw new WorkError('work/cannot-decode', describeContainerError(refusal))
  const pictures = isPictureSequence(family)
  const firstKey = pictures ? 0 : await findFirstKey(source, read.value)
  const presentation = without(presentationOf(video), firstKey)
  const config = pictures ? null : await decoderConfig(read.value)
  const clip: OpenClip = {
    source,
    file: read.value,
    presentation,
    config,
    rankOf,
    ranks: Int32Array.from(presentation.order, (sample) => rankOf[sample]!),
    firstKey,
    startUnits: pictures ? new Uint8Array(0) : await findStartUnits(source, video),
    alpha: null,
    matte: PLAIN_SHAPE.matte,
    missing: new Set(),
    kept: { filled: new Map(), file: null, gif: null },
  }
  return { ...clip, alpha: alphaOf(clip) }
}

/** A second picture comes with each sample and is coded in the same way, key frames alike. */
function alphaOf(clip: OpenClip): OpenClip | null {
  const { video } = clip.file
  if (!video.alpha || video.alpha === 'in-pictures') return null
  const samples = { ...video.samples, ...video.alpha }
  return {
    ...clip,
    file: { ...clip.file, video: { ...video, samples, alpha: null } },
    missing: new Set(),
  }
}

/** The clip with what fills its transparent parts; an opaque clip is given back itself. */
export function withMatte(clip: OpenClip, matte: string): OpenClip {
  if (!clip.file.video.alpha || matte === clip.matte) return clip
  // Decoders are kept for a clip as long as it is the same one.
  const filled = clip.kept.filled.get(matte) ?? { ...clip, matte }
  clip.kept.filled.set(matte, filled)
  return filled
}

/** An assumed colour, which is BT.601 or BT.709 throughout, as WebCodecs wants it. */
function colourSpaceOf({ matrix, fullRange }: ColourFacts): VideoColorSpaceInit {
  const name = matrix === 1 ? 'bt709' : 'smpte170m'
  return { primaries: name, transfer: name, matrix: name, fullRange }
}

async function decoderConfig({ video }: MediaFile): Promise<VideoDecoderConfig> {
  const assumed = assumedColour(video.codec.family, video.colour, video.visibleHeight)
  const seconds = (video.shownEnd - video.shownStart) / video.timescale
  for (const codec of saneCodecStrings(
    video.codec.codec,
    video.codedWidth,
    video.codedHeight,
    video.samples.count / Math.max(0.001, seconds),
  )) {
    const config: VideoDecoderConfig = {
      codec,
      codedWidth: video.codedWidth,
      codedHeight: video.codedHeight,
      ...(video.codec.description ? { description: video.codec.description } : {}),
      ...(assumed ? { colorSpace: colourSpaceOf(assumed) } : {}),
      hardwareAcceleration: 'no-preference',
      // Without it H.264 holds a frame back; with it, frames that are stored out of order could
      // come out so.
      optimizeForLatency: video.samples.times.every(
        (time, index) => index === 0 || time >= video.samples.times[index - 1]!,
      ),
    }
    const supported =
      typeof VideoDecoder === 'undefined'
        ? false
        : await VideoDecoder.isConfigSupported(config).then(
            (answer) => answer.supported,
            () => false,
          )
    if (supported) return config
  }
  throw new WorkError(
    'work/cannot-decode',
    `The picture is coded as ${video.codec.name} (${video.codec.codec}), which this browser cannot decode. Export it again as MP4 with H.264, or as WebM with VP9.`,
  )
}

/** The first sample that is a start according to the bitstream; 0 if none is found. */
async function findFirstKey(source: ByteSource, { video }: MediaFile): Promise<number> {
  for (let sample = 0; sample < Math.min(SEARCHED_SAMPLES, video.samples.count); sample++) {
    const verdict = isKeyFrame(video.codec, await headOf(source, video, sample))
    if (verdict !== false) return verdict === null && sample > 0 ? 0 : sample
  }
  return 0
}

/** How much of the first sample is searched for units: pictures follow within this. */
const START_UNITS_BYTES = 64 * 1024

async function findStartUnits(source: ByteSource, video: MediaFile['video']): Promise<Uint8Array> {
  const { samples, codec } = video
  const lengthBytes = avcLengthBytes(codec.description)
  if (codec.family !== 'h264' || samples.count === 0 || lengthBytes === null)
    return new Uint8Array(0)
  const size = Math.min(samples.sizes[0]!, START_UNITS_BYTES)
  return unitsBeforePicture(await source.read(samples.offsets[0]!, size), lengthBytes)
}

/** The bytes to start decoding with at a sample: a later one gets the clip's first units. */
export function startData(clip: OpenClip, sample: number, data: Uint8Array): Uint8Array {
  if (sample === 0 || clip.startUnits.byteLength === 0) return data
  const joined = new Uint8Array(clip.startUnits.byteLength + data.byteLength)
  joined.set(clip.startUnits)
  joined.set(data, clip.startUnits.byteLength)
  return joined
}

/**
 * The first sample after `sample` that the container flags and the bitstream confirms as a key
 * frame; null if there is none.
 */
export async function startAfter(
  { source, file: { video } }: Pick<OpenClip, 'source' | 'file'>,
  sample: number,
): Promise<number | null> {
  for (let index = sample + 1; index < video.samples.count; index++) {
    if (video.samples.keys[index] !== 1) continue
    if (isKeyFrame(video.codec, await headOf(source, video, index)) !== false) return index
  }
  return null
}

function headOf(
  source: ByteSource,
  video: MediaFile['video'],
  sample: number,
): Promise<Uint8Array> {
  return source.read(
    video.samples.offsets[sample]!,
    Math.min(KEY_HEAD_BYTES, video.samples.sizes[sample]!),
  )
}

/** A presentation without the frames that cannot be decoded since their start is missing. */
function without(presentation: Presentation, firstKey: number): Presentation {
  const kept = presentation.order.findIndex((sample) => sample >= firstKey)
  if (firstKey === 0 || kept <= 0) return presentation
  const from = presentation.times[kept]!
  return {
    ...presentation,
    order: presentation.order.slice(kept),
    times: presentation.times.slice(kept).map((time) => time - from),
    length: presentation.length - from,
  }
}

/**
 * The sample that the container says to start decoding at, to reach a sample: the last key frame in
 * decoding order that is not shown after it.
 */
export function keyBefore(clip: OpenClip, sample: number): number {
  const { samples } = clip.file.video
  for (let index = sample; index > clip.firstKey; index--) {
    if (samples.keys[index] === 1 && samples.times[index]! <= samples.times[sample]!) return index
  }
  return clip.firstKey
}

/**
 * Like `keyBefore`, but checked against the bitstream: containers flag key frames wrongly, WebM
 * above all.
 */
export async function startBefore(clip: OpenClip, sample: number): Promise<number> {
  let key = keyBefore(clip, sample)
  while (
    key > clip.firstKey &&
    isKeyFrame(clip.file.video.codec, await headOf(clip.source, clip.file.video, key)) === false
  )
    key = keyBefore(clip, key - 1)
  return key
}
