import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { picturedLayers } from '../../backdrop/delivered'
import type { DeliveredMedia } from '../../kinds/DeliveredMedia'
import type { Layer, LayerType } from '../../kinds/Layer'
import type { ScriptPart } from '../scripts'
import { image } from './image'
import type { LayerEmitter, OwnScope } from './LayerEmitter'
import { paint } from './paint'
import { particles } from './particles'
import { picture } from './picture'
import { scrim } from './scrim'
import { slides } from './slides'
import { video } from './video'

/** The emitters by type of layer. */
const EMITTERS: { readonly [T in LayerType]: LayerEmitter<Extract<Layer, { type: T }>> } = {
  picture,
  video,
  slides,
  image,
  paint,
  particles,
  scrim,
}

/** A layer with its emitter, ready to be written. */
export type EmittedLayer = ReturnType<typeof emitterOf>

/** What a layer writes, each as `LayerEmitter` says. */
function emitterOf(layer: Layer) {
  const emitter = EMITTERS[layer.type] as LayerEmitter<Layer>
  return {
    type: layer.type,
    layer,
    rules: emitter.rules,
    printRules: emitter.printRules ?? '',
    scripts: emitter.scripts(layer),
    files: emitter.files(layer),
    attributes: (document: BackdropDocument) => emitter.attributes?.(layer, document) ?? {},
    markup: (document: BackdropDocument) => emitter.markup(layer, document),
    controls: (document: BackdropDocument) => emitter.controls?.(layer, document) ?? [],
    values: (document: BackdropDocument) => emitter.values?.(layer, document) ?? {},
    ownRules: (scope: OwnScope, document: BackdropDocument) =>
      emitter.ownRules?.(layer, scope, document) ?? [],
    wordRules: (scope: OwnScope, document: BackdropDocument) =>
      emitter.wordRules?.(layer, scope, document) ?? [],
  }
}

/** The layers of a backdrop behind its copy, from back to front. */
export function layersOf(document: BackdropDocument, media: DeliveredMedia): EmittedLayer[] {
  return [...picturedLayers(document, media), { type: 'scrim' } as const].map(emitterOf)
}

/** The parts of the script that layers need, each once. */
export function scriptPartsOf(layers: readonly EmittedLayer[]): ScriptPart[] {
  return [...new Set(layers.flatMap(({ scripts }) => scripts))]
}
