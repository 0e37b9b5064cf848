import type { ClipFacts, PosterFacts } from '../api/wire'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { firstVisits } from '../backdrop/firstVisit'
import { clipBudget, loopOf, posterMaxBytes } from '../backdrop/recipe'
import { toNumber } from '../loop/Fraction'
import { frameCount, loopSeconds, overlapFrames } from '../loop/framePlan'
import { judgeSeam } from '../loop/judgeSeam'
import { emitBackdropStyle, emitCopyStyle } from './emitStyle'
import { emitRegion } from './emitMarkup'
import { typeOf, type DeliveredClip, type DeliveredPoster, type HandoffMedia } from './HandoffMedia'
import { escapeHtml } from './html'
import { manifestSchema, type Manifest } from './manifest'

/** A text file of the delivered folder. */
export interface EmittedFile {
  readonly path: string
  readonly text: string
}

/** What was measured while the files were made: one entry for each of the media, in their order. */
export interface HandoffFigures {
  readonly clips: readonly Pick<
    ClipFacts,
    'repeats' | 'seam' | 'deliveredSeamRatio' | 'quality' | 'passes' | 'encodeSeconds'
  >[]
  readonly posters: readonly Pick<PosterFacts, 'ssim' | 'swapDeltaE' | 'swapWorst'>[]
}

/** What a handoff is written from. */
export interface HandoffInput {
  readonly name: string
  readonly document: BackdropDocument
  readonly media: HandoffMedia
  readonly figures: HandoffFigures
  /** The built script as delivered. */
  readonly script: string
}

/** Path of a clip in the folder. */
export function clipPath(
  clip: Pick<DeliveredClip, 'screenClass' | 'family' | 'container' | 'width'>,
): string {
  return `media/clip-${clip.screenClass}-${clip.width}-${clip.family}.${clip.container}`
}

/** Path of a poster in the folder. */
export function posterPath(
  poster: Pick<DeliveredPoster, 'screenClass' | 'format' | 'width'>,
): string {
  return `media/poster-${poster.screenClass}-${poster.width}.${poster.format === 'jpeg' ? 'jpg' : poster.format}`
}

/**
 * The text files of a delivered folder; the media lie beside them at `clipPath` and `posterPath`.
 * Pure: equal input, equal bytes.
 */
export function emitHandoff({
  name,
  document,
  media,
  figures,
  script,
}: HandoffInput): EmittedFile[] {
  const files: EmittedFile[] = [
    { path: 'index.html', text: emitPage(name, document, media) },
    { path: 'fragment.html', text: emitFragment(document, media) },
    { path: 'backdrop.css', text: emitBackdropStyle(document, media.placeholder) },
    { path: 'backdrop.js', text: script },
    { path: 'page.css', text: emitCopyStyle(document) },
    { path: 'README.txt', text: emitReadme({ name, document, media, figures }) },
  ]
  const paths = [
    ...files.map((file) => file.path),
    'manifest.json',
    ...media.clips.map((clip) => clip.url),
    ...media.posters.map((poster) => poster.url),
  ]
  return [
    ...files,
    {
      path: 'manifest.json',
      text: `${JSON.stringify(describe({ name, document, media, figures }, paths), null, 2)}\n`,
    },
  ]
}

/** The demonstration page: the backdrop with its copy, and a little page below to scroll to. */
function emitPage(name: string, document: BackdropDocument, media: HandoffMedia): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escapeHtml(name)}</title>
<link rel="icon" href="data:,">
<link rel="stylesheet" href="page.css">
<link rel="stylesheet" href="backdrop.css">
<script src="backdrop.js" defer></script>
</head>
<body>
${emitRegion(document, media, true)}
<main class="tln-after">
  <p>The page continues here. When the background is out of view it stops playing; scroll back and it continues.</p>
</main>
</body>
</html>
`
}

function emitFragment(document: BackdropDocument, media: HandoffMedia): string {
  return `<!-- In the head of the page: -->
<link rel="stylesheet" href="backdrop.css">
<script src="backdrop.js" defer></script>

<!-- The background with its copy; replace the copy with your own: -->
${emitRegion(document, media)}
`
}

function emitReadme({ name, document, media, figures }: Omit<HandoffInput, 'script'>): string {
  const seam = figures.clips[0]?.seam ?? null
  const rows = [...media.clips, ...media.posters].map(
    (file) => `  ${file.url.padEnd(34)} ${file.width} x ${file.height}, ${file.bytes} bytes`,
  )
  return `${name}
${'='.repeat(name.length)}

Open index.html from any web server to see the background with its copy.

To use it on a site:
1. Copy backdrop.css, backdrop.js and the folder media to the site, side by side.
2. Paste fragment.html into the page and put your own copy in it.
   page.css is for the demonstration page only.
3. Adjust it with the custom properties at the top of backdrop.css:
   --tln-height, --tln-focal-point, --tln-scrim, --tln-background-color, --tln-pause-size.

What visitors get
  The poster is painted first, with or without script; the clip starts once the poster has loaded.
  Phones: ${document.behaviour.phone === 'play' ? 'the clip made for them' : 'the poster'}.
  Reduced motion: ${document.behaviour.reducedMotion === 'poster' ? 'the poster' : 'the clip'}. Data saver: ${document.behaviour.dataSaver === 'poster' ? 'the poster' : 'the clip'}.
  The clip has no sound. It stops while it is out of view or its tab is hidden.${document.behaviour.pauseControl ? ' Visitors can pause it.' : ''}${
    seam ? `\n  Seam, from the last frame to the first: ${judgeSeam(seam).words}.` : ''
  }

Files
${rows.join('\n')}

Serve .mp4 as video/mp4, .webm as video/webm, .avif as image/avif, with range requests allowed.
No file loads anything from another address, and there is no inline script or style, so a strict
content security policy is enough: default-src 'self'; img-src 'self' data:
Without data: everything works except the blurred placeholder shown before the poster; its mean
colour is shown instead.${
    media.clips.some((clip) => clip.container === 'mp4') && document.timing.repeat === 'loop'
      ? `

The index of each clip repeats the loop (its data are stored once), because browsers pause for a
moment each time they loop a file. A player may therefore show a length of several minutes;
one loop lasts ${loopSeconds(loopOf(document)).toFixed(2)} s.`
      : ''
  }
`
}

function clipFigures({
  repeats,
  deliveredSeamRatio,
  quality,
  passes,
  encodeSeconds,
}: HandoffFigures['clips'][number]) {
  return {
    repeats,
    seamRatio: deliveredSeamRatio,
    ssim: quality?.ssim ?? null,
    worstSsim: quality?.worstSsim ?? null,
    psnr: quality?.psnr ?? null,
    seconds: encodeSeconds,
    passes,
  }
}

/**
 * What a first visit takes on each class of screens: the heaviest poster and clip that any browser
 * is offered there, script and style.
 */
function weightsOf(document: BackdropDocument, media: HandoffMedia): Manifest['firstVisit'] {
  return firstVisits(document, media).map(
    ({ screenClass, poster, clip, page, total, budgetBytes: budget }) => ({
      screen: screenClass,
      posterBytes: poster,
      clipBytes: clip,
      pageBytes: page,
      bytes: total,
      budgetBytes: budget,
    }),
  )
}

function describe(
  { name, document, media, figures }: Omit<HandoffInput, 'script'>,
  files: string[],
): Manifest {
  const { timing, behaviour, weight, poster } = document
  const loop = loopOf(document)
  const seconds = (ticks: number): number => Math.round((ticks / timing.cut.timescale) * 1e6) / 1e6
  const worst = (values: readonly number[]): number =>
    values.reduce((max, value) => Math.max(max, value), 0)
  const delivered = figures.clips.flatMap((clip) => clip.deliveredSeamRatio ?? [])
  const seam = figures.clips[0]?.seam ?? null
  return manifestSchema.parse({
    format: 'telon-handoff',
    version: 2,
    name,
    loop: {
      repeat: timing.repeat,
      seconds: loopSeconds(loop),
      frames: frameCount(loop),
      frameRate: timing.frameRate,
      speed: timing.speed,
      cut: { startSeconds: seconds(timing.cut.start), endSeconds: seconds(timing.cut.end) },
    },
    seam: seam && {
      kind: loop.seam.kind,
      overlapSeconds: overlapFrames(loop) / toNumber(loop.frameRate),
      ratio: seam.ratio,
      deltaE: seam.deltaE,
      worstDeltaE: seam.worstDeltaE,
      visibility: judgeSeam(seam).visibility,
      deliveredRatio: delivered.length > 0 ? worst(delivered) : null,
    },
    poster: {
      picture: poster.picture.kind === 'source' ? 'image' : poster.picture.kind,
      swapDeltaE: worst(figures.posters.map((poster) => poster.swapDeltaE)),
      swapWorst: worst(figures.posters.map((poster) => poster.swapWorst)),
    },
    clips: media.clips.map((clip, index) => ({
      path: clip.url,
      screen: clip.screenClass,
      type: typeOf(clip),
      width: clip.width,
      height: clip.height,
      bytes: clip.bytes,
      budgetBytes: weight.goal === 'budget' ? clipBudget(document, clip.screenClass) : null,
      ...clipFigures(figures.clips[index]!),
    })),
    posters: media.posters.map((poster, index) => ({
      path: poster.url,
      screen: poster.screenClass,
      type: `image/${poster.format}`,
      width: poster.width,
      height: poster.height,
      bytes: poster.bytes,
      maxBytes: posterMaxBytes(document, poster.screenClass),
      ssim: figures.posters[index]!.ssim,
      swapDeltaE: figures.posters[index]!.swapDeltaE,
    })),
    firstVisit: weightsOf(document, media),
    behaviour: {
      phone: behaviour.phone,
      reducedMotion: behaviour.reducedMotion,
      dataSaver: behaviour.dataSaver,
      pauseControl: behaviour.pauseControl,
    },
    files,
  })
}
