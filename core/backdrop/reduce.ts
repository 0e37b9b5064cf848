import type { Cut } from '../loop/framePlan'
import type { Fraction } from '../loop/Fraction'
import { defaultOutputRate } from '../loop/Fraction'
import { sourceFps, type MediaFacts } from '../media/probe'
import { assertNever } from '../result'
import { SCREEN_CLASSES, type ScreenClass } from '../fit/screens'
import { FIRST_DECISIONS, type BackdropDocument, type RenditionSettings } from './BackdropDocument'

type Doc = BackdropDocument

/** Every change of a backdrop. Values are already valid: interface and server check them. */
export type BackdropAction =
  | { readonly type: 'material/swap'; readonly sourceId: string; readonly facts: MediaFacts }
  | { readonly type: 'timing/cut'; readonly cut: Cut }
  | { readonly type: 'timing/speed'; readonly speed: number }
  | { readonly type: 'timing/repeat'; readonly repeat: Doc['timing']['repeat'] }
  | { readonly type: 'timing/frame-rate'; readonly frameRate: Fraction }
  | { readonly type: 'timing/seam'; readonly seam: Partial<Doc['timing']['seam']> }
  | { readonly type: 'timing/found-loop'; readonly cut: Cut }
  | { readonly type: 'timing/blend-frames'; readonly enabled: boolean }
  | { readonly type: 'timing/at-end'; readonly atEnd: Doc['timing']['atEnd'] }
  | { readonly type: 'picture/set'; readonly picture: Partial<Doc['picture']> }
  | { readonly type: 'poster/picture'; readonly picture: Doc['poster']['picture'] }
  | { readonly type: 'poster/avif'; readonly enabled: boolean }
  | {
      readonly type: 'poster/max-bytes'
      readonly screenClass: keyof Doc['poster']['maxBytes']
      readonly bytes: number
    }
  | {
      readonly type: 'copy/write'
      readonly field: 'brand' | 'heading' | 'body' | 'color' | 'buttonColor'
      readonly value: string
    }
  | { readonly type: 'copy/link'; readonly index: number; readonly value: string }
  | { readonly type: 'copy/links'; readonly links: readonly string[] }
  | { readonly type: 'copy/button'; readonly button: Partial<Doc['copy']['button']> }
  | { readonly type: 'scrim/set'; readonly scrim: Partial<Doc['scrim']> }
  | { readonly type: 'fit/height'; readonly height: Doc['fit']['height'] }
  | { readonly type: 'fit/focal'; readonly focal: Doc['fit']['focal'] }
  | { readonly type: 'behaviour/set'; readonly behaviour: Partial<Doc['behaviour']> }
  | {
      readonly type: 'weight/row'
      readonly screenClass: ScreenClass
      readonly row: Partial<Omit<RenditionSettings, 'formats' | 'locked'>>
    }
  | {
      readonly type: 'weight/format'
      readonly screenClass: ScreenClass
      readonly format: keyof RenditionSettings['formats']
      readonly enabled: boolean
    }
  | { readonly type: 'weight/lock'; readonly screenClass: ScreenClass; readonly locked: boolean }
  | {
      readonly type: 'weight/renditions'
      readonly rows: Readonly<Record<ScreenClass, Partial<RenditionSettings>>>
    }
  | {
      readonly type: 'weight/set'
      readonly weight: Partial<
        Pick<Doc['weight'], 'goal' | 'targetSsim' | 'noiseReduction' | 'breakpoints'>
      >
    }

/** The document after an action; the same object when nothing changes. */
export function reduce(document: Doc, action: BackdropAction): Doc {
  switch (action.type) {
    case 'material/swap':
      return action.sourceId === document.material.sourceId
        ? document
        : swapMaterial(document, action.sourceId, action.facts)
    case 'timing/cut':
      return patch(document, 'timing', { cut: action.cut })
    case 'timing/speed':
      return patch(document, 'timing', { speed: action.speed })
    case 'timing/repeat':
      return patch(document, 'timing', { repeat: action.repeat })
    case 'timing/frame-rate':
      return patch(document, 'timing', { frameRate: action.frameRate })
    case 'timing/seam':
      return patch(document, 'timing', { seam: { ...document.timing.seam, ...action.seam } })
    case 'timing/found-loop':
      // A found loop needs no blend: it would only blur the seam.
      return patch(document, 'timing', {
        cut: action.cut,
        repeat: 'loop',
        seam: { ...document.timing.seam, kind: 'straight' },
      })
    case 'timing/blend-frames':
      return patch(document, 'timing', { blendFrames: action.enabled })
    case 'timing/at-end':
      return patch(document, 'timing', { atEnd: action.atEnd })
    case 'picture/set':
      return patch(document, 'picture', action.picture)
    case 'poster/picture':
      return patch(document, 'poster', { picture: action.picture })
    case 'poster/avif':
      return patch(document, 'poster', { avif: action.enabled })
    case 'poster/max-bytes':
      return patch(document, 'poster', {
        maxBytes: { ...document.poster.maxBytes, [action.screenClass]: action.bytes },
      })
    case 'copy/write':
      return patch(document, 'copy', { [action.field]: action.value })
    case 'copy/link':
      return patch(document, 'copy', {
        links: document.copy.links.map((link, index) =>
          index === action.index ? action.value : link,
        ),
      })
    case 'copy/links':
      return patch(document, 'copy', { links: [...action.links] })
    case 'copy/button':
      return patch(document, 'copy', { button: { ...document.copy.button, ...action.button } })
    case 'scrim/set':
      return patch(document, 'scrim', action.scrim)
    case 'fit/height':
      return patch(document, 'fit', { height: action.height })
    case 'fit/focal':
      return patch(document, 'fit', { focal: action.focal })
    case 'behaviour/set':
      return patch(document, 'behaviour', action.behaviour)
    case 'weight/row':
      return document.weight.renditions[action.screenClass].locked
        ? document
        : patchRow(document, action.screenClass, action.row)
    case 'weight/format': {
      const row = document.weight.renditions[action.screenClass]
      return row.locked
        ? document
        : patchRow(document, action.screenClass, {
            formats: { ...row.formats, [action.format]: action.enabled },
          })
    }
    case 'weight/lock':
      return patchRow(document, action.screenClass, { locked: action.locked })
    case 'weight/renditions':
      return SCREEN_CLASSES.reduce(
        (changed, each) =>
          changed.weight.renditions[each].locked
            ? changed
            : patchRow(changed, each, action.rows[each]),
        document,
      )
    case 'weight/set':
      return patch(document, 'weight', action.weight)
    default:
      return assertNever(action)
  }
}

/** What the action is called in the list of undo steps. */
export function labelOf(action: BackdropAction): string {
  switch (action.type) {
    case 'material/swap':
      return 'swap the clip'
    case 'timing/cut':
      return 'cut'
    case 'timing/speed':
      return 'speed'
    case 'timing/repeat':
      return 'loop or once'
    case 'timing/frame-rate':
      return 'frame rate'
    case 'timing/seam':
      return 'seam'
    case 'timing/found-loop':
      return 'take a found loop'
    case 'timing/blend-frames':
      return 'frame blending'
    case 'timing/at-end':
      return 'how it ends'
    case 'picture/set':
      return 'crop and turn'
    case 'poster/picture':
      return 'poster'
    case 'poster/avif':
      return 'poster formats'
    case 'poster/max-bytes':
      return 'poster size limit'
    case 'copy/write':
      return action.field === 'color' || action.field === 'buttonColor'
        ? 'copy colour'
        : action.field === 'body'
          ? 'text'
          : action.field
    case 'copy/link':
    case 'copy/links':
      return 'header links'
    case 'copy/button':
      return 'button'
    case 'scrim/set':
      return 'scrim'
    case 'fit/height':
      return 'region height'
    case 'fit/focal':
      return 'focal point'
    case 'behaviour/set':
      return 'behaviour'
    case 'weight/row':
      return action.row.budgetBytes !== undefined
        ? 'byte budget'
        : action.row.soften !== undefined
          ? 'blur behind the copy'
          : action.row.enabled !== undefined
            ? 'files for a screen'
            : 'files of a screen'
    case 'weight/format':
      return 'formats'
    case 'weight/lock':
      return action.locked ? 'lock a row' : 'unlock a row'
    case 'weight/renditions':
      return 'suggested renditions'
    case 'weight/set':
      return 'weight'
    default:
      return assertNever(action)
  }
}

/**
 * A document with some fields of one section replaced; the same document when all of them were
 * equal already.
 */
function patch<
  S extends 'timing' | 'picture' | 'poster' | 'copy' | 'scrim' | 'fit' | 'behaviour' | 'weight',
>(document: Doc, section: S, fields: Partial<Doc[S]>): Doc {
  const before = document[section] as Record<string, unknown>
  const changed = Object.entries(fields).some(
    ([name, value]) => JSON.stringify(before[name]) !== JSON.stringify(value),
  )
  return changed ? { ...document, [section]: { ...before, ...fields } } : document
}

/**
 * Renditions with one row changed; unchanged if a screen would have no formats, or if no file plays
 * in every browser.
 */
function patchRow(
  document: Doc,
  screenClass: ScreenClass,
  fields: Partial<RenditionSettings>,
): Doc {
  const { renditions: rows } = document.weight
  const row = { ...rows[screenClass], ...fields }
  const next = { ...rows, [screenClass]: row }
  const playable =
    Object.values(row.formats).includes(true) &&
    SCREEN_CLASSES.some((each) => next[each].enabled && next[each].formats.h264)
  return playable ? patch(document, 'weight', { renditions: next }) : document
}

/**
 * Keeps the cut in seconds if the new clip is long enough, and takes the new clip's own frame rate.
 * Decisions that depend on the former picture are dropped.
 */
function swapMaterial(document: Doc, sourceId: string, facts: MediaFacts): Doc {
  const { timescale, durationTicks } = facts.video
  const scale = timescale / document.timing.cut.timescale
  const end = Math.min(durationTicks, Math.round(document.timing.cut.end * scale))
  const start = Math.round(document.timing.cut.start * scale)
  const cut =
    end - start >= timescale / 2
      ? { timescale, start, end }
      : { timescale, start: 0, end: Math.min(durationTicks, timescale * 10) }
  const poster =
    document.poster.picture.kind === 'frame'
      ? { ...document.poster, picture: FIRST_DECISIONS.poster.picture }
      : document.poster
  return {
    ...document,
    material: { sourceId, frameRate: facts.video.frameRate },
    picture: FIRST_DECISIONS.picture,
    poster,
    timing: { ...document.timing, cut, frameRate: defaultOutputRate(sourceFps(facts.video)) },
  }
}
