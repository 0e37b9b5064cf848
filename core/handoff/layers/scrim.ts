import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import type { ScrimLayer } from '../../kinds/Layer'
import { formatHex, parseHex } from '../../picture/srgb'
import type { BlendMode } from '../../picture/blend'
import { evenLayer, type ScrimLayer as Layer } from '../../scrim/Scrim'
import { scrimRuns, type ScrimRun } from '../../scrim/scrimAt'
import { cssNumber } from '../cssNumber'
import { focalWindows } from '../focalCss'
import type { LayerEmitter } from './LayerEmitter'
import { DEVICE_PIXEL, textureFrom, textureImage, textureSize } from './texture'

/** The name that the style gives the nth element of the scrim, from the back. */
export const scrimName = (index: number): string => (index === 0 ? 'scrim' : `scrim-${index + 1}`)

/** The scrim: an element over the base, and one for each layer that is blended with it. */
export const scrim: LayerEmitter<ScrimLayer> = {
  markup: (_, document) =>
    elementsOf(document).map(
      (element, index) =>
        `<div class="tln-scrim${isPlain(element, index) ? '' : ` tln-scrim-${index + 1}`}"></div>`,
    ),
  values: (_, document) =>
    Object.fromEntries(
      elementsOf(document).map(({ shared }, index) => [
        scrimName(index),
        scrimImage(shared.layers),
      ]),
    ),
  ownRules: (_, { own }, document) => {
    const elements = elementsOf(document)
    const rules = elements.flatMap((element, index) => {
      if (isPlain(element, index)) return []
      const { blend } = element.shared
      const image = index === 0 ? '' : ` background-image: var(--tln-${scrimName(index)});`
      const mixed = blend === 'normal' ? '' : ` mix-blend-mode: ${blend};`
      const size = runSize(element.shared)
      const sized = size ? ` ${repeated(size)}` : ''
      return image || mixed || sized
        ? [`${own} .tln-scrim.tln-scrim-${index + 1} {${image}${mixed}${sized} }`]
        : []
    })
    if (elements.some(({ shared, phone }) => runSize(shared) ?? runSize(phone)))
      rules.unshift(...devicePixels(own))
    return document.ownScrim.phone ? [...rules, ...phoneRules(own, elements, document)] : rules
  },
  rules: `.tln-region .tln-scrim { all: revert; position: absolute; inset: 0; background-image: var(--tln-scrim); }
`,
  printRules: '  .tln-region .tln-scrim { print-color-adjust: exact; }\n',
  files: () => [],
  scripts: () => [],
}

/** What an element shows on phones that have their own scrim, and on all other screens. */
interface ScrimElement {
  readonly shared: ScrimRun
  readonly phone: ScrimRun
}

const NOTHING: ScrimRun = { blend: 'normal', layers: [] }

/** Whether an element is as the shared rules draw it. */
const isPlain = ({ shared, phone }: ScrimElement, index: number): boolean =>
  index === 0 && [shared, phone].every((run) => run.blend === 'normal' && !runSize(run))

/** The size in which a texture is repeated; null for what fills the region. */
const runSize = ({ layers }: ScrimRun): string | null => (layers[0] ? textureSize(layers[0]) : null)

/** Pixels of a tile that are enlarged stay sharp. */
const repeated = (size: string): string => `background-size: ${size}; image-rendering: pixelated;`

/**
 * The size of a device pixel: what lies between two of these densities is nearly sharp. It is
 * rounded up: browsers cut sizes to 64ths of a pixel, and a tile that is cut drifts.
 */
const devicePixels = (own: string): string[] => [
  `${own} { ${DEVICE_PIXEL}: 1px; }`,
  ...[1.25, 1.5, 1.75, 2, 2.5, 3, 3.5, 4].map(
    (density) =>
      `@media (min-resolution: ${density}dppx) { ${own} { ${DEVICE_PIXEL}: ${Math.ceil(1e6 / density) / 1e6}px; } }`,
  ),
]

/** There is an element even where there is nothing to show: a site may give it something. */
function elementsOf({ scrim: shown, ownScrim }: BackdropDocument): ScrimElement[] {
  const shared = scrimRuns(shown)
  const phone = ownScrim.phone ? scrimRuns(ownScrim.phone) : shared
  return Array.from({ length: Math.max(1, shared.length, phone.length) }, (_, index) => ({
    shared: shared[index] ?? NOTHING,
    phone: phone[index] ?? NOTHING,
  }))
}

/** What phones show in its place. */
function phoneRules(
  own: string,
  elements: readonly ScrimElement[],
  { weight }: BackdropDocument,
): string[] {
  const values = elements.map(
    ({ phone }, index) => `--tln-${scrimName(index)}: ${scrimImage(phone.layers)};`,
  )
  const mixed = elements.flatMap(({ shared, phone }, index) => {
    const blend = shared.blend === phone.blend ? '' : ` mix-blend-mode: ${phone.blend};`
    const size = runSize(phone)
    const isSized = size !== runSize(shared)
    const sized = !isSized ? '' : ` ${size ? repeated(size) : 'background-size: auto;'}`
    return blend || sized ? [`  ${own} .tln-scrim.tln-scrim-${index + 1} {${blend}${sized} }`] : []
  })
  return [
    [
      `@media ${focalWindows(weight.breakpoints).phone} {`,
      `  ${own} { ${values.join(' ')} }`,
      ...mixed,
      '}',
    ].join('\n'),
  ]
}

function rgba(hex: string, alpha: number): string {
  const { r, g, b } = parseHex(hex)
  return `rgb(${r} ${g} ${b} / ${cssNumber(alpha)})`
}

/** Layers of a scrim as CSS images, the front one first; `none` where there is nothing. */
export function scrimImage(layers: readonly Layer[]): string {
  return layers.length === 0 ? 'none' : layers.toReversed().map(layerImage).join(', ')
}

/** Layers of one run of a scrim as the style of an element that they fill. */
export function scrimStyle(layers: readonly Layer[]) {
  const size = runSize({ blend: 'normal', layers })
  return {
    backgroundImage: scrimImage(layers),
    ...(size && { backgroundSize: size, imageRendering: 'pixelated' as const }),
  }
}

function layerImage(layer: Layer): string {
  const { shape, strength, angleDeg, centre, radius, stops } = layer
  if (shape === 'texture') return textureImage(layer)
  const [first] = stops
  if (shape === 'even') {
    const even = rgba(first!.color, strength)
    return `linear-gradient(0deg, ${even}, ${even})`
  }
  // Stops at both ends need not be told.
  const isSpread = stops.length === 2 && first!.at === 0 && stops[1]!.at === 1
  const list = stops
    .map(
      ({ at, color, strength: own }) =>
        `${rgba(color, own * strength)}${isSpread ? '' : ` ${percent(at)}`}`,
    )
    .join(', ')
  if (shape === 'linear') return `linear-gradient(${cssNumber(angleDeg)}deg, ${list})`
  const size = percent(radius)
  return `radial-gradient(${size} ${size} at ${percent(centre.x)} ${percent(centre.y)}, ${list})`
}

const percent = (share: number): string => `${cssNumber(share * 100)}%`

/** What `scrimImage` has written, read again, with a blend mode; what it has not is left out. */
export function layersFromImage(text: string, blend: BlendMode): Layer[] {
  const texture = textureFrom(text)
  if (texture) return [{ ...texture, blend }]
  const layers = [...text.matchAll(/(linear|radial)-gradient\(((?:[^()]|\([^()]*\))*)\)/g)]
  return layers
    .flatMap(([, shape, inner]) => layerFrom(shape!, inner!))
    .toReversed()
    .map((layer) => ({ ...layer, blend }))
}

function layerFrom(shape: string, inner: string): Layer[] {
  const found = [...inner.matchAll(/rgb\(([\d.]+) ([\d.]+) ([\d.]+) \/ ([\d.]+)\)(?: ([\d.]+)%)?/g)]
  if (found.length < 2) return []
  const head = (inner.slice(0, found[0]!.index).match(/[\d.]+/g) ?? []).map(Number)
  const [one = 0, , across = 50, down = 50] = head
  const isRadial = shape === 'radial'
  return [
    {
      ...evenLayer('#000000', 1),
      shape: isRadial ? 'radial' : 'linear',
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
