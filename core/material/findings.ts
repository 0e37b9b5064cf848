import type { MediaFacts, SourceFacts, ImageFacts } from '../media/probe'
import type { ShareRect } from '../picture/pictureShape'
import { BUSY_FROM, type Analysis } from './Analysis'
import type { Place } from './MarkMeter'

/** Everything Telon finds out about a source that a designer would want to know. */
export type FindingCode =
  | 'narrow'
  | 'soft'
  | 'busy'
  | 'flashes'
  | 'hard-cut'
  | 'title-card'
  | 'black-start'
  | 'black-end'
  | 'held-start'
  | 'held-end'
  | 'fade-in'
  | 'fade-out'
  | 'mark'
  | 'bars'
  | 'sound'
  | 'heavy'
  | 'index-last'
  | 'personal'
  | 'pictures'
  | 'missing-frames'
  | 'interlaced'
  | 'transparent'
  | 'rotated'
  | 'wide-gamut'
  | 'heavy-image'

/** `fix` harms visitors, `look` needs a decision, `note` is information. */
export type FindingWeight = 'fix' | 'look' | 'note'

/** A finding: its figure, the moment it happens, and what takes it away. */
export interface Finding {
  readonly code: FindingCode
  readonly weight: FindingWeight
  /** In the unit implied by the code; `describeFinding` words it. */
  readonly figure: number
  readonly fromMs: number | null
  readonly toMs: number | null
  readonly place: Place | null
  /**
   * The lossless operation, or the change of the cut, that repairs it; null where only advice
   * helps.
   */
  readonly repair: 'trim' | 'no-sound' | 'index-first' | 'strip' | null
}

/** Bytes of an image from which a page that used it as it is would wait for it. */
const HEAVY_IMAGE_BYTES = 1_000_000
/** Colour profiles that screens show without being told. */
const USUAL_PROFILE = /srgb|^$/i

/** Minimum width for a loop: it must fill a laptop's window without being enlarged. */
const MIN_WIDTH = 1280
/** Many more bits per pixel than a background needs: about 0.05 is usual at good quality. */
const HEAVY_BITS_PER_PIXEL = 0.13
/**
 * Share of detail left after halving above which a file counts as larger than its detail.
 * Calibrated on the demonstration's clips: the harbour, enlarged from half its size, is above; all
 * others are below.
 */
const SOFT_SHARE = 0.78
/**
 * More flashes than this in a second harm people with photosensitive epilepsy. Source: WCAG 2.2,
 * success criterion 2.3.1.
 */
const MAX_FLASHES = 3

type Add = (
  code: FindingCode,
  weight: FindingWeight,
  figure: number,
  rest?: Partial<Pick<Finding, 'fromMs' | 'toMs' | 'place' | 'repair'>>,
) => void

/**
 * The findings of a source. `analysis` is null until its frames are measured: until then only
 * findings from the file's index are given.
 */
export function findingsOf(facts: SourceFacts, analysis: Analysis | null): Finding[] {
  const found: Finding[] = []
  const add: Add = (code, weight, figure, rest = {}) =>
    void found.push({
      code,
      weight,
      figure,
      fromMs: null,
      toMs: null,
      place: null,
      repair: null,
      ...rest,
    })
  if (facts.personal.length > 0)
    add('personal', facts.personal.includes('location') ? 'look' : 'note', facts.personal.length, {
      repair: facts.kind === 'clip' && isRepairable(facts) ? 'strip' : null,
    })
  const width = facts.kind === 'clip' ? facts.video.displayWidth : facts.displayWidth
  const vector = facts.kind === 'image' && facts.format === 'svg'
  if (width < MIN_WIDTH && !vector) add('narrow', 'look', width)
  if (facts.kind === 'image') addImageFindings(facts, add)
  else {
    addFileFindings(facts, analysis, add)
    if (analysis) {
      const { missing } = analysis
      if (missing)
        add('missing-frames', 'fix', missing.frames, { fromMs: missing.fromMs, toMs: missing.toMs })
      addEndFindings(analysis, add)
      addPictureFindings(analysis, width, add)
    }
  }
  return found
}

/** What a clip's index tells. */
function addFileFindings(facts: MediaFacts, analysis: Analysis | null, add: Add): void {
  const { video } = facts
  if (facts.audio)
    add('sound', 'note', facts.audioBytes, { repair: isRepairable(facts) ? 'no-sound' : null })
  if (facts.indexFirst === false) add('index-last', 'note', facts.bytes, { repair: 'index-first' })
  const bitsPerPixel =
    (video.bytesPerSecond * 8) /
    (video.displayWidth * video.displayHeight * Math.max(1, video.averageFps))
  if (facts.container === 'gif' || facts.container === 'webp')
    add('pictures', 'note', analysis?.asVideoBytes ?? 0)
  else if (bitsPerPixel > HEAVY_BITS_PER_PIXEL)
    add('heavy', 'look', (video.bytesPerSecond * 8) / 1e6)
  if (video.alpha) add('transparent', 'note', 0)
  if (video.stream?.interlaced) add('interlaced', 'note', video.displayHeight)
}

/** What is wrong with where a clip begins and ends: a loop shows it each time. */
function addEndFindings({ durationMs: end, ...analysis }: Analysis, add: Add): void {
  const trim = (fromMs: number, toMs: number) => ({ fromMs, toMs, repair: 'trim' as const })
  const { titleEndMs, black, still, fade } = analysis
  if (titleEndMs !== null) add('title-card', 'look', titleEndMs / 1000, trim(0, titleEndMs))
  if (black.startMs > 0) add('black-start', 'look', black.startMs / 1000, trim(0, black.startMs))
  else if (still.startMs > 0)
    add('held-start', 'look', still.startMs / 1000, trim(0, still.startMs))
  if (fade.startMs > black.startMs)
    add('fade-in', 'look', fade.startMs / 1000, trim(0, fade.startMs))
  if (black.endMs < end)
    add('black-end', 'look', (end - black.endMs) / 1000, trim(black.endMs, end))
  else if (still.endMs < end)
    add('held-end', 'look', (end - still.endMs) / 1000, trim(still.endMs, end))
  if (fade.endMs < black.endMs)
    add('fade-out', 'look', (end - fade.endMs) / 1000, trim(fade.endMs, end))
}

/** What its frames show. */
function addPictureFindings(analysis: Analysis, width: number, add: Add): void {
  for (const cut of analysis.cutsMs.slice(0, 20))
    add('hard-cut', 'look', cut / 1000, { fromMs: cut, toMs: cut, repair: 'trim' })
  for (const place of analysis.marks) add('mark', 'look', place.width * 100, { place })
  if (analysis.bars)
    add('bars', 'look', Math.round((1 - analysis.bars.width * analysis.bars.height) * 100), {
      place: analysis.bars,
    })
  if (analysis.flashes.most > MAX_FLASHES)
    add('flashes', 'fix', analysis.flashes.most, {
      fromMs: analysis.flashes.ms,
      toMs: Math.min(analysis.durationMs, analysis.flashes.ms + 1000),
    })
  if (analysis.motionMedian >= BUSY_FROM) add('busy', 'look', analysis.motionMedian)
  if (analysis.halfShare >= SOFT_SHARE && analysis.sharpness > 0)
    add('soft', 'look', Math.round(width / 2))
}

/** How far a crop may miss the edge of the bars and still count as removing them. */
const CROP_SLACK = 0.006

/**
 * Findings that remain after a crop: bars that it removes and marks outside of it are left out.
 * Null crops nothing.
 */
export function findingsLeftBy(findings: readonly Finding[], crop: ShareRect | null): Finding[] {
  if (!crop) return [...findings]
  const [right, bottom] = [crop.x + crop.width, crop.y + crop.height]
  return findings.filter(({ code, place }) => {
    if (!place || (code !== 'bars' && code !== 'mark')) return true
    if (code === 'mark')
      return (
        place.x < right &&
        place.x + place.width > crop.x &&
        place.y < bottom &&
        place.y + place.height > crop.y
      )
    return (
      crop.x < place.x - CROP_SLACK ||
      crop.y < place.y - CROP_SLACK ||
      right > place.x + place.width + CROP_SLACK ||
      bottom > place.y + place.height + CROP_SLACK
    )
  })
}

/**
 * The findings that concern a cut, in milliseconds: those without a time, and those whose time is
 * within it.
 */
export function findingsWithin(
  findings: readonly Finding[],
  startMs: number,
  endMs: number,
): Finding[] {
  // A hard cut has no length: it counts where the frame behind it is shown, and one before it.
  return findings.filter(
    ({ fromMs, toMs }) =>
      fromMs === null ||
      toMs === null ||
      (fromMs === toMs
        ? fromMs > startMs && fromMs < endMs
        : toMs > startMs + TOUCH_MS && fromMs < endMs - TOUCH_MS),
  )
}

/** Ends that miss each other by less than this are the same frame's. */
const TOUCH_MS = 5

/** Whether frames can be copied into another file: sequences of pictures cannot. */
export function isRepairable({ container }: Pick<MediaFacts, 'container'>): boolean {
  return container !== 'gif' && container !== 'webp' && container !== 'avif'
}

/**
 * The share of its width that a source fills with detail, if measured: a soft source loses almost
 * nothing at half its size.
 */
export function detailOf(findings: readonly Finding[]): number {
  return findings.some((finding) => finding.code === 'soft') ? 0.5 : 1
}

/**
 * The widest screen, in device pixels, that a source covers at full sharpness, and up to which it
 * is merely soft. Source: docs/method.md (material).
 */
export function widestScreen(
  facts: SourceFacts,
  analysis: Analysis | null,
): { good: number; soft: number } {
  const width = facts.kind === 'clip' ? facts.video.displayWidth : facts.displayWidth
  const real =
    analysis && analysis.halfShare >= SOFT_SHARE && analysis.sharpness > 0 ? width / 2 : width
  return { good: Math.round(real), soft: Math.round(real * 1.5) }
}

type AddFinding = (code: FindingCode, weight: FindingWeight, figure: number) => void

/** What is found in an image's own header. */
function addImageFindings(facts: ImageFacts, add: AddFinding): void {
  if (facts.format !== 'svg' && facts.bytes > HEAVY_IMAGE_BYTES)
    add('heavy-image', 'note', facts.bytes)
  if (facts.orientation > 1) add('rotated', 'note', facts.orientation)
  if (facts.profile !== null && !USUAL_PROFILE.test(facts.profile)) add('wide-gamut', 'note', 0)
  if (facts.alpha && facts.format !== 'svg') add('transparent', 'note', 0)
}
