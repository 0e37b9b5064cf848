import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import type { ScrimLayer } from '../../kinds/Layer'
import { formatHex, parseHex } from '../../picture/srgb'
import type { Scrim, ScrimLayer as Layer } from '../../scrim/Scrim'
import { cssNumber } from '../cssNumber'
import type { LayerEmitter } from './LayerEmitter'

/** The scrim: one element over the base. */
export const scrim: LayerEmitter<ScrimLayer> = {
  markup: () => ['<div class="tln-scrim"></div>'],
  values: (_, document) => ({ scrim: scrimImage(document) }),
  rules: `.tln-region .tln-scrim { all: revert; position: absolute; inset: 0; background-image: var(--tln-scrim); }
`,
  printRules: '  .tln-region .tln-scrim { print-color-adjust: exact; }\n',
  files: () => [],
  scripts: () => [],
}

function rgba(hex: string, alpha: number): string {
  const { r, g, b } = parseHex(hex)
  return `rgb(${r} ${g} ${b} / ${cssNumber(alpha)})`
}

/** The scrim as CSS images, the front one first; `none` where there is nothing. */
export function scrimImage({ scrim: { layers } }: Pick<BackdropDocument, 'scrim'>): string {
  return layers.length === 0 ? 'none' : layers.toReversed().map(layerImage).join(', ')
}

function layerImage({ shape, strength, angleDeg, centre, radius, stops }: Layer): string {
  const [first] = stops
  if (shape === 'even') {
    const even = rgba(first!.color, strength)
    return `linear-gradient(0deg, ${even}, ${even})`
  }
  // Stops at both ends need not be told.
  const isPlain = stops.length === 2 && first!.at === 0 && stops[1]!.at === 1
  const list = stops
    .map(
      ({ at, color, strength: own }) =>
        `${rgba(color, own * strength)}${isPlain ? '' : ` ${percent(at)}`}`,
    )
    .join(', ')
  if (shape === 'linear') return `linear-gradient(${cssNumber(angleDeg)}deg, ${list})`
  const size = percent(radius)
  return `radial-gradient(${size} ${size} at ${percent(centre.x)} ${percent(centre.y)}, ${list})`
}

const percent = (share: number): string => `${cssNumber(share * 100)}%`

/** What `scrimImage` has written, read again; what it has not is left out. */
export function scrimFromImage(text: string): Scrim {
  const layers = [...text.matchAll(/(linear|radial)-gradient\(((?:[^()]|\([^()]*\))*)\)/g)]
  return { layers: layers.flatMap(([, shape, inner]) => layerFrom(shape!, inner!)).toReversed() }
}

function layerFrom(shape: string, inner: string): Layer[] {
  const found = [...inner.matchAll(/rgb\(([\d.]+) ([\d.]+) ([\d.]+) \/ ([\d.]+)\)(?: ([\d.]+)%)?/g)]
  if (found.length < 2) return []
  const head = (inner.slice(0, found[0]!.index).match(/[\d.]+/g) ?? []).map(Number)
  const [one = 0, , across = 50, down = 50] = head
  const isRadial = shape === 'radial'
  return [
    {
      shape: isRadial ? 'radial' : 'linear',
      strength: 1,
      angleDeg: isRadial ? 90 : one,
      centre: isRadial ? { x: across / 100, y: down / 100 } : { x: 0.5, y: 0.5 },
      radius: isRadial ? one / 100 : 0.8,
      stops: found.map(([, r, g, b, alpha, at], index) => ({
        at: at === undefined ? index / (found.length - 1) : Number(at) / 100,
        color: formatHex({ r: Number(r), g: Number(g), b: Number(b) }),
        strength: Number(alpha),
      })),
    },
  ]
}
