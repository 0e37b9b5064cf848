import type { KindName } from '../../core/kinds'
import { footageView } from './footage/footageView'
import { imageView } from './image/imageView'
import type { KindView } from './KindView'
import { paintView } from './paint/paintView'
import { slideshowView } from './slideshow/slideshowView'

/** What each kind brings to the studio. docs/kinds.md tells how to add one. */
const VIEWS: Readonly<Record<KindName, KindView>> = {
  footage: footageView,
  slideshow: slideshowView,
  image: imageView,
  paint: paintView,
}

/** The view of a kind. */
export function kindView(kind: KindName): KindView {
  return VIEWS[kind]
}
