import { FIRST_PARTS } from '../copy/copyParts'
import { FIRST_PLACE } from '../copy/copyPlace'
import { cutText } from '../bounded'
import type { Size } from '../fit/cover'
import {
  CLASS_SCREENS,
  USUAL_PICTURE,
  type Breakpoints,
  type ClassScreen,
  type ScreenClass,
} from '../fit/screens'
import type { Base } from '../kinds'
import type { EncoderNames } from '../weight/native/bestNames'
import { proposeRenditions } from '../weight/proposeRenditions'
import {
  DEFAULT_BUDGETS,
  DOCUMENT_VERSION,
  MAX_BRAND_CHARS,
  FIRST_DECISIONS,
  type BackdropDocument,
  type RenditionSettings,
} from './BackdropDocument'
import { evenScrim } from '../scrim/Scrim'
import { FIRST_TONE } from '../tone/Tone'

/** What a new backdrop is made from. */
export interface BackdropOrigin<B extends Base> {
  readonly base: B
  /** The picture that it shows, in pixels; null where it has no size of its own. */
  readonly picture: Size | null
  readonly scope: 'region' | 'page'
  readonly height: BackdropDocument['fit']['height']
  /** The project's name, used as the brand in the copy, cut to the longest a brand may be. */
  readonly brand: string
  /** The share of the picture's width that really holds detail. */
  readonly detail?: number
  /** Bytes of the first visit by screen class: the project's own. */
  readonly budgets?: Readonly<Record<ScreenClass, number>>
  /** The widest windows of phones and laptops: the project's own. */
  readonly breakpoints?: Breakpoints
  /** What the files of each class are made for: the project's own. */
  readonly screens?: Readonly<Record<ScreenClass, ClassScreen>>
  /** What makes its final files: the browser's encoders unless better ones are there. */
  readonly encoders?: EncoderNames
}

const FIRST_SCRIM = 0.35

/**
 * A new backdrop with defaults that already serve visitors: posters where they ask for
 * calm, a pause control, both formats.
 */
export function createBackdrop<B extends Base>({
  base,
  picture,
  scope,
  height,
  brand,
  detail = 1,
  budgets = DEFAULT_BUDGETS,
  breakpoints = FIRST_DECISIONS.weight.breakpoints,
  screens = CLASS_SCREENS,
  encoders = FIRST_DECISIONS.weight.encoders,
}: BackdropOrigin<B>): BackdropDocument & { readonly base: B } {
  const fit = {
    scope,
    height,
    focal: { x: 0.5, y: 0.5 },
    ownFocal: { phone: null, laptop: null },
    place: 'top' as const,
  }
  const copy: BackdropDocument['copy'] = {
    brand: cutText(brand, MAX_BRAND_CHARS),
    links: ['First page', 'Second page', 'Third page'],
    heading: 'A heading of a few words',
    body: 'One or two sentences stand here. Click any of this to write your own.',
    button: { label: 'Call to action', href: '#' },
    color: '#ffffff',
    buttonColor: '#f2b872',
    buttonStates: null,
    ...FIRST_PARTS,
    places: { phone: FIRST_PLACE, laptop: FIRST_PLACE, wide: FIRST_PLACE },
  }
  const scrim = evenScrim('#14101c', FIRST_SCRIM)
  const proposed = proposeRenditions({
    picture: picture ?? USUAL_PICTURE,
    detail,
    height,
    breakpoints,
    focalOf: () => fit.focal,
    scrim,
    copy,
    screens,
  })
  const row = (screenClass: ScreenClass): RenditionSettings => ({
    enabled: true,
    ...proposed[screenClass],
    frameRate: null,
    copyBlur: 0,
    formats: { av1: true, vp9: true, h264: true },
    budgetBytes: budgets[screenClass],
    locked: false,
  })
  return {
    version: DOCUMENT_VERSION,
    base,
    particles: null,
    poster: FIRST_DECISIONS.poster,
    copy,
    tone: FIRST_TONE,
    scrim,
    ownScrim: { phone: null },
    fit,
    behaviour: {
      phone: 'play',
      reducedMotion: 'poster',
      dataSaver: 'poster',
      playbackRate: 1,
      pauseControl: true,
      autoplayInMarkup: false,
    },
    weight: {
      ...FIRST_DECISIONS.weight,
      breakpoints: { ...breakpoints },
      encoders,
      renditions: { phone: row('phone'), laptop: row('laptop'), wide: row('wide') },
    },
    handoff: FIRST_DECISIONS.handoff,
  }
}
