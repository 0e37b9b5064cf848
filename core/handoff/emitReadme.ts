import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { scrimRuns } from '../scrim/scrimAt'
import { judgeSeam } from '../loop/judgeSeam'
import type { Slideshow } from '../kinds/slideshow/Slideshow'
import { spritesOf } from '../particles/prepare'
import { isMoving, liveParticlesOf, rendersClips } from '../backdrop/delivered'
import { type KindName, kindOf, moves } from '../kinds'
import type { HandoffInput } from './HandoffInput'
import { layersOf } from './layers'
import { styleNames } from './styleNames'

/** `README.txt` of a folder: how to use it, and all that a site may rely on. */
export function emitReadme(input: HandoffInput): string {
  const { name, document } = input
  return `${name}
${'='.repeat(name.length)}

${[
  start(input),
  addresses(input),
  ...(isMoving(document) ? [forms(input.id), places(input.id)] : [stillPlaces(input.id)]),
  visitorsOf(input),
  contract(input),
  serving(input),
  files(input),
].join('\n\n')}
`
}

function start({ id, document, media }: HandoffInput): string {
  const { backdrop, copy } = styleNames(id)
  const parts = [
    backdrop,
    copy,
    ...(isMoving(document) ? ['backdrop.js'] : []),
    ...(media.clips.length + media.posters.length > 0 ? ['the folder media'] : []),
  ]
  return `Open index.html from any web server to see the background with its copy.

How to use it
  1. Copy ${parts.slice(0, -1).join(', ')} and ${parts[parts.length - 1]} to the site, side by side.
  2. Paste fragment.html where the background goes, and put your own copy in it. Or paste
     backdrop-only.html first inside a section that you already have, and give that section the
     class tln-host (it sets position: relative and isolation: isolate).
  3. Adjust it with the custom properties below.
  page.css belongs to the demonstration page only.`
}

function addresses({ document: { handoff } }: HandoffInput): string {
  const now = handoff.baseUrl
    ? `The fragments expect the folder at ${handoff.baseUrl}`
    : `The addresses in the fragments are relative: they work on a page that lies beside the media
  folder, and fail on every other one (a page at /about/ looks for /about/media/).
  Set "Address of the folder" under Handoff, or deliver with --base-url /backdrops/`
  return `Addresses
  ${now}`
}

function forms(id: string): string {
  return `The script comes in three forms; one of them is enough
  backdrop.js           <script src="backdrop.js" defer></script>, also async or at the end.
                        Starts every region, also those that appear later, and releases those that
                        disappear. window.tln has mount(region) and unmount(region).
  backdrop.mjs          The same for import: import { mount } from 'tln-backdrop-${id}'.
                        mount(region) returns how to release it. On a server it does nothing.
  backdrop-element.mjs  A custom element: <tln-region class="tln-region" data-tln="${id}"> around the
                        same content, in place of <section class="tln-region">.`
}

function places(id: string): string {
  const { backdrop } = styleNames(id)
  return `Where things go
  Plain page            The two or three lines of the head into <head>, the rest where it belongs.
  Components            Put the markup into a component's template and import backdrop.mjs and
                        ${backdrop}. Nothing else is needed: regions that appear are started.
                        Where a component must do it itself: release = mount(element) once it is
                        in the page, release() when it goes.
  Content system        Upload the files with their folder names kept (systems that rename uploads
                        or make copies in other sizes break the addresses); paste the fragment as
                        raw HTML, style and script into the head of the theme.
  Static generator      Put the folder into the one that is copied as it is, and include
                        fragment.html as a partial.
  Several on one page   Each has its own id, and all files can lie in one folder: load each
                        backdrop-ID.css, and backdrop.js once.`
}

/** Where things go of a backdrop without a script. */
function stillPlaces(id: string): string {
  const { backdrop } = styleNames(id)
  return `Where things go
  Nothing of it moves, so there is no script.
  Plain page            The lines of the head into <head>, the rest where it belongs.
  Components            Put the markup into a component's template and import ${backdrop}.
  Content system        Upload the files with their folder names kept; paste the fragment as raw
                        HTML, the style into the head of the theme.
  Static generator      Put the folder into the one that is copied as it is, and include
                        fragment.html as a partial.
  Several on one page   Each has its own id, and all files can lie in one folder: load each
                        backdrop-ID.css.`
}

function visitorsOf(input: HandoffInput): string {
  const { document } = input
  const { base } = document
  const own = rendersClips(document)
    ? visitors(input)
    : base.kind === 'slideshow'
      ? slideVisitors(input, base)
      : stillVisitors(input)
  return liveParticlesOf(document) ? `${own}\n${particleVisitors(document)}` : own
}

/** What visitors get of particles, over any base. */
const particleVisitors = ({ behaviour }: HandoffInput['document']): string =>
  `  Particles: the script draws them onto a canvas and fades them in. It stops them out of view and in
  hidden tabs. A machine that is too slow gets fewer of them in steps, their first picture at last;
  the region tells by the event tln:fewer how many are left. ${
    behaviour.reducedMotion === 'poster'
      ? 'Under reduced motion their\n  first picture stands still. '
      : ''
  }Without script the base is shown alone.`

/** How slides follow one another, in words. */
const SLIDE_ORDERS: Readonly<Record<Slideshow['order'], string>> = {
  given: 'They follow one another in their order, over and over.',
  shuffled:
    'With the script they come in another order each time, none twice in a row; without it in the\n  order of the markup.',
  visit:
    'The next one on each visit (localStorage, key tln-slide-ID); without script the first one stays.',
  day: 'One a day, the same for everyone; without script the first one stays.',
}

/** What visitors get of slides. */
function slideVisitors({ document }: HandoffInput, base: Slideshow): string {
  const { behaviour } = document
  return `What visitors get
  The first slide is painted first, with or without script. The next one is fetched while the one
  before it is shown, each in AVIF, WebP or JPEG, whichever the browser takes first.
  ${SLIDE_ORDERS[base.order]}
  A slide that is late or missing is left out.
  Phones: ${behaviour.phone === 'play' ? 'as on other screens' : 'the first slide alone'}. Reduced motion: ${
    behaviour.reducedMotion === 'play' ? 'slides change at once' : 'the first slide alone'
  }. Data saver: ${behaviour.dataSaver === 'play' ? 'all slides' : 'the first slide alone'}.
  The script stops it out of view and in hidden tabs; without script visitors cannot pause it.${
    behaviour.pauseControl
      ? `
  Visitors can pause it; the choice is kept for the visit (sessionStorage, key tln-paused).`
      : ''
  }`
}

/** What visitors get of a base that is no clip. */
function stillVisitors({ document }: HandoffInput): string {
  const { base, behaviour, fit } = document
  const kind = kindOf(base)
  const picture = kind.pictures(base)
    ? `\n  The image in AVIF, WebP or JPEG, whichever the browser takes first, for its window and density.${
        fit.place === 'below'
          ? '\n  The region is further down the page: the image is loaded when it comes near.'
          : '\n  It is made for the first screen. Further down a page, deliver it so: Fit, or --below-fold.'
      }`
    : '\n  Colours that the style draws: no file is loaded.'
  if (!isMoving(document)) return `What visitors get${picture}\n  Nothing moves.`
  const shows = (choice: 'play' | 'poster'): string =>
    choice === 'poster' ? 'stands still' : 'moves'
  const style = moves(base)
    ? `
  The style moves it slowly, there and back; the script stops it out of view and in hidden tabs.
  Without script it moves all the same, but visitors cannot pause it.`
    : ''
  return `What visitors get${picture}${style}
  Phones: it ${shows(behaviour.phone)}. Reduced motion: it ${shows(behaviour.reducedMotion)}.${
    behaviour.pauseControl
      ? `
  Visitors can pause it; the choice is kept for the visit (sessionStorage, key tln-paused).`
      : ''
  }`
}

function visitors({ document, figures }: HandoffInput): string {
  const seam = figures.clips[0]?.seam ?? null
  const { behaviour, fit } = document
  const shows = (choice: 'play' | 'poster'): string =>
    choice === 'poster' ? 'the poster' : 'the clip'
  return `What visitors get
  The poster is painted first, with or without script; the clip starts once the poster has loaded,
  or 6 seconds after it was due.${
    fit.place === 'below'
      ? '\n  The region is further down the page: poster and clip are loaded when it comes near.'
      : '\n  It is made for the first screen. Further down a page, deliver it so: Fit, or --below-fold.'
  }
  Phones: ${behaviour.phone === 'play' ? 'the clip made for them' : 'the poster'}.
  Reduced motion: ${shows(behaviour.reducedMotion)}. Data saver: ${shows(behaviour.dataSaver)}.
  The clip has no sound. It stops while it is out of view or its tab is hidden.${
    behaviour.pauseControl
      ? `
  Visitors can pause it; the choice is kept for the visit (sessionStorage, key tln-paused).`
      : ''
  }${seam ? `\n  Seam, from the last frame to the first: ${judgeSeam(seam).words}.` : ''}`
}

/** What a site may rely on of each kind besides. */
const OWN_NAMES: Readonly<Record<KindName, { property: string; classes: string }>> = {
  footage: { property: '', classes: '' },
  image: {
    property: '',
    classes: `
    tln-image               the box of the image
    tln-moving, tln-held    what the style moves; held while it must not (the script sets it)`,
  },
  slideshow: {
    property: '',
    classes: `
    tln-slides, tln-slide, tln-view     all slides, one of them, and what is seen of it
    tln-driven, tln-laid, tln-on, tln-leave, tln-held, data-tln-enter   states that the script sets
    tln-controls, tln-go, tln-marker    what visitors change slides with
    tln-texts, tln-text, tln-told       copy of slides, in fragment.html; driven by the script`,
  },
  paint: {
    property: `
    --tln-paint             the gradients, a list of CSS images
    --tln-grain             the texture that hides their steps`,
    classes: `
    tln-paint, tln-grain    the gradients, and the texture over them
    tln-moving, tln-held    what the style moves; held while it must not (the script sets it)`,
  },
}

/** The scrim's further elements, where layers of it are blended or repeated. */
function blendedNames({ scrim, ownScrim }: BackdropDocument): string {
  const scrims = [scrim, ownScrim.phone ?? scrim]
  const count = Math.max(...scrims.map((each) => scrimRuns(each).length))
  const isTextured = scrims.some(({ layers }) => layers.some(({ shape }) => shape === 'texture'))
  return `${furtherNames(count)}${
    isTextured
      ? '\n    --tln-device-pixel      the size in which its texture is repeated: that of a device pixel'
      : ''
  }`
}

function furtherNames(count: number): string {
  return count < 2
    ? ''
    : `\n    --tln-scrim-2${count > 2 ? ` to --tln-scrim-${count}` : ''}           its next layers: blended with what is behind them, or repeated`
}

function contract({ id, document }: HandoffInput): string {
  // What is rendered into a clip has the names of a clip.
  const own = OWN_NAMES[rendersClips(document) ? 'footage' : document.base.kind]
  return `What a site may rely on within version 1
  Custom properties, set on .tln-region[data-tln="${id}"]:
    --tln-height            minimum height of the region
    --tln-focal-point       the point of the picture that stays in view
    --tln-scrim             the scrim, a CSS image${document.ownScrim.phone ? ' (phones have another, by a media query)' : ''}${blendedNames(document)}
    --tln-background-color  behind everything, and what stays where the backdrop is taken out
    --tln-average-color, --tln-placeholder   painted before the poster${own.property}
    --tln-pause-size, --tln-pause-inset      size of the control, and its distance to the edges
    --tln-copy-color, --tln-button-color, --tln-button-text-color   of the copy${
      document.copy.buttonStates
        ? '\n    --tln-button-hover-color, --tln-button-hover-text-color, --tln-button-focus-color   of its button'
        : ''
    }
  Attributes:
    data-tln                the id, on the region
    data-tln-reduced-motion, data-tln-data-saver   play or poster, on .tln-backdrop
    data-tln-playback-rate  how much faster than filmed, on .tln-backdrop
    data-tln-at-end         fade, on .tln-backdrop
    data-tln-pause-label, data-tln-play-label      words of the control, on .tln-pause
  Classes:
    tln-region, tln-behind, tln-page, tln-host     the region, alone, fixed behind the page; its host
    tln-backdrop, tln-poster, tln-video, tln-scrim, tln-pause   its parts${own.classes}${
      liveParticlesOf(document)
        ? '\n    tln-particles, tln-drawn            the canvas of particles, drawn for the first time'
        : ''
    }
    tln-copy, tln-heading, tln-body, tln-button    the copy
    tln-poster-only, tln-ended (on .tln-backdrop), tln-paused (on .tln-pause), tln-missing
    (on .tln-poster)        states that the script sets
  Events, on the region, bubbling:
    tln:play                the clip has started or goes on
    tln:pause               it has stopped: by the visitor, out of view, or at its end
    tln:poster              the poster is shown instead${
      document.base.kind === 'slideshow'
        ? '\n    tln:slide               another slide comes; detail is its number from 0'
        : ''
    }${
      liveParticlesOf(document)
        ? '\n    tln:fewer               a machine is too slow; detail is how many particles are left'
        : ''
    }
  All rules have two classes at least and first undo what the site's rules for elements do. To
  change more than the custom properties, write selectors with three.`
}

function serving({ document, media }: HandoffInput): string {
  const drawn = liveParticlesOf(document)
  const clip = layersOf(document, media)
    .map(({ layer }) => layer)
    .find((layer) => layer.type === 'video')
  const repeats =
    !document.handoff.plainIndex &&
    clip?.loops === true &&
    clip.clips.some(({ container }) => container === 'mp4')
  return `Serving
  .mp4 as video/mp4, .webm as video/webm, .avif as image/avif, .svg as image/svg+xml, .mjs as
  text/javascript, with range requests allowed. The names of the media hold a hash of their content, so
  Cache-Control: public, max-age=31536000, immutable is right for the folder media.
  No file loads anything from another address, and there is no inline script or style, so a strict
  content security policy is enough: default-src 'self'; img-src 'self' data:
  Without data: everything works except the blurred placeholder shown before the poster; its mean
  colour is shown instead.${
    drawn && spritesOf(drawn).length > 0
      ? '\n  The pictures that particles are drawn with also need data: they are missing without it.'
      : ''
  }

What optimisers must not do
${optimisers(media)}
  Inline the style or script where the content security policy forbids it.
  Remove attributes that begin with data-tln, or classes that no element has yet.${
    repeats
      ? `
  Copy the clips with a tool that rewrites files: see below.

The index of each clip repeats the loop (its data are stored once), because browsers pause for a
moment each time they loop a file. A player may therefore show a length of several minutes;
one loop lasts ${clip.seconds.toFixed(2)} s. A tool that writes the file anew takes every repeat for new data, and
the copy becomes many times as large. Copy the files as they are, or deliver with a plain index
(under Handoff, or --plain-index): browsers then pause briefly at the loop point.`
      : ''
  }`
}

/** What tools that make pages lighter must leave alone, where there is such a thing. */
function optimisers({ clips, posters }: HandoffInput['media']): string {
  const what = clips.length > 0 ? 'poster' : 'image'
  return [
    ...(posters.length > 0
      ? [
          '  Rewrite or recompress the media: sizes and quality are measured as they are.',
          `  Add loading="lazy" to the ${what} of a first screen, or remove its fetchpriority.`,
          `  Move <source> elements, remove their media or type${clips.length > 0 ? ', or add autoplay or preload to the clip' : ''}.`,
        ]
      : []),
  ].join('\n')
}

function files({ media }: HandoffInput): string {
  if (media.clips.length + media.posters.length === 0) return 'Licence of script and style: MIT.'
  const rows = [...media.clips, ...media.posters].map(
    (file) => `  ${file.url.padEnd(44)} ${file.width} x ${file.height}, ${file.bytes} bytes`,
  )
  return `Files
${[...new Set(rows)].join('\n')}
Licence of script and style: MIT. The media are yours.`
}
