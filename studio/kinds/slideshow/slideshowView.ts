import type { DeliveredPoster } from '../../../core/kinds/DeliveredMedia'
import { focalsOf, slideCycle, transitionOf } from '../../../core/kinds/slideshow/Slideshow'
import { classOfWindow, focalOn } from '../../../core/fit/focal'
import { sceneAt } from '../../../core/kinds/slideshow/scene'
import { drawScene } from '../../worker/compose/drawSlides'
import { drawCover } from '../drawCover'
import type { KindView } from '../KindView'
import { documentOf, ofKind, readingOf } from '../ofKind'
import { CycleLimit } from './CycleLimit'
import { LostSlides } from './LostSlides'
import { readSlides } from './material/readSlides'
import { SlidesBench } from './material/SlidesBench'
import { SlidesDeck } from './material/SlidesDeck'
import { addressOf, slidesOf } from './slidesOf'
import { SlideHandles } from './SlideHandles'
import { SlideVisits } from './SlideVisits'
import { CycleBench } from './timing/CycleBench'
import { CycleDeck } from './timing/CycleDeck'
import { readCycle } from './timing/readCycle'
import { WatchSlides } from './WatchSlides'

/** A slideshow: its slides, and how they follow one another. */
export const slideshowView: KindView = {
  rooms: {
    material: {
      label: 'Material',
      read: readingOf('slideshow', readSlides),
      Bench: ofKind('slideshow', SlidesBench),
      Deck: ofKind('slideshow', SlidesDeck),
      deckHeight: 'h-52',
    },
    timing: {
      label: 'Timing',
      read: readingOf('slideshow', readCycle),
      Bench: ofKind('slideshow', CycleBench),
      Deck: ofKind('slideshow', CycleDeck),
      deckHeight: 'h-60',
    },
  },
  firstRoom: 'timing',
  handles: {
    material: ofKind('slideshow', SlideHandles),
    timing: ofKind('slideshow', SlideHandles),
  },
  Limits: ofKind('slideshow', CycleLimit),
  Watch: ofKind('slideshow', WatchSlides),
  Visits: ofKind('slideshow', SlideVisits),
  standInMedia(document, sources) {
    const slides = slidesOf(documentOf(document, 'slideshow'), sources)
    const posters = slides.flatMap(({ source, number }): DeliveredPoster[] =>
      source
        ? [
            {
              screenClass: 'wide',
              density: 1,
              slide: number - 1,
              // The original, whatever it is: as the last choice it stands without a type.
              format: 'jpeg',
              url: addressOf(source),
              width: source.facts.displayWidth,
              height: source.facts.displayHeight,
              bytes: source.facts.bytes,
            },
          ]
        : [],
    )
    return { clips: [], placeholder: null, posters }
  },
  // The deck shows slides as given: so does the stage, whatever order visitors get.
  staged(document) {
    const { base } = documentOf(document, 'slideshow')
    return base.order === 'given' ? document : { ...document, base: { ...base, order: 'given' } }
  },
  standInStyle: (document) =>
    documentOf(document, 'slideshow')
      .base.slides.map(
        ({ background, opacity }, index) =>
          `.tln-region .tln-slide-${index + 1} .tln-view { background: ${background}; }
.tln-region .tln-slide-${index + 1} .tln-poster { opacity: ${opacity}; }`,
      )
      .join('\n'),
  standIn: () => Promise.resolve(null),
  draw(context, { document, width, height, seconds, slidePicture, picture, focal }) {
    const { base, fit, weight } = documentOf(document, 'slideshow')
    if (base.delivery === 'clip') {
      if (picture) drawCover(context, picture, { width, height }, focal)
      return picture !== null
    }
    const scene = sceneAt(
      slideCycle(base),
      base.slides.map((slide) => transitionOf(base, slide)),
      seconds,
    )
    const pictures = scene.map(({ slide }) => slidePicture(slide))
    if (scene.some(({ slide }, at) => !pictures[at] && base.slides[slide]!.placing !== 'tile'))
      return false
    // The stage is drawn at half its size.
    const screenClass = classOfWindow(width * 2, weight.breakpoints)
    drawScene(context, scene, { width, height }, (index) => {
      const slide = base.slides[index]!
      return {
        place: {
          ...slide,
          tileWidth: slide.tileWidth / 2,
          focal: focalOn(focalsOf(slide, fit), screenClass),
        },
        picture: pictures[scene.findIndex(({ slide: each }) => each === index)] ?? null,
      }
    })
    return true
  },
  Lost: LostSlides,
  momentOf: () => null,
}
