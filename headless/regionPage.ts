import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { emitRegion } from '../core/handoff/emitMarkup'
import { emitBackdropStyle } from '../core/handoff/emitStyle'
import { layersOf, scriptPartsOf } from '../core/handoff/layers'
import { assembleScript, type DeliveredScripts } from '../core/handoff/scripts'
import type { DeliveredMedia } from '../core/kinds/DeliveredMedia'

const ID = 'alone'
const NO_MEDIA: DeliveredMedia = { clips: [], posters: [], placeholder: null }

/** A page with nothing but a region, as it is delivered, of a backdrop that needs no files. */
export function regionPage(document: BackdropDocument, scripts: DeliveredScripts): string {
  const parts = scriptPartsOf(layersOf(document, NO_MEDIA))
  return `<!doctype html>
<style>body { margin: 0 } ${emitBackdropStyle(ID, document, NO_MEDIA)}</style>
${emitRegion(ID, document, NO_MEDIA, 'fragment')}
<script>${assembleScript(scripts, 'classic', parts)}</script>`
}
