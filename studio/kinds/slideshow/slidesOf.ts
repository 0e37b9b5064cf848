import type { Source } from '../../../core/api/wire'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { regionHeightPx } from '../../../core/fit/cover'
import type { ClassScreen } from '../../../core/fit/screens'
import { pictureOf } from '../../../core/api/knownSource'
import type { Slide } from '../../../core/kinds/slideshow/Slideshow'
import { slideFindings, type SlideFinding } from '../../../core/kinds/slideshow/slideFindings'
import { mimeOf } from '../../../core/media/image/mimeOf'
import { mediaUrl } from '../../api/client'
import type { LoadedSources } from '../../state/loadedSources'
import { isImage, type ImageSource } from '../image/imageOf'

/** A slide with its image from the shelf. */
export interface ShownSlide {
  readonly slide: Slide
  readonly number: number
  /** Null where it is no image, or not among the sources. */
  readonly source: ImageSource | null
}

/** The slides of a document with their images. */
export function slidesOf(
  { base }: DocumentOf<'slideshow'>,
  { all }: Pick<LoadedSources, 'all'>,
): ShownSlide[] {
  return base.slides.map((slide, index) => {
    const found: Source | undefined = all.find(({ id }) => id === slide.sourceId)
    return { slide, number: index + 1, source: found && isImage(found) ? found : null }
  })
}

/** The address of a slide's image as it was added. */
export const addressOf = ({ sha256, facts }: ImageSource): string =>
  mediaUrl(sha256, mimeOf(facts.format))

/** What is found of the slides together, on the widest screen of a project. */
export function findingsOf(
  document: DocumentOf<'slideshow'>,
  sources: Pick<LoadedSources, 'all'>,
  wide: ClassScreen,
): SlideFinding[] {
  const slides = slidesOf(document, sources)
  const known = slides.filter(({ source }) => source !== null)
  const found = slideFindings(
    known.map(({ slide, source }) => ({
      sourceId: slide.sourceId,
      placing: slide.placing,
      isDrawing: source!.facts.format === 'svg',
      palette: source!.analysis?.palette ?? [],
      ...pictureOf(source!.facts),
    })),
    { width: wide.width, height: regionHeightPx(document.fit.height, wide.height) },
  )
  return found.map((each) => ({ ...each, slide: known[each.slide]!.number - 1 }))
}
