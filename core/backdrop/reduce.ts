import type { CopyParts, CopyType } from '../copy/copyParts'
import type { CopyPlace } from '../copy/copyPlace'
import type { FocalClass } from '../fit/focal'
import { SCREEN_CLASSES, type ScreenClass } from '../fit/screens'
import { kindOf, labelOfBase, reduceBase, type Base, type BaseAction } from '../kinds'
import { patched } from '../patched'
import type { Definition } from '../particles/Definition'
import type { Particles } from '../particles/Particles'
import { FIRST_DECISIONS, type BackdropDocument, type RenditionSettings } from './BackdropDocument'

type Doc = BackdropDocument

/** Every change of a backdrop. Values are already valid: interface and server check them. */
export type BackdropAction =
  | BaseAction
  /** Another base: shared decisions stay, those of the old one are in the history. */
  | { readonly type: 'base/set'; readonly base: Base }
  /** A style or a definition of one's own; null takes them away. */
  | { readonly type: 'particles/set'; readonly particles: Doc['particles'] }
  | { readonly type: 'particles/define'; readonly definition: Partial<Definition> }
  | {
      readonly type: 'particles/show'
      readonly show: Partial<Pick<Particles, 'frameRate' | 'follows' | 'form'>>
    }
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
  | {
      readonly type: 'copy/place'
      readonly screens: readonly ScreenClass[]
      readonly place: Partial<CopyPlace>
    }
  | { readonly type: 'copy/type'; readonly set: Partial<CopyType> }
  | { readonly type: 'copy/parts'; readonly parts: Partial<Omit<CopyParts, 'type'>> }
  | { readonly type: 'copy/button'; readonly button: Partial<Doc['copy']['button']> }
  | {
      readonly type: 'copy/button-colors'
      readonly color: string
      readonly states: Doc['copy']['buttonStates']
    }
  | { readonly type: 'tone/set'; readonly tone: Partial<Doc['tone']> }
  | { readonly type: 'scrim/set'; readonly scrim: Partial<Doc['scrim']> }
  /** The scrim of phone windows; null gives them the shared one again. */
  | { readonly type: 'scrim/own'; readonly scrim: Doc['scrim'] | null }
  | { readonly type: 'fit/height'; readonly height: Doc['fit']['height'] }
  /** For all screens, or for those of a class; null gives it the shared one again. */
  | {
      readonly type: 'fit/focal'
      readonly focal: Doc['fit']['focal']
      readonly screenClass?: undefined
    }
  | {
      readonly type: 'fit/focal'
      readonly focal: Doc['fit']['focal'] | null
      readonly screenClass: FocalClass
    }
  | { readonly type: 'fit/place'; readonly place: Doc['fit']['place'] }
  | { readonly type: 'handoff/set'; readonly handoff: Partial<Doc['handoff']> }
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
        Pick<Doc['weight'], 'goal' | 'targetSsim' | 'noiseReduction' | 'breakpoints' | 'encoders'>
      >
    }

/** The document after an action; the same object when nothing changes. */
export function reduce(document: Doc, action: BackdropAction): Doc {
  switch (action.type) {
    case 'base/set':
      return withBase(document, action.base)
    case 'particles/set':
      return JSON.stringify(action.particles) === JSON.stringify(document.particles)
        ? document
        : { ...document, particles: action.particles }
    case 'particles/define':
      return document.particles
        ? patched(document, 'particles', {
            definition: { ...document.particles.definition, ...action.definition },
          })
        : document
    case 'particles/show':
      return document.particles ? patched(document, 'particles', action.show) : document
    case 'poster/picture':
      return patched(document, 'poster', { picture: action.picture })
    case 'poster/avif':
      return patched(document, 'poster', { avif: action.enabled })
    case 'poster/max-bytes':
      return patched(document, 'poster', {
        maxBytes: { ...document.poster.maxBytes, [action.screenClass]: action.bytes },
      })
    case 'copy/write':
      return patched(document, 'copy', { [action.field]: action.value })
    case 'copy/link':
      return patched(document, 'copy', {
        links: document.copy.links.map((link, index) =>
          index === action.index ? action.value : link,
        ),
      })
    case 'copy/links':
      return patched(document, 'copy', { links: [...action.links] })
    case 'copy/place': {
      const { places } = document.copy
      const moved = action.screens.map((each) => [each, { ...places[each], ...action.place }])
      return patched(document, 'copy', {
        places: { ...places, ...(Object.fromEntries(moved) as Partial<typeof places>) },
      })
    }
    case 'copy/type':
      return patched(document, 'copy', { type: { ...document.copy.type, ...action.set } })
    case 'copy/parts':
      return patched(document, 'copy', action.parts)
    case 'copy/button':
      return patched(document, 'copy', { button: { ...document.copy.button, ...action.button } })
    case 'copy/button-colors':
      return patched(document, 'copy', { buttonColor: action.color, buttonStates: action.states })
    case 'tone/set':
      return patched(document, 'tone', action.tone)
    case 'scrim/set':
      return patched(document, 'scrim', action.scrim)
    case 'scrim/own':
      return patched(document, 'ownScrim', { phone: action.scrim })
    case 'fit/height':
      return patched(document, 'fit', { height: action.height })
    case 'fit/focal':
      return patched(
        document,
        'fit',
        action.screenClass
          ? { ownFocal: { ...document.fit.ownFocal, [action.screenClass]: action.focal } }
          : { focal: action.focal },
      )
    case 'fit/place':
      return patched(document, 'fit', { place: action.place })
    case 'handoff/set':
      return patched(document, 'handoff', action.handoff)
    case 'behaviour/set':
      return patched(document, 'behaviour', action.behaviour)
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
      return patched(document, 'weight', action.weight)
    default:
      return withBase(document, reduceBase(document.base, action))
  }
}

/** What the parts of copy are called. */
const PART_WORDS: Readonly<Record<Exclude<keyof CopyParts, 'type'>, string>> = {
  letters: 'surroundings of letters',
  rule: 'rule',
  more: 'texts',
  second: 'second button',
  onward: 'link onward',
  footer: 'footer',
  solidHeader: 'header',
}

/** What the action is called in the list of undo steps. */
export function labelOf(action: BackdropAction): string {
  switch (action.type) {
    case 'base/set':
      return `base: ${action.base.kind}`
    case 'particles/set':
      return action.particles ? 'particles' : 'no particles'
    case 'particles/define':
      return `particles: ${[...new Set(Object.keys(action.definition).map(wordOf))].join(', ')}`
    case 'particles/show':
      return action.show.form
        ? `particles ${action.show.form}`
        : action.show.follows
          ? 'period of particles'
          : 'frame rate of particles'
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
    case 'copy/place':
      return 'place of the copy'
    case 'copy/type':
      return 'type of the copy'
    case 'copy/parts':
      return Object.keys(action.parts)
        .map((part) => PART_WORDS[part as keyof typeof PART_WORDS])
        .join(', ')
    case 'copy/button':
      return 'button'
    case 'copy/button-colors':
      return 'button colours'
    case 'tone/set':
      return 'tone of the picture'
    case 'scrim/set':
      return 'scrim'
    case 'scrim/own':
      return 'scrim of phones'
    case 'fit/height':
      return 'region height'
    case 'fit/focal':
      return action.screenClass ? `focal point (${action.screenClass})` : 'focal point'
    case 'fit/place':
      return 'place on the page'
    case 'handoff/set':
      return 'handoff'
    case 'behaviour/set':
      return 'behaviour'
    case 'weight/row':
      return action.row.budgetBytes !== undefined
        ? 'byte budget'
        : action.row.copyBlur !== undefined
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
      return action.weight.encoders ? 'encoders' : 'weight'
    default:
      return labelOfBase(action)
  }
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
  return playable ? patched(document, 'weight', { renditions: next }) : document
}

/** What a field of a definition is called in the list of undo steps. */
const wordOf = (field: string): string =>
  field === 'perMegapixel' || field === 'most' ? 'count' : field === 'seed' ? 'new seed' : field

/** A poster that shows a frame of the base returns to the first when the base's sources change. */
function withBase(document: Doc, base: Doc['base']): Doc {
  if (base === document.base) return document
  const sources = (of: Doc['base']): string => JSON.stringify(kindOf(of).sources(of))
  const { poster } = document
  const stale = poster.picture.kind === 'frame' && sources(base) !== sources(document.base)
  return {
    ...document,
    base,
    ...(stale && { poster: { ...poster, picture: FIRST_DECISIONS.poster.picture } }),
  }
}
