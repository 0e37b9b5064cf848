import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { listedClips } from '../../backdrop/listedClips'
import { autoplays } from '../../behaviour/autoplays'
import { typeOf } from '../../kinds/DeliveredMedia'
import type { VideoLayer } from '../../kinds/Layer'
import { attributes } from '../html'
import { FILLS, type LayerEmitter } from './LayerEmitter'

/** Stands for the shape of a picture of which nothing is known. */
const USUAL_SIZE = { width: 16, height: 9 }

/** A clip over its poster. */
export const video: LayerEmitter<VideoLayer> = {
  attributes: ({ fades }, { behaviour: { playbackRate } }) => ({
    'data-tln-playback-rate': playbackRate === 1 ? null : playbackRate,
    'data-tln-at-end': fades ? 'fade' : null,
  }),
  markup,
  ownRules: ({ fades }, { own }) =>
    fades
      ? [
          `.tln-region${own} .tln-video { transition: opacity 0.8s; }`,
          `.tln-region${own} .tln-ended .tln-video { opacity: 0; }`,
        ]
      : [],
  rules: `.tln-region .tln-video {${FILLS}}
.tln-region .tln-poster-only .tln-video { visibility: hidden; }
`,
  printRules: '  .tln-region .tln-video { display: none; }\n',
  files: ({ clips }) => clips.map(({ url }) => url),
  scripts: () => ['video'],
}

/**
 * The clip. With `preload="none"` and no autoplay no byte of it is requested until the script
 * starts it (docs/method.md).
 */
function markup({ clips, size, loops }: VideoLayer, document: BackdropDocument): string[] {
  const { width, height } = size ?? USUAL_SIZE
  const element = attributes({
    class: 'tln-video',
    muted: true,
    loop: loops,
    autoplay: autoplays(document),
    playsinline: true,
    preload: 'none',
    width,
    height,
    tabindex: -1,
  })
  const sources = listedClips(document, clips).map(
    ({ clip, min }) =>
      `  <source${attributes({ src: clip.url, type: typeOf(clip), media: conditionOf(document, min) })}>`,
  )
  return [`<video${element}>`, ...sources, '</video>']
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
