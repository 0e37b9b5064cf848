import { defaultOutputRate } from '../loop/Fraction'
import type { MediaFacts } from '../media/probe'
import { DEFAULT_BUDGETS, FIRST_DECISIONS, type BackdropDocument } from './BackdropDocument'

/** What a new backdrop is made from. */
export interface BackdropOrigin {
  readonly sourceId: string
  readonly facts: MediaFacts
  /** The part without cards, black and cuts, in milliseconds; absent or null where it is not known or all of it. */
  readonly usable?: { readonly startMs: number; readonly endMs: number } | null
  readonly scope: 'region' | 'page'
  readonly height: BackdropDocument['fit']['height']
  /** The project's name, which stands for its brand in the copy. */
  readonly brand: string
}

/** Longest cut a new backdrop starts with, in seconds: longer loops are a decision, not a default. */
const FIRST_CUT_SECONDS = 10

/** A new footage backdrop with defaults that already serve visitors: stills where they ask for calm, a pause control, both formats. */
export function createBackdrop({ sourceId, facts, usable = null, scope, height, brand }: BackdropOrigin): BackdropDocument {
  const { timescale, durationTicks, averageFps } = facts.video
  const start = usable ? Math.round((usable.startMs * timescale) / 1000) : 0
  const end = usable ? Math.min(durationTicks, Math.round((usable.endMs * timescale) / 1000)) : durationTicks
  return {
    version: 2,
    kind: 'footage',
    material: { sourceId },
    timing: {
      cut: { timescale, start, end: Math.min(end, start + FIRST_CUT_SECONDS * timescale) },
      speed: 1,
      repeat: 'loop',
      frameRate: defaultOutputRate(averageFps),
      ...FIRST_DECISIONS.timing,
    },
    picture: FIRST_DECISIONS.picture,
    still: FIRST_DECISIONS.still,
    copy: {
      brand,
      links: ['First page', 'Second page', 'Third page'],
      heading: 'A heading of a few words',
      body: 'One or two sentences stand here. Click any of this to write your own.',
      button: { label: 'Call to action', href: '#' },
      color: '#ffffff',
      buttonColor: '#f2b872',
    },
    scrim: { kind: 'flat', color: '#14101c', strength: 0.35, toColor: '#14101c', toStrength: 0, angleDeg: 90 },
    fit: { scope, height, focal: { x: 0.5, y: 0.5 } },
    behaviour: { phone: 'play', reducedMotion: 'still', dataSaver: 'still', playbackRate: 1, pauseControl: true, autoplayInMarkup: false },
    weight: { widths: { phone: 640, laptop: 1280, wide: 1920 }, formats: { vp9: true, h264: true }, budgets: { ...DEFAULT_BUDGETS } },
  }
}
