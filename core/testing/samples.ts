import { mimeOf } from '../media/image/mimeOf'
import type { ClipFacts, PosterFacts, Rendition, ClipSource } from '../api/wire'
import { isOf, type BackdropDocument, type DocumentOf } from '../backdrop/BackdropDocument'
import { createBackdrop } from '../backdrop/createBackdrop'
import { recipeKey, type Recipe } from '../backdrop/recipe'
import { reduce, type BackdropAction } from '../backdrop/reduce'
import { createFootage } from '../kinds/footage/createFootage'
import type { KnownSource, Sources } from '../kinds/Kind'
import type { EncodedTrack } from '../media/EncodedTrack'
import type { ImageFacts, MediaFacts } from '../media/probe'
import type { ProbeFacts } from '../weight/ProbeFacts'

/**
 * An H.264 SPS of 640 × 360, High profile, level 3.0, with its NAL header, as Chromium's encoder
 * writes it.
 */
export const SPS = Uint8Array.from([
  0x67, 0x42, 0xc0, 0x1e, 0xda, 0x02, 0x80, 0xbf, 0xe5, 0x84, 0x00, 0x00, 0x03, 0x00, 0x04, 0x00,
  0x00, 0x03, 0x00, 0xc0, 0x3c, 0x58, 0xba, 0x80,
])

/** A decoder configuration record around `SPS`. */
export const AVC_RECORD = Uint8Array.from([
  1,
  0x42,
  0xc0,
  0x1e,
  0xff,
  0xe1,
  0,
  SPS.length,
  ...SPS,
  1,
  0,
  2,
  0x68,
  0xce,
])

/** The start of a VP9 key frame of 320 × 180, profile 0, BT.709 limited. */
export const VP9_KEY = Uint8Array.from([
  0x82, 0x49, 0x83, 0x42, 0x40, 0x13, 0xf0, 0x0b, 0x30, 0, 0, 0,
])
/** The start of a VP9 frame that is none. */
export const VP9_DELTA = Uint8Array.from([0x86, 0, 0, 0])

/**
 * An AV1 temporal unit: delimiter, and a reduced still-picture sequence header of 64 × 64, BT.709
 * limited.
 */
export const AV1_KEY = Uint8Array.from([
  0x12, 0x00, 0x0a, 0x06, 0x18, 0x15, 0x7f, 0xfc, 0x00, 0x08, 0x32, 0x02, 0xaa, 0xbb,
])

/** A track of `count` small invented frames with key frames at `keys`. */
export function inventTrack(
  family: 'h264' | 'vp9',
  count: number,
  keys: readonly number[] = [0],
): EncodedTrack {
  const frames = Array.from({ length: count }, (_, index) => {
    const key = keys.includes(index)
    const head =
      family === 'vp9'
        ? key
          ? VP9_KEY
          : VP9_DELTA
        : Uint8Array.from([0, 0, 0, 2, key ? 0x65 : 0x41, index & 255])
    return {
      data: Uint8Array.from([
        ...head,
        ...Array.from({ length: 5 + (index % 7) }, (_, at) => (index * 31 + at) & 255),
      ]),
      key,
    }
  })
  return {
    family,
    width: 320,
    height: 180,
    frameRate: { num: 24000, den: 1001 },
    frames,
    description: family === 'h264' ? AVC_RECORD : null,
    colour: { primaries: 1, transfer: 1, matrix: 1, fullRange: false },
  }
}

/** Numbers from a seed, the same each run. */
export function seededNumbers(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return state / 2 ** 32
  }
}

/** The facts of an invented clip: 14 s of 1920 × 1080 at 24 frames a second, with sound. */
export const FACTS: MediaFacts = {
  kind: 'clip',
  container: 'mov',
  bytes: 1_700_000,
  durationMs: 14_000,
  audio: true,
  audioBytes: 224_000,
  indexFirst: true,
  personal: [],
  video: {
    family: 'h264',
    codecName: 'H.264',
    codec: 'avc1.640028',
    displayWidth: 1920,
    displayHeight: 1080,
    rotationDeg: 0,
    averageFps: 24,
    frameRate: { num: 24, den: 1 },
    frameCount: 336,
    repeats: 1,
    timescale: 24,
    durationTicks: 336,
    bytesPerSecond: 120_000,
    peakBytesPerSecond: 160_000,
    keyEveryMs: 14_000,
    pixelAspect: { horizontal: 1, vertical: 1 },
    alpha: false,
    colour: { primaries: 1, transfer: 1, matrix: 1, fullRange: false },
    stream: { profile: 'High', level: '4.0', bitDepth: 8, chroma: '4:2:0' },
  },
}

/** The facts of an invented image. */
export const SAMPLE_IMAGE_FACTS: ImageFacts = {
  kind: 'image',
  format: 'png',
  bytes: 90_000,
  width: 2400,
  height: 1350,
  displayWidth: 2400,
  displayHeight: 1350,
  orientation: 1,
  bitDepth: 8,
  alpha: false,
  profile: null,
  progressive: false,
  animated: false,
  personal: [],
}

/** The id of the clip that invented backdrops are made from. */
export const SAMPLE_SOURCE_ID = '7b1f8c1e-0000-4000-8000-000000000001'

/** That clip on a shelf, not measured yet. */
export const SAMPLE_CLIP: ClipSource = {
  id: SAMPLE_SOURCE_ID,
  projectId: '7b1f8c1e-0000-4000-8000-000000000002',
  name: 'dusk.mov',
  sha256: 'a'.repeat(64),
  facts: FACTS,
  createdAt: '2026-11-23T08:00:00.000Z',
  usedBy: [],
  analysis: null,
  findings: [],
  strip: null,
}

/** What is known of sources where this is the clip of invented backdrops. */
export const knownAs = (source: KnownSource, sourceId = SAMPLE_SOURCE_ID): Sources =>
  new Map([[sourceId, source]])

/** The same document, as one of footage, which most tests are about. Throws where it is none. */
export function asFootage(document: BackdropDocument): DocumentOf<'footage'> {
  if (!isOf(document, 'footage')) throw new TypeError('this is no footage')
  return document
}

/** A new backdrop of that clip. */
export const inventBackdrop = (): DocumentOf<'footage'> =>
  createBackdrop({
    base: createFootage({ sourceId: SAMPLE_SOURCE_ID, facts: FACTS }),
    picture: { width: FACTS.video.displayWidth, height: FACTS.video.displayHeight },
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: 'Vesperline',
  })

/** The facts of an invented finished clip and still. */
export const CLIP_FACTS: ClipFacts = {
  kind: 'clip',
  type: 'video/mp4',
  codec: 'avc1.64001f',
  width: 1280,
  height: 720,
  frames: 240,
  repeats: 18,
  seam: { ratio: 1, deltaE: 0.2, worstDeltaE: 9, straightRatio: 1 },
  deliveredSeam: { ratio: 1.1, deltaE: 0.2, worstDeltaE: 9 },
  encodeSeconds: 1,
  passes: 1,
  encoder: null,
  quality: { ssim: 0.97, worstSsim: 0.95, worstFrame: 12, psnr: 40, firstPsnr: 40.2, compared: 32 },
}
/** What a probe measured: little, which is stored as quickly. */
export const PROBE_FACTS: ProbeFacts = {
  kind: 'probe',
  steering: 'quantizer',
  bounds: { finest: 10, coarsest: 48 },
  points: [{ setting: 20, keyBytes: 900, frameBytes: 100, ssim: 0.98, psnr: 42 }],
  anchorEvery: null,
  parts: [],
  frames: 50,
  seconds: 1,
}
export const POSTER_FACTS: PosterFacts = {
  kind: 'poster',
  type: 'image/webp',
  width: 1280,
  height: 720,
  ssim: 0.996,
  encoder: null,
  swapDeltaE: 0.4,
  swapWorst: 1.9,
  placeholder: { dataUrl: 'data:image/webp;base64,UklGRg==', colour: '#3a2f4b' },
}

/** An invented finished file of a recipe, of so many bytes. */
export function inventRendition(
  recipe: Recipe,
  bytes: number,
  facts: Partial<ClipFacts> = {},
): Rendition {
  const made =
    recipe.kind === 'poster'
      ? { ...POSTER_FACTS, type: mimeOf(recipe.format) }
      : { ...CLIP_FACTS, ...facts }
  return {
    key: recipeKey(recipe),
    sha256: 'b'.repeat(64),
    bytes,
    facts: { ...made, width: recipe.width, height: recipe.height },
  }
}

/** `reduce`, for actions that do not change the base for one of another kind. */
export const reduced = reduce as <D extends BackdropDocument>(
  document: D,
  action: BackdropAction,
) => D
