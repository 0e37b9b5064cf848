import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { FIRST_TYPE, LETTER_EM, type CopyParts, type CopyType } from '../copy/copyParts'
import { familyCss } from '../brand/Brand'
import { inkOn } from '../copy/inkOn'
import { FIRST_PLACE, isSamePlace, type CopyPlace } from '../copy/copyPlace'
import { FOCAL_CLASSES } from '../fit/focal'
import { groundOf, picturesOf } from '../backdrop/delivered'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import { focalWindows, positionText } from './focalCss'
import { letterRules } from './lettersCss'
import { layersOf } from './layers'
import { toneRules } from './toneCss'
import { HANDOFF_VERSION } from './version'

/** What selects a backdrop's own values, and how a site selects them to set others. */
/** Behind a base that leaves some of the region free, where no scrim has a colour. */
const FIRST_GROUND = '#14101c'

const own = (id: string): string => `[data-tln="${id}"]`

const banner = (id: string): string =>
  `/*! Telon backdrop ${HANDOFF_VERSION} | ${id} | MIT licence */`

/**
 * The rules that all backdrops share, before those of their layers. Each has at least two classes
 * and first takes back what the host's own rules would do (`all: revert`), so it survives a host's
 * rules for elements and those with one class; none selects anything outside a region.
 */
const REGION_RULES = `.tln-region.tln-region {
  all: revert;
  position: relative;
  isolation: isolate;
  box-sizing: border-box;
  display: flex;
  flex-direction: column;
  align-self: stretch;
  justify-self: stretch;
  width: 100%;
  min-width: 0;
  min-height: var(--tln-height);
  background: var(--tln-background-color);
}
.tln-region.tln-region::before, .tln-region.tln-region::after, .tln-region .tln-pause::after { content: none; }
.tln-region.tln-region:focus { outline: none; }
.tln-host.tln-host { position: relative; isolation: isolate; }
.tln-region.tln-behind {
  position: absolute;
  inset: 0;
  isolation: auto;
  width: auto;
  min-height: 0;
  background: none;
  pointer-events: none;
}
.tln-region .tln-backdrop {
  all: revert;
  position: absolute;
  inset: 0;
  overflow: hidden;
  z-index: -1;
  pointer-events: none;
  background: var(--tln-average-color, var(--tln-background-color)) var(--tln-placeholder, none) var(--tln-focal-point) / cover no-repeat;
}
.tln-page.tln-region > .tln-backdrop { position: fixed; }
`

/** The rules of the pause control. */
const PAUSE_RULES = `.tln-region .tln-pause {
  all: revert;
  box-sizing: border-box;
  position: absolute;
  z-index: 1;
  inset-inline-end: var(--tln-pause-inset);
  bottom: var(--tln-pause-inset);
  display: grid;
  place-items: center;
  width: var(--tln-pause-size);
  height: var(--tln-pause-size);
  padding: 0;
  border: 1px solid transparent;
  border-radius: 50%;
  color: #fff;
  background: rgb(0 0 0 / 0.55);
  cursor: pointer;
  pointer-events: auto;
}
.tln-region .tln-pause[hidden] { display: none; }
.tln-region .tln-pause:focus-visible { outline: 3px solid #fff; outline-offset: 0; box-shadow: 0 0 0 6px #000; }
.tln-region .tln-pause::before {
  all: revert;
  content: "";
  width: 34%;
  height: 34%;
  background: currentColor;
  clip-path: polygon(0 0, 35% 0, 35% 100%, 65% 100%, 65% 0, 100% 0, 100% 100%, 0 100%);
}
.tln-region .tln-paused::before { clip-path: polygon(12% 0, 100% 50%, 12% 100%); }
@media (forced-colors: active) {
  .tln-region .tln-pause::before { forced-color-adjust: none; background: ButtonText; }
}
`

/**
 * The style of a backdrop: its own values under its id, and the shared rules. `100svh` is preceded
 * by `100vh` for browsers that do not know it. The placeholder is shown until the poster has
 * loaded.
 */
export function emitBackdropStyle(
  id: string,
  document: BackdropDocument,
  media: DeliveredMedia,
): string {
  const { fit } = document
  const ground = groundOf(document)
  const placeholder = ground.placeholder ? media.placeholder : null
  const layers = layersOf(document, media)
  const height = `${fit.height.value}${fit.height.unit}`
  const values = {
    height: fit.height.unit === 'svh' ? `${fit.height.value}vh` : height,
    'focal-point': positionText(fit.focal),
    ...(Object.assign({}, ...layers.map((layer) => layer.values(document))) as object),
    'background-color': ground.color ?? document.scrim.layers[0]?.stops[0]!.color ?? FIRST_GROUND,
    'pause-size': '44px',
    'pause-inset': '16px',
    ...(placeholder && {
      'average-color': placeholder.colour,
      placeholder: `url("${placeholder.dataUrl}")`,
    }),
  }
  // A type of layer may be there several times; its rules are not.
  const once = (rules: readonly string[]): string => [...new Set(rules)].join('')
  return [
    banner(id),
    `${own(id)} {`,
    ...Object.entries(values).map(([name, value]) => `  --tln-${name}: ${value};`),
    '}',
    ...(fit.height.unit === 'svh'
      ? [`@supports (height: 1svh) { ${own(id)} { --tln-height: ${height}; } }`]
      : []),
    ...(picturesOf(document)?.placed ? focalRules(id, document) : []),
    ...layers.flatMap((layer) => layer.ownRules({ own: own(id), id }, document)),
    ...toneRules(own(id), document),
    `${REGION_RULES}${once(layers.map(({ rules }) => rules))}${PAUSE_RULES}@media print {
  .tln-region .tln-pause { display: none; }
${once(layers.map(({ printRules }) => printRules))}}
`,
  ].join('\n')
}

/** Focal points of narrower screens, where they have their own. */
function focalRules(id: string, { fit, weight }: BackdropDocument): string[] {
  const windows = focalWindows(weight.breakpoints)
  return FOCAL_CLASSES.flatMap((each) => {
    const point = fit.ownFocal[each]
    return point
      ? [`@media ${windows[each]} { ${own(id)} { --tln-focal-point: ${positionText(point)}; } }`]
      : []
  })
}

/**
 * The style of the copy in the fragment, scoped to it: colours and sizes are the document's, the
 * typeface is the site's. Sizes are relative to the site's own text (`em`): a site that makes 10 px
 * its root size gets no tiny heading.
 */
export function emitCopyStyle(
  id: string,
  document: BackdropDocument,
  media: DeliveredMedia,
): string {
  const { copy } = document
  const layers = layersOf(document, media)
  const inTurn = layers.flatMap((layer) => layer.wordRules({ own: own(id), id }, document))
  const hasControls = layers.some((layer) => layer.controls(document).length > 0)
  return `${banner(id)}
${own(id)} {
  --tln-copy-color: ${copy.color};
  --tln-button-color: ${copy.buttonColor};
  --tln-button-text-color: ${inkOn(copy.buttonColor)};
${stateValues(copy)}}
.tln-region .tln-copy {
  all: revert;
  box-sizing: border-box;
  max-width: 52em;
  margin: auto 0;
  padding: 2em clamp(1.25em, 5vw, 5em) 4.5em;
  color: var(--tln-copy-color);
}
.tln-region .tln-heading {
  all: revert;
  margin: 0 0 0.22em;
  color: inherit;
  font-size: clamp(2.2em, 5.6vw, 4.5em);
  font-weight: 700;
  line-height: 1.05;
  letter-spacing: -0.02em;
  text-wrap: balance;
}
.tln-region .tln-body { all: revert; max-width: 28.33em; margin: 0 0 1.46em; color: inherit; font-size: 1.2em; line-height: 1.5; }
.tln-region .tln-button {
  all: revert;
  display: inline-block;
  padding: 0.86em 1.43em;
  color: var(--tln-button-text-color);
  background: var(--tln-button-color);
  font-size: 1.05em;
  font-weight: 650;
  text-decoration: none;
}
.tln-region .tln-button:focus-visible { outline: 3px solid var(--tln-copy-color); outline-offset: 3px; }
.tln-region .tln-button::before, .tln-region .tln-button::after { content: none; }
${stateRules(id, copy)}${placeRules(id, document)}${typeRules(id, copy.type)}${letterRules(own(id), copy.letters)}${partRules(id, copy, hasControls)}${inTurn.map((rule) => `${rule}\n`).join('')}@media (forced-colors: active) {
  .tln-region .tln-button { border: 1px solid; }
}
@media print {
  .tln-region.tln-region:not(.tln-behind) { min-height: 0; }
  .tln-region:not(.tln-behind) > .tln-backdrop { display: none; }
  .tln-region .tln-copy, .tln-region .tln-button { color: #000; background: none; }
  .tln-region .tln-button { border: 1px solid; }
}
`
}

type Copy = BackdropDocument['copy']

/** Colours of the button under the pointer and of the ring around it; nothing without own ones. */
const stateValues = ({ buttonStates }: Copy): string =>
  buttonStates
    ? `  --tln-button-hover-color: ${buttonStates.hover};
  --tln-button-hover-text-color: ${inkOn(buttonStates.hover)};
  --tln-button-focus-color: ${buttonStates.focus};
`
    : ''

/** Only outlined buttons stay as they are under the pointer. */
const stateRules = (id: string, { buttonStates }: Copy): string =>
  buttonStates
    ? `.tln-region${own(id)} .tln-button:not(.tln-second):hover { color: var(--tln-button-hover-text-color); background: var(--tln-button-hover-color); }
.tln-region${own(id)} .tln-button:focus-visible { outline-color: var(--tln-button-focus-color); }
`
    : ''

const MARGINS = { top: '0 0 auto', middle: 'auto 0', bottom: 'auto 0 0' } as const
const INSETS = { start: '0', center: 'auto', end: 'auto 0' } as const

/** Where copy stands and how its lines are aligned; nothing for the usual place. */
function placeRule(id: string, place: CopyPlace, usual: CopyPlace, hasPlates: boolean): string {
  const { across, down, align } = place
  if (isSamePlace(place, usual) && align === usual.align) return ''
  const { start, ...others } = { start: 'flex-start', center: 'center', end: 'flex-end' } as const
  // Only as wide as its words where lines are not aligned to the edge that it stands at.
  const self = across !== 'start' ? others[across] : align === 'start' ? 'stretch' : start
  return `.tln-region${own(id)} .tln-copy { align-self: ${self}; margin: ${MARGINS[down]}; text-align: ${align}; }
.tln-region${own(id)} ${hasPlates ? ':is(.tln-heading, .tln-body)' : '.tln-body'} { margin-inline: ${INSETS[align]}; }
`
}

/** The same for all screens, and for narrower ones where they differ. */
function placeRules(id: string, { copy: { places, letters }, weight }: BackdropDocument): string {
  const windows = focalWindows(weight.breakpoints)
  // Plates are as wide as their words, wherever those stand.
  const hasPlates = letters?.around === 'plate'
  const narrower = FOCAL_CLASSES.map((each) => {
    const rule = placeRule(id, places[each], places.wide, hasPlates)
    return rule && `@media ${windows[each]} {\n${rule}}\n`
  })
  return [placeRule(id, places.wide, FIRST_PLACE, hasPlates), ...narrower].join('')
}

/** How copy is set where that differs from the usual. */
function typeRules(id: string, type: CopyType): string {
  const rule = (element: string, values: readonly (string | false)[]): string => {
    const written = values.filter((value) => value !== false)
    return written.length > 0
      ? `.tln-region${own(id)} .tln-${element} { ${written.join(' ')} }\n`
      : ''
  }
  const { headingSize, headingWeight, bodySize, bodyWeight, lineLetters } = type
  const family = (list: string | null): string | false =>
    list !== null && `font-family: ${familyCss(list)};`
  const em = (value: number): string => `${Number(value.toFixed(3))}em`
  return [
    rule('heading', [
      family(type.headingFamily),
      headingSize !== FIRST_TYPE.headingSize &&
        `font-size: clamp(${em(2.2 * headingSize)}, ${Number((5.6 * headingSize).toFixed(3))}vw, ${em(4.5 * headingSize)});`,
      headingWeight !== FIRST_TYPE.headingWeight && `font-weight: ${headingWeight};`,
    ]),
    rule('body', [
      family(type.bodyFamily),
      bodySize !== FIRST_TYPE.bodySize && `font-size: ${em(1.2 * bodySize)};`,
      bodyWeight !== FIRST_TYPE.bodyWeight && `font-weight: ${bodyWeight};`,
      lineLetters !== FIRST_TYPE.lineLetters && `max-width: ${em(lineLetters * LETTER_EM)};`,
    ]),
  ].join('')
}

/** Rules of the parts that a copy has; none for those that it does not have. */
function partRules(
  id: string,
  { rule, second, onward, footer }: CopyParts,
  hasControls: boolean,
): string {
  const hasEnd = onward !== null || footer !== null
  // Beside the pause control, and above the controls of slides.
  const room = 'calc(var(--tln-pause-size) + 2 * var(--tln-pause-inset))'
  return [
    rule &&
      `.tln-region .tln-rule { all: revert; display: inline-block; width: 4.5em; margin: 0.3em 0 1.1em; border-top: 2px solid var(--tln-copy-color); }
`,
    second &&
      `.tln-region .tln-buttons { all: revert; margin: -0.3em; }
.tln-region .tln-buttons .tln-button { margin: 0.3em; }
.tln-region .tln-button.tln-second { color: var(--tln-copy-color); background: none; box-shadow: inset 0 0 0 2px; }
`,
    hasEnd &&
      `.tln-region${own(id)} .tln-end { all: revert; padding: 0 ${room} ${hasControls ? room : '1.25em'}; color: var(--tln-copy-color); text-align: center; }
`,
    onward &&
      `.tln-region .tln-onward { all: revert; display: inline-block; padding: 0.5em 1em; color: inherit; text-decoration: none; }
.tln-region .tln-onward::after { all: revert; content: ""; display: block; width: 0.6em; height: 0.6em; margin: 0.1em auto 0; border: solid; border-width: 0 2px 2px 0; transform: rotate(45deg); }
.tln-region .tln-onward:focus-visible { outline: 3px solid var(--tln-copy-color); }
`,
    footer !== null &&
      `.tln-region .tln-footer { all: revert; margin: 0.6em 0 0; color: inherit; font-size: 0.95em; line-height: 1.5; }
`,
    (rule || second || hasEnd) &&
      `@media print { .tln-region${own(id)} :is(.tln-rule, .tln-end, .tln-second.tln-second) { color: #000; border-color: #000; box-shadow: none; } }
`,
  ]
    .filter((text) => typeof text === 'string')
    .join('')
}

/** What only the demonstration page and the stage have: a page around, and a header in front. */
export function emitPageStyle({ copy: { solidHeader } }: BackdropDocument): string {
  return `* { box-sizing: border-box; }
body { margin: 0; font-family: system-ui, sans-serif; color: #26221c; background: #fff; }
.tln-header { display: flex; flex-wrap: wrap; gap: 0.5rem 2rem; align-items: baseline; justify-content: space-between; padding: 1.75rem clamp(1.25rem, 5vw, 5rem); color: var(--tln-copy-color); }
.tln-brand { font-weight: 700; letter-spacing: 0.08em; text-transform: uppercase; font-size: 1.15rem; }
.tln-links { display: flex; flex-wrap: wrap; gap: 0.25rem 1.75rem; }
.tln-link { color: inherit; text-decoration: none; }
.tln-link:hover, .tln-link:focus-visible { text-decoration: underline; }
.tln-after { padding: 3rem clamp(1.25rem, 5vw, 5rem); line-height: 1.6; max-width: 46rem; }
@media print { .tln-header { color: #000; } }
${solidHeader ? solidRules(solidHeader.color) : ''}`
}

/**
 * A header that stays, and gets a ground of its own when the page has been scrolled a little: at
 * once, since half-way its words would not be readable. Where the style cannot follow the scroll
 * position it leaves with its region.
 */
function solidRules(color: string): string {
  return `.tln-solid { position: absolute; inset: 0 0 auto; z-index: 2; }
.tln-region.tln-region:has(> .tln-solid) { padding-top: 5rem; }
@media (max-width: 40em) { .tln-region.tln-region:has(> .tln-solid) { padding-top: 7.25rem; } }
@keyframes tln-solid { to { color: ${inkOn(color)}; background: ${color}; } }
@supports (animation-timeline: scroll()) {
  .tln-solid { position: fixed; animation: tln-solid step-end both; animation-timeline: scroll(root); animation-range: 0 80px; }
}
@media print { .tln-solid { position: static; animation: none; } }
`
}
