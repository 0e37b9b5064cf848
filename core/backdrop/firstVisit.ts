import { SCREEN_CLASSES, type ScreenClass } from '../fit/screens'
import type { Family } from '../weight/families'
import type { BackdropDocument } from './BackdropDocument'
import { clipsTaken } from './listedClips'
import { slidesOf } from './delivered'
import { classServing, pageBytes, type PictureFormat } from './recipe'

/** What a first visit takes on a class of screens, in bytes. */
export interface FirstVisit {
  readonly screenClass: ScreenClass
  /**
   * The heaviest poster and clip that any browser is offered; the clip is 0 where only the poster
   * is shown.
   */
  readonly poster: number
  readonly clip: number
  /** Script and style, compressed. */
  readonly page: number
  readonly total: number
  readonly budgetBytes: number
  /** What all slides take together with page, style and script; null where there is one picture. */
  readonly cycle: { readonly total: number; readonly budgetBytes: number } | null
}

/** The parts of a file's description that its weight depends on. */
interface Weighed {
  readonly screenClass: ScreenClass
  /** Which of several pictures it is of: some come on a first visit. */
  readonly slide?: number
  readonly format?: PictureFormat
  readonly bytes: number
}

/** Formats in the order in which browsers take them; not every browser knows all. */
const ENCODED = ['avif', 'webp', 'jpeg'] as const satisfies readonly PictureFormat[]

/**
 * What a first visit takes on each class, with the files it gets: its own or those of a
 * neighbouring class. Files of 0 bytes are not rendered yet.
 */
export function firstVisits(
  document: BackdropDocument,
  {
    clips,
    posters,
  }: {
    readonly clips: readonly (Weighed & { readonly family: Family })[]
    readonly posters: readonly Weighed[]
  },
): FirstVisit[] {
  const max = (files: readonly { readonly bytes: number }[]): number =>
    files.reduce((bytes, file) => Math.max(bytes, file.bytes), 0)
  const page = pageBytes(document)
  const { cycleBytes = null, visits = [[0]] } = slidesOf(document, new Map()) ?? {}
  return SCREEN_CLASSES.map((screenClass) => {
    const posterClass = classServing(
      screenClass,
      posters.map((poster) => poster.screenClass),
    )
    const own = posters.filter((poster) => poster.screenClass === posterClass)
    const slides = [...new Set(own.flatMap(({ slide }) => slide ?? []))]
    /** The most that any browser loads of some pictures: each takes the first format it knows. */
    const heaviest = (pictures: readonly number[]): number =>
      Math.max(
        ...ENCODED.map((_, from) =>
          pictures.reduce((sum, slide) => {
            const files = own.filter((each) => (each.slide ?? 0) === slide)
            const known = (['svg', ...ENCODED.slice(from)] as const).find((format) =>
              files.some((each) => each.format === format),
            )
            // What has no format told is one file for every browser.
            return sum + max(known ? files.filter(({ format }) => format === known) : files)
          }, 0),
        ),
      )
    const poster = Math.max(...visits.map(heaviest))
    const all = page + heaviest(slides)
    const taken = clipsTaken(screenClass, document, clips)
    const clip = taken.some(({ bytes }) => bytes === 0) ? 0 : max(taken)
    return {
      screenClass,
      poster,
      clip,
      page,
      total: poster + clip + page,
      budgetBytes: document.weight.renditions[screenClass].budgetBytes,
      cycle: cycleBytes && { total: all, budgetBytes: cycleBytes[screenClass] },
    }
  })
}
