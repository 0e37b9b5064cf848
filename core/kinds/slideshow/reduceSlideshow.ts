import { assertNever } from '../../result'
import type { Words, WordsChange } from '../../copy/Words'
import { withCycle } from './cycle'
import {
  MAX_HOLD_SECONDS,
  newSlide,
  SLIDE_COUNT,
  timingsOf,
  type Slide,
  type Slideshow,
} from './Slideshow'
import type { Transition } from './transition'

/** What is decided of all slides together. */
type SharedFields = Partial<
  Pick<Slideshow, 'holdSeconds' | 'order' | 'seed' | 'controls' | 'delivery' | 'cycleBytes'>
>
/** What is decided of one slide besides its image. */
type SlideFields = Partial<Omit<Slide, 'id' | 'sourceId' | 'transition'>>

/** Every change of a slideshow. Values are already valid; slides are named by their ids. */
export type SlideshowAction =
  | { readonly type: 'slides/add'; readonly sourceIds: readonly string[]; readonly at?: number }
  | { readonly type: 'slides/remove'; readonly id: number }
  | { readonly type: 'slides/move'; readonly id: number; readonly to: number }
  /** A slide becomes the first one; those before it follow after the last. */
  | { readonly type: 'slides/first'; readonly id: number }
  | { readonly type: 'slides/swap'; readonly id: number; readonly sourceId: string }
  /** The slides of a set: those that are there already keep what is decided of them. */
  | { readonly type: 'slides/take'; readonly sourceIds: readonly string[]; readonly setId: string }
  | { readonly type: 'slides/set'; readonly id: number; readonly slide: SlideFields }
  /** Writes the words of a slide that has its own. */
  | { readonly type: 'slides/words'; readonly id: number; readonly change: WordsChange }
  /** Of one slide, or of all of them; null gives it that of the others again. */
  | {
      readonly type: 'slides/transition'
      readonly id: number | null
      readonly transition: Partial<Transition> | null
    }
  /** Holds are changed so that the cycle takes so long. */
  | { readonly type: 'slides/cycle'; readonly seconds: number }
  | { readonly type: 'slides/shared'; readonly slides: SharedFields }

/** The slideshow after an action; the same object when nothing changes, or it is not possible. */
export function reduceSlideshow(base: Slideshow, action: SlideshowAction): Slideshow {
  const next = changed(base, action)
  const { length } = next.slides
  if (length < SLIDE_COUNT.min || length > SLIDE_COUNT.max) return base
  return JSON.stringify(next) === JSON.stringify(base) ? base : next
}

function changed(base: Slideshow, action: SlideshowAction): Slideshow {
  const { slides } = base
  const at = 'id' in action ? slides.findIndex(({ id }) => id === action.id) : -1
  const slide = slides[at]
  switch (action.type) {
    case 'slides/add':
      return { ...base, slides: added(slides, action.sourceIds, action.at ?? slides.length) }
    case 'slides/remove':
      return { ...base, slides: slides.filter((each) => each !== slide) }
    case 'slides/move': {
      if (!slide) return base
      const others = slides.filter((each) => each !== slide)
      return { ...base, slides: others.toSpliced(action.to, 0, slide) }
    }
    case 'slides/first':
      return slide ? { ...base, slides: [...slides.slice(at), ...slides.slice(0, at)] } : base
    case 'slides/swap':
      return slide ? withSlide(base, at, { ...slide, sourceId: action.sourceId }) : base
    case 'slides/take':
      return { ...base, setId: action.setId, slides: taken(slides, action.sourceIds) }
    case 'slides/set':
      return slide ? withSlide(base, at, { ...slide, ...action.slide }) : base
    case 'slides/words':
      return slide?.words
        ? withSlide(base, at, { ...slide, words: written(slide.words, action.change) })
        : base
    case 'slides/transition': {
      if (action.id === null)
        return { ...base, transition: { ...base.transition, ...action.transition } }
      if (!slide) return base
      const { transition } = action
      const own = transition && { ...(slide.transition ?? base.transition), ...transition }
      return withSlide(base, at, { ...slide, transition: own })
    }
    case 'slides/cycle':
      return withCycleSeconds(base, action.seconds)
    case 'slides/shared':
      return { ...base, ...action.slides }
    default:
      return assertNever(action)
  }
}

const written = (words: Words, { button, ...change }: WordsChange): Words => ({
  ...words,
  ...change,
  button: { ...words.button, ...button },
})

const withSlide = (base: Slideshow, at: number, slide: Slide): Slideshow => ({
  ...base,
  slides: base.slides.with(at, slide),
})

function added(slides: readonly Slide[], sourceIds: readonly string[], at: number): Slide[] {
  const all = [...slides]
  const fresh = sourceIds.slice(0, SLIDE_COUNT.max - slides.length).map((sourceId) => {
    const slide = newSlide(sourceId, all)
    all.push(slide)
    return slide
  })
  return slides.toSpliced(at, 0, ...fresh)
}

function taken(slides: readonly Slide[], sourceIds: readonly string[]): Slide[] {
  const left = [...slides]
  const all = [...slides]
  return sourceIds.slice(0, SLIDE_COUNT.max).map((sourceId) => {
    const at = left.findIndex((each) => each.sourceId === sourceId)
    const [kept] = at < 0 ? [] : left.splice(at, 1)
    const slide = kept ?? newSlide(sourceId, all)
    all.push(slide)
    return slide
  })
}

/** Slides that stay as long as the others go on doing so; others keep their proportions. */
function withCycleSeconds(base: Slideshow, seconds: number): Slideshow {
  const holds = withCycle(timingsOf(base), seconds).map(({ holdSeconds }) =>
    Math.min(MAX_HOLD_SECONDS, Math.round(holdSeconds * 1000) / 1000),
  )
  const shared = base.slides.findIndex(({ holdSeconds }) => holdSeconds === null)
  const slides = base.slides.map((slide, index) =>
    slide.holdSeconds === null ? slide : { ...slide, holdSeconds: holds[index]! },
  )
  return shared < 0 ? { ...base, slides } : { ...base, slides, holdSeconds: holds[shared]! }
}

const SHARED_LABELS: Readonly<Record<keyof SharedFields, string>> = {
  holdSeconds: 'hold',
  order: 'order of slides',
  seed: 'order of slides',
  controls: 'controls of the slideshow',
  delivery: 'live or clip',
  cycleBytes: 'budget of the cycle',
}
const SLIDE_LABELS: Readonly<Record<keyof SlideFields, string>> = {
  holdSeconds: 'hold of a slide',
  placing: 'how a slide is placed',
  tileWidth: 'tile size of a slide',
  background: 'colour behind a slide',
  opacity: 'opacity of a slide',
  focal: 'focal point of a slide',
  pan: 'pan and zoom of a slide',
  words: 'copy of a slide',
}

const firstKey = <T extends object>(fields: T): keyof T | undefined =>
  (Object.keys(fields) as (keyof T)[])[0]

/** What the action is called in the list of undo steps. */
export function labelOfSlideshow(action: SlideshowAction): string {
  switch (action.type) {
    case 'slides/add':
      return action.sourceIds.length === 1 ? 'add a slide' : 'add slides'
    case 'slides/remove':
      return 'remove a slide'
    case 'slides/move':
      return 'move a slide'
    case 'slides/first':
      return 'first slide'
    case 'slides/swap':
      return 'image of a slide'
    case 'slides/take':
      return 'slides of the set'
    case 'slides/cycle':
      return 'length of the cycle'
    case 'slides/words':
      return SLIDE_LABELS.words
    case 'slides/transition':
      return action.id === null ? 'transition' : 'transition of a slide'
    case 'slides/set': {
      const field = firstKey(action.slide)
      return field ? SLIDE_LABELS[field] : 'slide'
    }
    case 'slides/shared': {
      const field = firstKey(action.slides)
      return field ? SHARED_LABELS[field] : 'slideshow'
    }
    default:
      return assertNever(action)
  }
}
