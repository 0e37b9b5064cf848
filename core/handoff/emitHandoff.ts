import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { frameCount, loopSeconds } from '../loop/framePlan'
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

/** What a handoff is written from. */
export interface HandoffInput {
  readonly name: string
  readonly document: BackdropDocument
  readonly media: HandoffMedia
  /** The built runtime, as it is delivered. */
  readonly script: string
}

/** Where a clip lies in the folder. */
export function clipPath(clip: Pick<DeliveredClip, 'screenClass' | 'family' | 'width'>): string {
  return `media/loop-${clip.screenClass}-${clip.width}.${clip.family === 'vp9' ? 'webm' : 'mp4'}`
}

/** Where a still lies in the folder. */
export function posterPath(poster: Pick<DeliveredPoster, 'format' | 'width'>): string {
  return `media/poster-${poster.width}.${poster.format === 'webp' ? 'webp' : 'jpg'}`
}

/** The text files of a delivered folder; the media lie beside them at `clipPath` and `posterPath`. Pure: equal input, equal bytes. */
export function emitHandoff({ name, document, media, script }: HandoffInput): EmittedFile[] {
  const files: EmittedFile[] = [
    { path: 'index.html', text: emitPage(name, document, media) },
    { path: 'fragment.html', text: emitFragment(document, media) },
    { path: 'backdrop.css', text: emitBackdropStyle(document) },
    { path: 'backdrop.js', text: script },
    { path: 'page.css', text: emitCopyStyle(document) },
    { path: 'README.txt', text: emitReadme(name, document, media) },
  ]
  const paths = [...files.map((file) => file.path), 'manifest.json', ...media.clips.map((clip) => clip.url), ...media.posters.map((poster) => poster.url)]
  return [...files, { path: 'manifest.json', text: `${JSON.stringify(describe(name, document, media, paths), null, 2)}\n` }]
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
  <p>The page goes on here. Scroll down and the background stops playing; scroll back and it goes on.</p>
</main>
</body>
</html>
`
}

function emitFragment(document: BackdropDocument, media: HandoffMedia): string {
  return `<!-- In the head of the page: -->
<link rel="stylesheet" href="backdrop.css">
<script src="backdrop.js" defer></script>

<!-- Where the background hangs; the copy inside is yours to change: -->
${emitRegion(document, media)}
`
}

function emitReadme(name: string, document: BackdropDocument, media: HandoffMedia): string {
  const rows = [...media.clips, ...media.posters].map((file) => `  ${file.url.padEnd(34)} ${file.width} x ${file.height}, ${file.bytes} bytes`)
  return `${name}
${'='.repeat(name.length)}

Open index.html from any web server to see the background with its copy.

To use it on a site:
1. Copy backdrop.css, backdrop.js and the folder media to the site, side by side.
2. Paste fragment.html into the page and put your own copy in it.
   page.css only dresses the demonstration page; a site does not need it.
3. Change what you like through the custom properties at the top of backdrop.css:
   --tln-height, --tln-focal, --tln-scrim, --tln-ground, --tln-pause-size.

What visitors get
  The still paints first, with or without script; the clip starts once the still has arrived.
  Phones: ${document.behaviour.phone === 'play' ? 'the clip made for them' : 'the still'}.
  Reduced motion: ${document.behaviour.reducedMotion === 'still' ? 'the still' : 'the clip'}. Data saver: ${document.behaviour.dataSaver === 'still' ? 'the still' : 'the clip'}.
  The clip is silent. It stops outside the window and in a hidden tab.${document.behaviour.pauseControl ? ' Visitors can pause it.' : ''}

Files
${rows.join('\n')}

Serve .mp4 as video/mp4, .webm as video/webm, with range requests allowed.
No file asks for anything from another address; no inline script or style is used,
so a strict content security policy (default-src 'self') is enough.
`
}

function describe(name: string, document: BackdropDocument, media: HandoffMedia, files: string[]): Manifest {
  const { timing, behaviour, weight } = document
  const seconds = (ticks: number): number => Math.round((ticks / timing.cut.timescale) * 1e6) / 1e6
  return manifestSchema.parse({
    format: 'telon-handoff',
    version: 1,
    name,
    loop: {
      repeat: timing.repeat,
      seconds: loopSeconds(timing),
      frames: frameCount(timing),
      frameRate: timing.frameRate,
      speed: timing.speed,
      cut: { startSeconds: seconds(timing.cut.start), endSeconds: seconds(timing.cut.end) },
    },
    clips: media.clips.map((clip) => ({
      path: clip.url, screen: clip.screenClass, type: typeOf(clip), width: clip.width, height: clip.height, bytes: clip.bytes,
      budgetBytes: weight.budgets[clip.screenClass],
    })),
    posters: media.posters.map((poster) => ({
      path: poster.url, type: poster.format === 'webp' ? 'image/webp' : 'image/jpeg', width: poster.width, height: poster.height, bytes: poster.bytes,
    })),
    behaviour: {
      phone: behaviour.phone, reducedMotion: behaviour.reducedMotion, dataSaver: behaviour.dataSaver, pauseControl: behaviour.pauseControl,
    },
    files,
  })
}
