import type { Source } from '../../../core/api/wire'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import type { ImageFacts } from '../../../core/media/probe'
import type { LoadedSources } from '../../state/loadedSources'

/** A source that is an image. */
export type ImageSource = Source & { readonly facts: ImageFacts }

/** Whether a source is an image. */
export const isImage = (source: Source): source is ImageSource => source.facts.kind === 'image'

/** The image of a base; null where it is none, or not among them. */
export function imageOf({ base }: DocumentOf<'image'>, { all }: LoadedSources): ImageSource | null {
  const found = all.find(({ id }) => id === base.material.sourceId)
  return found && isImage(found) ? found : null
}
