import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { listedClips } from '../backdrop/listedClips'
import { minWindowWidth } from '../fit/screens'
import { typeOf, type HandoffMedia } from './HandoffMedia'
import { attributes, escapeHtml } from './html'

/*
 * The poster is an image of its own behind the clip: every browser paints it at once and without
 * script, in the best format and size, and a clip that has no frame yet is transparent. (A `poster`
 * attribute knows one file only, and would fetch a second one.) With `preload="none"` and no
 * autoplay no byte of video is requested until the script starts it (docs/method.md).
 */

/** The backdrop itself: poster, clip and scrim, hidden from assistive technology. */
export function emitBackdrop(document: BackdropDocument, media: HandoffMedia): string {
  const { behaviour, timing } = document
  const root = attributes({
    class: 'tln-backdrop',
    'aria-hidden': 'true',
    'data-tln-reduced-motion': behaviour.reducedMotion,
    'data-tln-data-saver': behaviour.dataSaver,
    'data-tln-playback-rate': behaviour.playbackRate === 1 ? null : behaviour.playbackRate,
    'data-tln-at-end': timing.repeat === 'once' && timing.atEnd === 'fade' ? 'fade' : null,
  })
  const size = media.posters[0] ?? media.clips[0] ?? { width: 16, height: 9 }
  const video = attributes({
    class: 'tln-video',
    muted: true,
    loop: timing.repeat === 'loop',
    autoplay: behaviour.autoplayInMarkup,
    playsinline: true,
    disablepictureinpicture: true,
    disableremoteplayback: true,
    preload: 'none',
    width: size.width,
    height: size.height,
    tabindex: -1,
  })
  return [
    `<div${root}>`,
    ...emitPoster(document, media).map(indent(1)),
    `  <video${video}>`,
    ...listedClips(document, media.clips).map(
      ({ clip, min }) =>
        `    <source${attributes({ src: clip.url, type: typeOf(clip), media: conditionOf(document, min) })}>`,
    ),
    `  </video>`,
    `  <div class="tln-scrim"></div>`,
    `</div>`,
  ].join('\n')
}

/**
 * The posters of all screens in their formats, wide screens first and the lightest file first,
 * because browsers take the first format they know; the narrowest JPEG comes last and works
 * everywhere.
 */
function emitPoster({ weight }: BackdropDocument, { posters }: HandoffMedia): string[] {
  const narrowest = posters[posters.length - 1]
  if (!narrowest) return []
  const classes = [...new Set(posters.map((poster) => poster.screenClass))]
  const fallback =
    posters.find(
      (poster) => poster.screenClass === narrowest.screenClass && poster.format === 'jpeg',
    ) ?? narrowest
  const image = attributes({
    class: 'tln-poster',
    src: fallback.url,
    width: fallback.width,
    height: fallback.height,
    alt: '',
    decoding: 'async',
    fetchpriority: 'high',
  })
  // A source after a file that every browser knows and that is no heavier would never be taken.
  const offered = classes.flatMap((screenClass) => {
    const own = posters
      .filter((poster) => poster.screenClass === screenClass)
      .sort((a, b) => a.bytes - b.bytes)
    const last = own.findIndex((poster) => poster.format === 'jpeg')
    return last < 0 ? own : own.slice(0, last + 1)
  })
  const sources = offered
    .filter((poster) => poster !== fallback)
    .map((poster) => {
      const min = minWindowWidth(poster.screenClass, classes, false, weight.breakpoints)
      return `  <source${attributes({ srcset: poster.url, type: `image/${poster.format}`, media: min > 0 ? `(min-width: ${min}px)` : null })}>`
    })
  return ['<picture>', ...sources, `  <img${image}>`, '</picture>']
}

/**
 * When a source may be fetched: its range of windows, and never under reduced motion if reduced
 * motion shows the poster.
 */
function conditionOf(document: BackdropDocument, min: number): string | null {
  const parts = [
    ...(min > 0 ? [`(min-width: ${min}px)`] : []),
    ...(document.behaviour.reducedMotion === 'poster'
      ? ['(prefers-reduced-motion: no-preference)']
      : []),
  ]
  return parts.length === 0 ? null : parts.join(' and ')
}

const indent =
  (levels: number) =>
  (line: string): string =>
    `${'  '.repeat(levels)}${line}`

/** The heading, text and button that stand in front. */
export function emitCopy({ copy }: BackdropDocument): string {
  return [
    '<div class="tln-copy">',
    `  <h1 class="tln-heading">${escapeHtml(copy.heading)}</h1>`,
    `  <p class="tln-body">${escapeHtml(copy.body)}</p>`,
    `  <a${attributes({ class: 'tln-button', href: copy.button.href || '#' })}>${escapeHtml(copy.button.label)}</a>`,
    '</div>',
  ].join('\n')
}

/** The pause control: hidden until the script has something to pause. */
function emitPause({ behaviour }: BackdropDocument): string {
  if (!behaviour.pauseControl) return ''
  return `<button${attributes({
    class: 'tln-pause',
    type: 'button',
    hidden: true,
    'aria-label': 'Pause the background',
    'data-tln-pause-label': 'Pause the background',
    'data-tln-play-label': 'Play the background',
  })}></button>`
}

/** A page's header with its links: for the demonstration page and the stage. */
function emitHeader({ copy }: BackdropDocument): string {
  const links = copy.links.map((link) => `    <a class="tln-link" href="#">${escapeHtml(link)}</a>`)
  return [
    '<header class="tln-header">',
    `  <span class="tln-brand">${escapeHtml(copy.brand)}</span>`,
    '  <nav class="tln-links" aria-label="Main">',
    ...links,
    '  </nav>',
    '</header>',
  ].join('\n')
}

/**
 * The whole region with its copy: what a site pastes. `header` adds the demonstration page's
 * header.
 */
export function emitRegion(
  document: BackdropDocument,
  media: HandoffMedia,
  header = false,
): string {
  const parts = [
    emitBackdrop(document, media),
    ...(header ? [emitHeader(document)] : []),
    emitCopy(document),
    emitPause(document),
  ]
  const inside = parts
    .filter((part) => part !== '')
    .flatMap((part) => part.split('\n').map(indent(1)))
  return [
    `<section class="tln-region${document.fit.scope === 'page' ? ' tln-page' : ''}">`,
    ...inside,
    '</section>',
  ].join('\n')
}
