import { drifts, viewAt } from '../../kinds/image/Image'
import { VIEW_ORIGIN, viewTransform } from '../../kinds/image/viewTransform'
import type { DeliveredPoster } from '../../kinds/DeliveredMedia'
import type { ImageLayer } from '../../kinds/Layer'
import { cssNumber } from '../cssNumber'
import { type LayerEmitter } from './LayerEmitter'
import { MOVING_PRINT_RULES, MOVING_RULES, movingRules } from './moving'
import { POSTER_RULES, pictureMarkup } from './picture'

/*
 * An image is a `picture` in a box of its own: the box carries opacity, motion, and the place where
 * it stays while the page scrolls. `background-attachment: fixed` does nothing on phones; a fixed
 * box that its backdrop clips does the same everywhere. Tiles are a background of the box.
 */

/** As many as a clip has frames: with fewer, edges in the picture would be seen to jump. */
const STEPS_PER_SECOND = 30

/** The base's own image. */
export const image: LayerEmitter<ImageLayer> = {
  markup(layer, document) {
    const { image: base } = layer
    const name = `tln-image${drifts(base) ? ' tln-moving' : ''}`
    return base.placing === 'tile'
      ? [`<div class="${name}"></div>`]
      : [
          `<div class="${name}">`,
          ...pictureMarkup(layer.posters, document).map((line) => `  ${line}`),
          '</div>',
        ]
  },
  ownRules(layer, scope, document) {
    const { image: base } = layer
    const box = `.tln-region${scope.own} .tln-image`
    return [
      ...(base.opacity < 1 ? [`${box} { opacity: ${cssNumber(base.opacity)}; }`] : []),
      ...(base.placing === 'contain'
        ? [`${box} .tln-poster { object-fit: contain; }`]
        : base.placing === 'tile'
          ? tileRules(base.tileWidth, layer.posters, box)
          : []),
      ...(base.scrolling === 'fixed'
        ? [
            `.tln-region${scope.own} .tln-backdrop { clip-path: inset(0); }`,
            `${box} { position: fixed; height: 100vh; }`,
            `@supports (height: 1lvh) { ${box} { height: 100lvh; } }`,
          ]
        : []),
      ...(drifts(base)
        ? movingRules(
            {
              at: (progress) => viewTransform(viewAt(base.drift!, progress)),
              seconds: base.drift!.seconds,
              origin: VIEW_ORIGIN,
              stepsPerSecond: STEPS_PER_SECOND,
            },
            scope,
            document,
          )
        : []),
    ]
  },
  rules: `.tln-region .tln-image { all: revert; position: absolute; inset: 0; }
${POSTER_RULES}${MOVING_RULES}`,
  printRules: MOVING_PRINT_RULES,
  files: ({ posters }) => posters.map(({ url }) => url),
  scripts: ({ image: base }) => (drifts(base) ? ['moving'] : []),
}

/** An image as a background that repeats, in the best format and density that a browser takes. */
export function tileRules(
  tileWidth: number,
  posters: readonly DeliveredPoster[],
  box: string,
): string[] {
  const plain =
    posters.find(({ format, density }) => format === 'jpeg' && density === 1) ??
    posters.find(({ format }) => format === 'svg')
  if (!plain) return []
  const background = `${box} { background: url("${plain.url}") 0 0 / ${tileWidth}px auto; }`
  if (plain.format === 'svg') return [background]
  const choices = [...posters]
    .sort((a, b) => a.density - b.density || a.bytes - b.bytes)
    .map(
      ({ url, density, format }) =>
        `url("${url}") ${density}x${format === 'jpeg' ? '' : ` type("image/${format}")`}`,
    )
  return [
    background,
    `@supports (background: image-set(url("a") 1x type("image/avif"))) { ${box} { background-image: image-set(${choices.join(', ')}); } }`,
  ]
}
