import type { Base } from '../kinds'
import { createFootage } from '../kinds/footage/createFootage'
import { createImage } from '../kinds/image/Image'
import { createPaint } from '../kinds/paint/Paint'
import { isClip } from './facts'
import type { Source } from './wire'

/** A new base of what a source is: footage or an image; without one, a paint. */
export function baseOf(source: Pick<Source, 'id' | 'facts' | 'analysis'> | null): Base {
  if (!source) return createPaint()
  return isClip(source)
    ? createFootage({
        sourceId: source.id,
        facts: source.facts,
        usable: source.analysis?.usable ?? null,
      })
    : createImage(source.id)
}
