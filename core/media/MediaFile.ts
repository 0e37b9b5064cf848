import type { PixelAspect } from './displaySize'

/** Colour as the code points of ISO/IEC 23091-2 (ITU-T H.273); null where the file does not say. */
export interface ColourFacts {
  readonly primaries: number
  readonly transfer: number
  readonly matrix: number
  readonly fullRange: boolean
}

/**
 * Codecs by family. `gif` is decoded by our own code, `webp` by the browser's image decoder;
 * `other` can be named but not decoded here.
 */
export type CodecFamily =
  'h264' | 'hevc' | 'vp8' | 'vp9' | 'av1' | 'mjpeg' | 'gif' | 'webp' | 'other'

/** Whether each sample is a picture by itself, which no video decoder takes. */
export function isPictureSequence(family: CodecFamily): boolean {
  return family === 'gif' || family === 'webp' || family === 'mjpeg'
}

/**
 * What the bitstream itself says, which may differ from the container. Sizes in pixels; null where
 * its headers do not say.
 */
export interface StreamFacts {
  /** The trade's name, such as `High` or `Main 10`. */
  readonly profile: string
  /** Such as `3.1`; null where the codec writes none. */
  readonly level: string | null
  readonly bitDepth: number
  readonly chroma: '4:0:0' | '4:2:0' | '4:2:2' | '4:4:4'
  /** Whether pictures may consist of two fields, one after another in time. */
  readonly interlaced?: boolean
  readonly width: number | null
  readonly height: number | null
  readonly colour: ColourFacts | null
}

/** How a picture track is coded. */
export interface CodecFacts {
  readonly family: CodecFamily
  /** RFC 6381 string, such as `avc1.64001f`. */
  readonly codec: string
  /** The trade's name, such as `H.264`. */
  readonly name: string
  /**
   * What a decoder wants beside the string: the payload of `avcC` or `hvcC`; null where nothing.
   */
  readonly description: Uint8Array | null
  /** Null where the headers are silent or damaged. */
  readonly stream: StreamFacts | null
}

/**
 * Samples in decoding order, one column a fact. Times are integer ticks of the track's timescale on
 * the presentation time line (edit list applied), so the first frame shown is at or near zero.
 */
export interface SampleTable {
  readonly count: number
  /** Bytes from the start of the file. */
  readonly offsets: Float64Array
  readonly sizes: Float64Array
  readonly times: Float64Array
  readonly durations: Float64Array
  /** 1 for key frames, as the container says. */
  readonly keys: Uint8Array
}

/**
 * Where the alpha pictures of samples lie (bytes from the start of the file), in the order of the
 * samples; a size of 0 where a sample has none.
 */
export interface AlphaSamples {
  readonly offsets: Float64Array
  readonly sizes: Float64Array
}

/** The picture track of a file. */
export interface VideoTrack {
  readonly codec: CodecFacts
  /** Ticks a second. */
  readonly timescale: number
  /** Size of a decoded frame before anything is cut from it. */
  readonly codedWidth: number
  readonly codedHeight: number
  /**
   * The part of a decoded frame that the container shows, from its top left corner: where the two
   * disagree, the smaller.
   */
  readonly visibleWidth: number
  readonly visibleHeight: number
  /** Width over height of one pixel, in lowest terms. */
  readonly pixelAspect: PixelAspect
  /** Size shown, in square pixels, after pixel aspect and rotation. */
  readonly displayWidth: number
  readonly displayHeight: number
  /** Clockwise: 0, 90, 180 or 270. */
  readonly rotationDeg: number
  readonly colour: ColourFacts | null
  readonly samples: SampleTable
  /**
   * Where transparency is stored: nowhere (null), in each picture, or as a second picture for each
   * sample, whose luma (0 to 255) is the opacity.
   */
  readonly alpha: 'in-pictures' | AlphaSamples | null
  /** How often the file's index plays the samples over; 1 for all but delivered loops. */
  readonly repeats: number
  /** Presentation interval that the edit list shows, in ticks: `[start, end)`. */
  readonly shownStart: number
  readonly shownEnd: number
}

/** Metadata that visitors must not get. */
export type PersonalKind = 'location' | 'device' | 'author' | 'date'

/** What is known of a media file from its index alone. */
export interface MediaFile {
  readonly container: 'mp4' | 'mov' | 'webm' | 'mkv' | 'gif' | 'webp' | 'avif'
  readonly bytes: number
  readonly video: VideoTrack
  readonly audio: boolean
  /** Bytes of the sound tracks' samples, as far as the index lists them. */
  readonly audioBytes: number
  /** What the file says about people and places: it never reaches what is delivered. */
  readonly personal: readonly PersonalKind[]
  /** Whether the index comes before the data; null for containers without a single index. */
  readonly indexFirst: boolean | null
}
