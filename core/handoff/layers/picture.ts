import { mimeOf } from '../../media/image/mimeOf'
import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { minWindowWidth, type ScreenClass } from '../../fit/screens'
import type { DeliveredPoster } from '../../kinds/DeliveredMedia'
import type { PictureLayer } from '../../kinds/Layer'
import { attributes } from '../html'
import { PICTURE_FILLS, type LayerEmitter } from './LayerEmitter'

/*
 * The poster is an image of its own behind what moves: every browser paints it at once and without
 * script, in the best format and size, and a clip that has no frame yet is transparent. (A `poster`
 * attribute knows one file only, and would fetch a second one.)
 */

/** The rules of a picture, whatever it is of. */
export const POSTER_RULES = `.tln-region .tln-backdrop picture { all: revert; display: contents; }
.tln-region .tln-poster {${PICTURE_FILLS}}
.tln-region .tln-missing { visibility: hidden; }
`

/** The poster. */
export const picture: LayerEmitter<PictureLayer> = {
  markup: ({ posters }, document) => pictureMarkup(posters, document),
  rules: POSTER_RULES,
  files: ({ posters }) => posters.map(({ url }) => url),
  scripts: () => [],
}

/**
 * Pictures of all screens in their formats and densities, wide screens first and the lightest file
 * first, because browsers take the first format they know; the narrowest JPEG comes last and works
 * everywhere. `isLater` is for those that must not be fetched with the first screen.
 */
export function pictureMarkup(
  posters: readonly DeliveredPoster[],
  { weight, fit }: BackdropDocument,
  isLater = fit.place !== 'top',
): string[] {
  const narrowest = posters.findLast(({ density }) => density === 1)
  if (!narrowest) return []
  const classes = [...new Set(posters.map((poster) => poster.screenClass))]
  const of = (screenClass: ScreenClass, density: number): DeliveredPoster[] =>
    posters.filter((each) => each.screenClass === screenClass && each.density === density)
  /** The same picture in other densities, as a list of candidates. */
  const candidates = (poster: DeliveredPoster): string =>
    posters
      .filter((each) => each.screenClass === poster.screenClass && each.format === poster.format)
      .map(({ url, density }) => (density === 1 ? url : `${url} ${density}x`))
      .join(', ')
  const fallback =
    of(narrowest.screenClass, 1).find((poster) => poster.format === 'jpeg') ?? narrowest
  const own = candidates(fallback)
  const image = attributes({
    class: 'tln-poster',
    src: fallback.url,
    srcset: own === fallback.url ? null : own,
    width: fallback.width,
    height: fallback.height,
    alt: '',
    decoding: 'async',
    // In the first screen it is the largest picture; further down it must not delay others.
    ...(isLater ? { loading: 'lazy' } : { fetchpriority: 'high' }),
  })
  // A source after a file that every browser knows and that is no heavier would never be taken.
  const offered = classes.flatMap((screenClass) => {
    const plain = of(screenClass, 1).sort((a, b) => a.bytes - b.bytes)
    const last = plain.findIndex((poster) => poster.format === 'jpeg')
    return last < 0 ? plain : plain.slice(0, last + 1)
  })
  const sources = offered
    .filter((poster) => poster !== fallback)
    .map((poster) => {
      const min = minWindowWidth(poster.screenClass, classes, false, weight.breakpoints)
      return `  <source${attributes({ srcset: candidates(poster), type: mimeOf(poster.format), media: min > 0 ? `(min-width: ${min}px)` : null })}>`
    })
  return ['<picture>', ...sources, `  <img${image}>`, '</picture>']
}
