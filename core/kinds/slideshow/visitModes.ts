import { isCycling, type Slideshow } from './Slideshow'

/** What kind of visit downloads which slides. */
export interface VisitMode {
  readonly name: string
  /** Lists of places: what it downloads is one of them, and no visit more than the heaviest. */
  readonly slides: readonly (readonly number[])[]
  readonly because: string
}

/** What is decided for visitors who want less; a part of the document. */
interface Choices {
  readonly phone: 'play' | 'poster'
  readonly reducedMotion: 'play' | 'poster'
  readonly dataSaver: 'play' | 'poster'
}

/** Slides that are fetched at once: the first, and tiles, since a background is never lazy. */
function atOnce({ slides }: Pick<Slideshow, 'slides'>): number[] {
  return slides.flatMap(({ placing }, index) => (index === 0 || placing === 'tile' ? [index] : []))
}

/**
 * What a first visit may fetch by the time the second slide has come: the first and the one after
 * it, whichever that is.
 */
export function firstVisitSlides(base: Pick<Slideshow, 'slides' | 'order'>): number[][] {
  const seconds = base.order === 'given' ? [1] : base.slides.map((_, index) => index).slice(1)
  return seconds.map((second) => [...new Set([...atOnce(base), second])])
}

/** What visits of a live slideshow download, from the usual one to those that save. */
export function visitModes({
  base,
  behaviour,
}: {
  readonly base: Slideshow
  readonly behaviour: Choices
}): VisitMode[] {
  const all = [base.slides.map((_, index) => index)]
  const first = [atOnce(base)]
  const cycles = isCycling(base)
  const saving = (
    name: string,
    choice: 'play' | 'poster',
    playing: string,
    still: string,
  ): VisitMode =>
    choice === 'play'
      ? { name, slides: cycles ? all : firstVisitSlides(base), because: playing }
      : { name, slides: first, because: still }
  return [
    {
      name: 'First view',
      slides: firstVisitSlides(base),
      because: 'Slide 1, then the next one while it is shown.',
    },
    cycles
      ? { name: 'Whole cycle', slides: all, because: 'Each slide shortly before it comes.' }
      : {
          name: 'The rest of the visit',
          slides: firstVisitSlides(base),
          because: 'The chosen slide stays: no more is fetched.',
        },
    {
      name: 'Without script',
      slides: cycles ? all : first,
      because: cycles ? 'The style changes slides.' : 'Slide 1 stays.',
    },
    saving(
      'Reduced motion',
      behaviour.reducedMotion,
      'Slides change at once, without animation.',
      'Slide 1 stays.',
    ),
    saving(
      'Data saver',
      behaviour.dataSaver,
      'All slides are loaded all the same.',
      'Slide 1 stays, where there is script.',
    ),
    ...(behaviour.phone === 'poster'
      ? [{ name: 'Phones', slides: first, because: 'Slide 1 stays.' }]
      : []),
  ]
}
