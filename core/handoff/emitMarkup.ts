import { isRightToLeft } from '../copy/isRightToLeft'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { isMoving } from '../backdrop/delivered'
import { wordsOf } from '../kinds'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import type { CopyLink, CopyParts } from '../copy/copyParts'
import type { Words } from '../copy/Words'
import { attributes, escapeHtml } from './html'
import { layersOf } from './layers'

/** The backdrop itself: its layers, hidden from assistive technology. */
export function emitBackdrop(document: BackdropDocument, media: DeliveredMedia): string {
  const { behaviour } = document
  const layers = layersOf(document, media)
  const root = attributes({
    class: 'tln-backdrop',
    'aria-hidden': 'true',
    'data-tln-reduced-motion': behaviour.reducedMotion,
    'data-tln-data-saver': behaviour.dataSaver,
    ...Object.assign({}, ...layers.map((layer) => layer.attributes(document))),
  })
  return [
    `<div${root}>`,
    ...layers.flatMap((layer) => layer.markup(document)).map(indent(1)),
    `</div>`,
  ].join('\n')
}

const indent =
  (levels: number) =>
  (line: string): string =>
    `${'  '.repeat(levels)}${line}`

/**
 * The heading, text and button that stand in front, line by line; those of slides lie upon one
 * another. What is empty is left out, unless it is to be written in.
 */
export function emitCopy({ base, copy, handoff }: BackdropDocument, isOpen = false): string[] {
  const { headingLevel } = handoff
  const turns = wordsOf(base)
  const { rule } = copy
  if (turns.length === 0) return emitWords(copy, headingLevel, isOpen)
  return [
    '<div class="tln-texts">',
    ...turns.flatMap(({ words, slides }, index) => [
      `  <div${attributes({ class: 'tln-text', 'data-tln-slides': slides.join(' ') })}>`,
      // The first is the page's own heading, the others belong to it.
      ...emitWords(
        words ? { more: [], second: null, rule, ...words } : copy,
        Math.min(6, headingLevel + (index > 0 ? 1 : 0)),
        isOpen,
      ).map(indent(2)),
      '  </div>',
    ]),
    '</div>',
  ]
}

function emitWords(
  {
    heading,
    body,
    button,
    rule,
    more,
    second,
  }: Words & Pick<CopyParts, 'rule' | 'more' | 'second'>,
  level: number,
  isOpen: boolean,
): string[] {
  const element = (name: string, given: string, text: string): string[] =>
    text || isOpen ? [`<${name}${given}>${escapeHtml(text)}</${name}>`] : []
  const link = (name: string, { label, href }: CopyLink): string[] =>
    element('a', attributes({ class: name, href: href || '#' }), label)
  const buttons = [
    ...link('tln-button', button),
    ...(second ? link('tln-button tln-second', second) : []),
  ]
  return [
    ...element(`h${level}`, attributes({ class: 'tln-heading' }), heading),
    ...(rule ? ['<div class="tln-rule" aria-hidden="true"></div>'] : []),
    ...[body, ...more].flatMap((text) => element('p', attributes({ class: 'tln-body' }), text)),
    ...(buttons.length > 1
      ? ['<div class="tln-buttons">', ...buttons.map(indent(1)), '</div>']
      : buttons),
  ]
}

/** What stands at the region's end: a link to what follows it, and a line. */
function emitEnd({ copy: { onward, footer } }: BackdropDocument, isOpen: boolean): string[] {
  const inner = [
    ...(onward && (onward.label || isOpen)
      ? [
          `<a${attributes({ class: 'tln-onward', href: onward.href || '#' })}>${escapeHtml(onward.label)}</a>`,
        ]
      : []),
    ...(footer !== null && (footer || isOpen)
      ? [`<p class="tln-footer">${escapeHtml(footer)}</p>`]
      : []),
  ]
  return inner.length > 0 ? ['<footer class="tln-end">', ...inner.map(indent(1)), '</footer>'] : []
}

/** The pause control: hidden until the script has something to pause. */
function emitPause(document: BackdropDocument): string[] {
  const { behaviour, handoff } = document
  if (!behaviour.pauseControl || !isMoving(document)) return []
  return [
    `<button${attributes({
      class: 'tln-pause',
      type: 'button',
      hidden: true,
      'aria-label': handoff.pauseLabel,
      'data-tln-pause-label': handoff.pauseLabel,
      'data-tln-play-label': handoff.playLabel,
    })}></button>`,
  ]
}

/** A page's header with its links: for the demonstration page and the stage. */
function emitHeader({ copy }: BackdropDocument): string[] {
  const links = copy.links.map((link) => `    <a class="tln-link" href="#">${escapeHtml(link)}</a>`)
  return [
    `<header class="tln-header${copy.solidHeader ? ' tln-solid' : ''}">`,
    `  <span class="tln-brand">${escapeHtml(copy.brand)}</span>`,
    '  <nav class="tln-links" aria-label="Main">',
    ...links,
    '  </nav>',
    '</header>',
  ]
}

/**
 * The forms of the markup: the whole first screen of a page with its header (the demonstration
 * page), the same with room for words where there are none (the stage), a region with copy to
 * paste, and the backdrop alone, to stand behind what a site already has.
 */
export type MarkupForm = 'page' | 'stage' | PastedForm
/** The forms that a site pastes. */
export type PastedForm = 'fragment' | 'alone'

/** The attributes that tell the language of the copy, and its direction where that is unusual. */
export function languageOf({ handoff: { lang } }: BackdropDocument): string {
  return attributes({ lang, dir: isRightToLeft(lang) ? 'rtl' : null })
}

/** The markup of a region in one of its forms, by the id of its backdrop. */
export function emitRegion(
  id: string,
  document: BackdropDocument,
  media: DeliveredMedia,
  form: MarkupForm,
): string {
  const backdrop = emitBackdrop(document, media).split('\n')
  const copy = emitCopy(document, form === 'stage')
  const end = emitEnd(document, form === 'stage')
  const controls = layersOf(document, media).flatMap((layer) => layer.controls(document))
  const pause = [...controls, ...emitPause(document)]
  // On a page of its own header and copy are landmarks, and the control lies within one.
  const page = [
    ...backdrop,
    ...emitHeader(document),
    '<main class="tln-copy">',
    ...[...copy, ...pause].map(indent(1)),
    '</main>',
    ...end,
  ]
  const parts: Record<MarkupForm, string[]> = {
    page,
    stage: page,
    fragment: [
      ...backdrop,
      '<div class="tln-copy">',
      ...copy.map(indent(1)),
      '</div>',
      ...end,
      ...pause,
    ],
    alone: [...backdrop, ...pause],
  }
  const region = attributes({
    class: [
      'tln-region',
      ...(form === 'alone' ? ['tln-behind'] : []),
      ...(document.fit.scope === 'page' ? ['tln-page'] : []),
    ].join(' '),
    'data-tln': id,
  })
  const element = form === 'fragment' ? 'section' : 'div'
  return [
    `<${element}${region}${languageOf(document)}>`,
    ...parts[form].map(indent(1)),
    `</${element}>`,
  ].join('\n')
}
