import type { Rendition } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { deliveredFiles, shortId, type DeliveredFiles } from '../../../core/handoff/deliveredFiles'
import type { LoadedSources } from '../../state/loadedSources'

/**
 * The media of the folder as the markup names them; files that are not rendered yet stand with what
 * is known of them.
 */
export function deliveredMedia(
  backdropId: string,
  document: BackdropDocument,
  sources: LoadedSources,
  made: Readonly<Record<string, Rendition>>,
): Pick<DeliveredFiles, 'media' | 'files'> {
  return deliveredFiles(shortId(backdropId), document, sources.known, (key) => made[key])
}
