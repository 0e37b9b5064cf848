import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { FOCAL_CLASSES } from '../../fit/focal'
import type { SlidesLayer } from '../../kinds/Layer'
import type { DeliveredPoster } from '../../kinds/DeliveredMedia'
import { cycleOf } from '../../kinds/slideshow/cycle'
import {
  calmTimings,
  cycleOrder,
  hasControls,
  isCycling,
  panOf,
  timingsOf,
  transitionOf,
  wordsInTurn,
  type Slide,
  type Slideshow,
} from '../../kinds/slideshow/Slideshow'
import type { Transition } from '../../kinds/slideshow/transition'
import { cssNumber } from '../cssNumber'
import { focalWindows, positionText } from '../focalCss'
import { attributes } from '../html'
import { tileRules } from './image'
import { Keyframes } from './Keyframes'
import type { LayerEmitter, OwnScope } from './LayerEmitter'
import { POSTER_RULES, pictureMarkup } from './picture'
import {
  cycledSlides,
  departure,
  entrance,
  LAID,
  maskOf,
  panned,
  PARKED,
  styleText,
  type CycledSlide,
  type Frame,
} from './slideFrames'
import { wordRules } from './slideWords'

/*
 * A slide is a box with a view in it, and its image in the view: box and view enter, the image is
 * panned. Without script the whole cycle is one animation of each slide. The script takes that away
 * and changes slides by classes, once the next image has been decoded: `tln-laid` (in place, not
 * yet seen), `tln-on` (seen), `tln-leave`; `data-tln-enter` names the entrance.
 */

/** The controls of a slideshow; each can be hit on 24 pixels at least. */
const CONTROL_RULES = `.tln-region .tln-controls {
  all: revert;
  position: absolute;
  z-index: 1;
  bottom: var(--tln-pause-inset);
  left: 0;
  right: 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: center;
  gap: 2px;
  margin: 0 calc(var(--tln-pause-size) + 2 * var(--tln-pause-inset));
  pointer-events: none;
}
.tln-region .tln-controls[hidden] { display: none; }
.tln-region .tln-bottom-left { justify-content: flex-start; margin-inline-start: var(--tln-pause-inset); }
.tln-region .tln-bottom-right { justify-content: flex-end; }
.tln-region .tln-controls .tln-go {
  all: revert;
  box-sizing: border-box;
  display: grid;
  place-items: center;
  width: 28px;
  height: 28px;
  padding: 0;
  border: 1px solid transparent;
  border-radius: 50%;
  color: #fff;
  background: rgb(0 0 0 / 0.55);
  cursor: pointer;
  pointer-events: auto;
}
.tln-region .tln-controls .tln-previous, .tln-region .tln-controls .tln-next {
  width: var(--tln-pause-size);
  height: var(--tln-pause-size);
}
.tln-region .tln-controls .tln-go::before {
  all: revert;
  content: "";
  width: 36%;
  height: 36%;
  border: 2px solid currentColor;
  border-radius: 50%;
  box-sizing: border-box;
}
.tln-region .tln-controls .tln-marker[aria-current]::before { background: currentColor; }
.tln-region .tln-controls .tln-previous::before, .tln-region .tln-controls .tln-next::before {
  border: 0;
  border-radius: 0;
  background: currentColor;
  clip-path: polygon(70% 0, 85% 15%, 50% 50%, 85% 85%, 70% 100%, 20% 50%);
}
.tln-region .tln-controls .tln-next::before { transform: scaleX(-1); }
.tln-region .tln-controls .tln-go:focus-visible { outline: 3px solid #fff; box-shadow: 0 0 0 6px #000; }
.tln-region .tln-controls .tln-status { all: revert; position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
@media (forced-colors: active) {
  .tln-region .tln-controls .tln-go::before { forced-color-adjust: none; color: ButtonText; }
  .tln-region .tln-controls .tln-marker[aria-current]::before { background: ButtonText; }
}
`

/** A slide at its place in the cycle. */
interface PlacedSlide {
  readonly slide: Slide
  /** Its place among the slides as given: its name in style and files. */
  readonly number: number
}

/** The slides in the order of the cycle; the first one again at the end. */
function placed(base: Slideshow): PlacedSlide[] {
  const numbers = cycleOrder(base)
  return [...numbers, numbers[0]!].map((number) => ({ slide: base.slides[number]!, number }))
}

/** The transitions of a slideshow, each once, in the order in which slides need them. */
function transitionsOf(base: Slideshow): string[] {
  return [...new Set(base.slides.map((slide) => JSON.stringify(transitionOf(base, slide))))]
}

const named = (base: Slideshow, slide: Slide): number =>
  transitionsOf(base).indexOf(JSON.stringify(transitionOf(base, slide)))

/** Images that follow one another. */
export const slides: LayerEmitter<SlidesLayer> = {
  markup({ slideshow: base, posters }, document) {
    const order = placed(base)
    return [
      `<div${attributes({ class: 'tln-slides', 'data-tln-order': base.order })}>`,
      ...order.flatMap(({ slide, number }, index) => {
        const seconds = timingsOf(base)[number]!
        const box = attributes({
          class: `tln-slide tln-slide-${number + 1}`,
          'data-tln-seconds': `${cssNumber(seconds.holdSeconds)} ${cssNumber(seconds.transitionSeconds)}`,
          'data-tln-leave': named(base, slide),
        })
        const picture =
          slide.placing === 'tile'
            ? []
            : pictureMarkup(ofSlide(posters, number), document, index > 0).map(
                (line) => `    ${line}`,
              )
        return [`  <div${box}><div class="tln-view">`, ...picture, '  </div></div>']
      }),
      '</div>',
    ]
  },
  ownRules(layer, scope, document) {
    const { slideshow: base } = layer
    const box = `.tln-region${scope.own} .tln-slides`
    const { phone } = document.weight.breakpoints
    return [
      ...slideRules(layer, scope, document),
      ...(hasControls(base) ? [CONTROL_RULES] : []),
      ...(isCycling(base) ? cycleRules(base, scope) : []),
      ...drivenRules(base, scope),
      ...(document.behaviour.phone === 'poster'
        ? [
            `@media (max-width: ${phone}px) { ${box} { --tln-cycle: none; } ${box} * { animation: none !important; } }`,
          ]
        : []),
    ]
  },
  rules: `.tln-region .tln-slides, .tln-region .tln-slide, .tln-region .tln-view {
  all: revert;
  position: absolute;
  inset: 0;
  overflow: hidden;
}
.tln-region .tln-slides { isolation: isolate; }
.tln-region .tln-slide + .tln-slide { ${styleText(PARKED)} }
${POSTER_RULES}.tln-region .tln-view .tln-poster { transform-origin: 0 0; }
${'.tln-region'.repeat(4)} .tln-driven * { animation: none; }
.tln-region .tln-driven .tln-laid { ${styleText(LAID)} }
.tln-region .tln-driven .tln-on { opacity: 1; transform: none; }
.tln-region .tln-driven [data-tln-enter] { z-index: 1; }
.tln-region .tln-slides.tln-held .tln-poster { animation-play-state: paused !important; }
@media (prefers-reduced-motion: reduce) {
  .tln-region [data-tln-reduced-motion="poster"] .tln-slides * { animation: none !important; }
}
@media (prefers-reduced-data: reduce) {
  .tln-region [data-tln-data-saver="poster"] .tln-slides * { animation: none !important; }
}
`,
  printRules:
    '  .tln-region .tln-slides * { animation: none !important; }\n  .tln-region .tln-controls { display: none; }\n',
  controls,
  wordRules: ({ slideshow: base }, scope, document) => wordRules(base, scope, document),
  files: ({ posters }) => posters.map(({ url }) => url),
  scripts({ slideshow: base }) {
    const hasWords = wordsInTurn(base).length > 0
    return [
      'slides',
      ...(hasControls(base) ? ['controls' as const] : []),
      ...(hasWords ? ['words' as const] : []),
      ...(hasControls(base) || hasWords ? ['holds' as const] : []),
    ]
  },
}

/** What visitors change slides with; hidden until the script can. */
function controls({ slideshow: base }: SlidesLayer, { handoff }: BackdropDocument): string[] {
  const { arrows, markers, place } = base.controls
  if (!hasControls(base)) return []
  const { previousLabel, nextLabel, slideLabel } = handoff
  const button = (go: string, label: string, more: string): string =>
    `  <button${attributes({ class: `tln-go ${more}`, type: 'button', 'data-tln-go': go, 'aria-label': label })}></button>`
  const group = attributes({
    class: `tln-controls tln-${place}`,
    role: 'group',
    'aria-roledescription': 'carousel',
    'aria-label': handoff.slidesLabel,
    hidden: true,
  })
  return [
    `<div${group}>`,
    ...(arrows ? [button('back', previousLabel, 'tln-previous')] : []),
    ...(markers
      ? base.slides.map((_, index) =>
          button(
            String(index),
            numberedLabel(slideLabel, index + 1, base.slides.length),
            'tln-marker',
          ),
        )
      : []),
    ...(arrows ? [button('next', nextLabel, 'tln-next')] : []),
    `  <span${attributes({ class: 'tln-status', 'aria-live': 'polite', 'data-tln-label': slideLabel })}></span>`,
    '</div>',
  ]
}

/** A label with its places for a number and the count filled in. */
const numberedLabel = (label: string, number: number, count: number): string =>
  label.replace('#', String(number)).replace('#', String(count))

const ofSlide = (posters: readonly DeliveredPoster[], number: number): DeliveredPoster[] =>
  posters.filter(({ slide }) => slide === number)

/** What slides look like while nothing moves. */
function slideRules(
  { slideshow: base, posters }: SlidesLayer,
  { own }: OwnScope,
  { weight }: BackdropDocument,
): string[] {
  return base.slides.flatMap((slide, number) => {
    const box = `.tln-region${own} .tln-slide-${number + 1}`
    const image = `${box} .tln-poster`
    const { placing, background, focal } = slide
    const windows = focalWindows(weight.breakpoints)
    return [
      // What is behind an image that covers is never seen once it has come.
      ...(placing === 'cover' ? [] : [`${box} .tln-view { background: ${background}; }`]),
      ...(placing === 'contain' ? [`${image} { object-fit: contain; }`] : []),
      ...(placing === 'tile'
        ? tileRules(slide.tileWidth, ofSlide(posters, number), `${box} .tln-view`)
        : []),
      ...(focal ? [`${image} { object-position: ${positionText(focal.focal)}; }`] : []),
      ...FOCAL_CLASSES.flatMap((each) => {
        const point = focal?.ownFocal[each]
        return point
          ? [`@media ${windows[each]} { ${image} { object-position: ${positionText(point)}; } }`]
          : []
      }),
    ]
  })
}

/** What a box that enters has besides its animation: a mask. */
function maskText(transition: Transition): string {
  const mask = maskOf(transition)
  return mask ? ` ${styleText(mask)}` : ''
}

/** The cycle without script; where motion is not wanted but slides are, they change at once. */
function cycleRules(base: Slideshow, { own, id }: OwnScope): string[] {
  const order = placed(base).slice(0, -1)
  const shown = order.map(({ slide }) => ({
    transition: transitionOf(base, slide),
    pan: panOf(slide),
  }))
  const animate = (use: string, isCalm: boolean): { keyframes: string[]; rules: string[] } => {
    const timings = isCalm ? calmTimings(base) : timingsOf(base)
    const cycle = cycleOf(order.map(({ number }) => timings[number]!))
    const keyframes = new Keyframes(id, use)
    const slides = cycledSlides(
      cycle,
      isCalm
        ? shown.map(({ transition }) => ({ transition: { ...transition, seconds: 0 }, pan: null }))
        : shown,
    )
    const rules = slides.flatMap((slide, index) =>
      cycledRules(slide, `.tln-region${own} .tln-slide:nth-child(${index + 1})`, {
        keyframes,
        seconds: cycle.seconds,
        mask: index > 0 && !isCalm ? maskText(shown[index - 1]!.transition) : '',
      }),
    )
    return { keyframes: keyframes.rules(), rules }
  }
  const usual = animate('slide', false)
  const calm = animate('calm', true)
  return [
    ...usual.keyframes,
    ...usual.rules,
    ...calm.keyframes,
    `@media (prefers-reduced-motion: reduce) { .tln-region${own} .tln-slides * { animation: none; }`,
    ...calm.rules.map((rule) => `  ${rule}`),
    '}',
  ]
}

function cycledRules(
  { delaySeconds, box, view, pan }: CycledSlide,
  slide: string,
  {
    keyframes,
    seconds,
    mask,
  }: {
    readonly keyframes: Keyframes
    readonly seconds: number
    readonly mask: string
  },
): string[] {
  const rule = (element: string, frames: readonly Frame[], more = ''): string[] =>
    frames.length === 0
      ? []
      : [
          `${element} { animation: ${keyframes.name(frames, seconds)} ${cssNumber(seconds)}s ${cssNumber(delaySeconds)}s infinite;${more} }`,
        ]
  const moved = box.some(({ style }) => style['transform']?.startsWith('translate('))
  const changes = ` will-change: ${moved ? 'transform, opacity' : 'opacity'};`
  return [
    ...rule(slide, box, `${changes}${mask}`),
    ...rule(`${slide} .tln-view`, view),
    ...rule(`${slide} .tln-poster`, pan, ' will-change: transform;'),
  ]
}

/** Entrances, departures and pans one by one: for the script. */
function drivenRules(base: Slideshow, { own, id }: OwnScope): string[] {
  // Stronger than the shared rule that takes the cycle away.
  const region = `.tln-region.tln-region.tln-region${own} .tln-driven`
  const keyframes = new Keyframes(id, 'enter')
  const once = (element: string, frames: readonly Frame[], seconds: number, more = ''): string[] =>
    frames.length === 0
      ? []
      : [
          `${region} ${element} { animation: ${keyframes.name(frames, seconds)} ${cssNumber(seconds)}s both;${more} }`,
        ]
  const whole = ({ frames, rest }: ReturnType<typeof entrance>, seconds: number): Frame[] =>
    frames.length === 0 || Object.keys(rest).length === 0
      ? []
      : [...frames, { at: seconds, style: rest, way: 'step-end' }]
  const rules = transitionsOf(base).flatMap((text, index) => {
    const transition = JSON.parse(text) as Transition
    const { seconds } = transition
    const enters = `[data-tln-enter="${index}"]`
    return [
      ...once(
        enters,
        whole(entrance(transition, 'box', seconds), seconds),
        seconds,
        maskText(transition),
      ),
      ...once(
        `${enters} .tln-view`,
        whole(entrance(transition, 'view', seconds), seconds),
        seconds,
      ),
      ...once(`.tln-leave[data-tln-leave="${index}"]`, departure(transition, seconds), seconds),
    ]
  })
  const pans = base.slides.flatMap((slide, number) => {
    const pan = panOf(slide)
    if (!pan) return []
    const before = base.slides.at(number - 1)!
    const { holdSeconds, transitionSeconds } = timingsOf(base)[number]!
    const seconds = transitionOf(base, before).seconds + holdSeconds + transitionSeconds
    return once(
      `.tln-on.tln-slide-${number + 1} .tln-poster`,
      panned(pan, [0, 1], [0, seconds], seconds),
      seconds,
    )
  })
  return [
    ...keyframes.rules(),
    ...rules,
    ...pans,
    // Slides may be changed by hand, or without motion where that is chosen: at once.
    `@media (prefers-reduced-motion: reduce) { ${region} * { animation: none !important; } }`,
  ]
}
