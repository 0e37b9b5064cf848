import { defaultOutputRate } from '../loop/Fraction'
import { sourceFps, type MediaFacts } from '../media/probe'
import { CLASS_SCREENS, type ClassLimits, type ClassScreen, type ScreenClass } from '../fit/screens'
import { proposeRenditions } from '../weight/proposeRenditions'
import {
  DEFAULT_BUDGETS,
  FIRST_DECISIONS,
  type BackdropDocument,
  type RenditionSettings,
} from './BackdropDocument'

/** What a new backdrop is made from. */
export interface BackdropOrigin {
  readonly sourceId: string
  readonly facts: MediaFacts
  /**
   * The part without cards, black and cuts, in milliseconds; absent or null where it is not known
   * or all of it.
   */
  readonly usable?: { readonly startMs: number; readonly endMs: number } | null
  readonly scope: 'region' | 'page'
  readonly height: BackdropDocument['fit']['height']
  /** The project's name, used as the brand in the copy. */
  readonly brand: string
  /** The share of the clip's width that really holds detail. */
  readonly detail?: number
  /** Bytes of the first visit by screen class: the project's own. */
  readonly budgets?: Readonly<Record<ScreenClass, number>>
  /** The widest windows of phones and laptops: the project's own. */
  readonly breakpoints?: ClassLimits
  /** What the files of each class are made for: the project's own. */
  readonly screens?: Readonly<Record<ScreenClass, ClassScreen>>
}

/** Longest cut of a new backdrop, in seconds: longer loops are the designer's decision. */
const FIRST_CUT_SECONDS = 10
const FIRST_SCRIM = 0.35

/**
 * A new footage backdrop with defaults that already serve visitors: posters where they ask for
 * calm, a pause control, both formats.
 */
export function createBackdrop({
  sourceId,
  facts,
  usable = null,
  scope,
  height,
  brand,
  detail = 1,
  budgets = DEFAULT_BUDGETS,
  breakpoints: limits = FIRST_DECISIONS.weight.breakpoints,
  screens = CLASS_SCREENS,
}: BackdropOrigin): BackdropDocument {
  const { timescale, durationTicks } = facts.video
  const start = usable ? Math.round((usable.startMs * timescale) / 1000) : 0
  const end = usable
    ? Math.min(durationTicks, Math.round((usable.endMs * timescale) / 1000))
    : durationTicks
  const fit = { scope, height, focal: { x: 0.5, y: 0.5 } }
  const copy: BackdropDocument['copy'] = {
    brand,
    links: ['First page', 'Second page', 'Third page'],
    heading: 'A heading of a few words',
    body: 'One or two sentences stand here. Click any of this to write your own.',
    button: { label: 'Call to action', href: '#' },
    color: '#ffffff',
    buttonColor: '#f2b872',
  }
  const scrim: BackdropDocument['scrim'] = {
    kind: 'flat',
    color: '#14101c',
    strength: FIRST_SCRIM,
    toColor: '#14101c',
    toStrength: 0,
    angleDeg: 90,
  }
  const proposed = proposeRenditions({
    picture: { width: facts.video.displayWidth, height: facts.video.displayHeight },
    detail,
    height,
    breakpoints: limits,
    focal: fit.focal,
    scrim,
    copy,
    screens,
  })
  const row = (screenClass: ScreenClass): RenditionSettings => ({
    enabled: true,
    ...proposed[screenClass],
    frameRate: null,
    soften: 0,
    formats: { av1: true, vp9: true, h264: true },
    budgetBytes: budgets[screenClass],
    locked: false,
  })
  return {
    version: 5,
    kind: 'footage',
    material: { sourceId, frameRate: facts.video.frameRate },
    timing: {
      cut: { timescale, start, end: Math.min(end, start + FIRST_CUT_SECONDS * timescale) },
      speed: 1,
      repeat: 'loop',
      frameRate: defaultOutputRate(sourceFps(facts.video)),
      ...FIRST_DECISIONS.timing,
    },
    picture: FIRST_DECISIONS.picture,
    poster: FIRST_DECISIONS.poster,
    copy,
    scrim,
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
      breakpoints: { ...limits },
      renditions: { phone: row('phone'), laptop: row('laptop'), wide: row('wide') },
    },
  }
}
