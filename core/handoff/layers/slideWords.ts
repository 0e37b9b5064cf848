import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { cycleOf, WORDS_CROSSED, type Cycle } from '../../kinds/slideshow/cycle'
import {
  calmTimings,
  cycleOrder,
  isCycling,
  timingsOf,
  wordsInTurn,
  type Slideshow,
} from '../../kinds/slideshow/Slideshow'
import type { WordsInTurn } from '../../copy/Words'
import { cssNumber } from '../cssNumber'
import { Keyframes } from './Keyframes'
import type { OwnScope } from './LayerEmitter'
import type { Frame, Style } from './slideFrames'

/*
 * Words of slides. They lie upon one another, so that their place never changes size, and change
 * with the slides: without script in the same cycle, else by `tln-on`. Old and new words cross when
 * both are faint: two texts upon one another cannot be read.
 */

/** Words that cross do so in this share of a transition. */
const CROSSED = WORDS_CROSSED

/** Words that are not seen cannot be reached, nor are they read aloud. */
const SEEN: Style = { opacity: '1', visibility: 'visible' }
const UNSEEN: Style = { opacity: '0', visibility: 'hidden' }

/**
 * The animation of some words within a cycle: `seen` tells of each place in it whether they belong
 * to the slide there. Empty where they are seen throughout.
 */
export function wordFrames(
  { spans, seconds }: Pick<Cycle, 'spans' | 'seconds'>,
  seen: readonly boolean[],
): Frame[] {
  if (!seen.includes(false)) return []
  const frames: Frame[] = [{ at: 0, style: seen[0] ? SEEN : UNSEEN, way: 'step-end' }]
  spans.forEach(({ leavesFrom, goneAt }, index) => {
    const [before, after] = [seen[index], seen[(index + 1) % seen.length]]
    if (before === after) return
    const crossed = (goneAt - leavesFrom) * CROSSED
    const [from, to] = before ? [leavesFrom, leavesFrom + crossed] : [goneAt - crossed, goneAt]
    frames.push(
      { at: from, style: before ? SEEN : UNSEEN, way: 'linear' },
      { at: to, style: before ? UNSEEN : SEEN, way: 'step-end' },
    )
  })
  return [...frames, { ...frames[frames.length - 1]!, at: seconds }]
}

/** The rules of words that are shown with slides; none where all have the same. */
export function wordRules(
  base: Slideshow,
  { own, id }: OwnScope,
  { weight, behaviour }: BackdropDocument,
): string[] {
  const turns = wordsInTurn(base)
  if (turns.length === 0) return []
  const region = `.tln-region${own}`
  const still = '.tln-text { animation: none; }'
  const cycle = (use: string, isCalm: boolean): { keyframes: string[]; rules: string[] } =>
    cycledWords(base, turns, { keyframes: new Keyframes(id, use), region, isCalm })
  const usual = cycle('words', false)
  const calm = cycle('calm-words', true)
  return [
    RULES,
    ...(isCycling(base)
      ? [
          ...usual.keyframes,
          ...usual.rules,
          ...(behaviour.reducedMotion === 'play'
            ? [
                ...calm.keyframes,
                '@media (prefers-reduced-motion: reduce) {',
                ...calm.rules.map((rule) => `  ${rule}`),
                '}',
              ]
            : []),
        ]
      : []),
    ...(behaviour.phone === 'poster'
      ? [`@media (max-width: ${weight.breakpoints.phone}px) { ${region}${region} ${still} }`]
      : []),
    ...(behaviour.reducedMotion === 'poster'
      ? [`@media (prefers-reduced-motion: reduce) { ${region}${region} ${still} }`]
      : []),
    ...(behaviour.dataSaver === 'poster'
      ? [`@media (prefers-reduced-data: reduce) { ${region}${region} ${still} }`]
      : []),
    `@media print { ${region}${region} ${still} }`,
  ]
}

function cycledWords(
  base: Slideshow,
  turns: readonly WordsInTurn[],
  {
    keyframes,
    region,
    isCalm,
  }: { readonly keyframes: Keyframes; readonly region: string; readonly isCalm: boolean },
): { keyframes: string[]; rules: string[] } {
  const order = cycleOrder(base)
  const timings = isCalm ? calmTimings(base) : timingsOf(base)
  const cycle = cycleOf(order.map((number) => timings[number]!))
  const rules = turns.flatMap(({ slides }, index) => {
    const frames = wordFrames(
      cycle,
      order.map((number) => slides.includes(number)),
    )
    return frames.length === 0
      ? []
      : [
          `${region} .tln-text:nth-child(${index + 1}) { animation: ${keyframes.name(frames, cycle.seconds)} ${cssNumber(cycle.seconds)}s infinite; }`,
        ]
  })
  return { keyframes: keyframes.rules(), rules }
}

/** Whoever reads or uses words is not overtaken by the next ones, without script, too. */
const HELD = ['.tln-slides:not(.tln-driven) *', '.tln-texts:not(.tln-told) *']
const heldBy = (state: string): string =>
  `${HELD.map((moving) => `.tln-region.tln-region:has(.tln-texts:${state}) ${moving}`).join(', ')} { animation-play-state: paused; }`

const FADED = `calc(var(--tln-seconds, 0s) * ${CROSSED})`
const RULES = `.tln-region .tln-texts { all: revert; display: grid; grid-template-columns: 100%; }
.tln-region .tln-text { all: revert; grid-area: 1 / 1; }
.tln-region .tln-text + .tln-text, .tln-region .tln-told .tln-text { opacity: 0; visibility: hidden; }
.tln-region.tln-region.tln-region .tln-told .tln-text { animation: none; transition: opacity ${FADED} linear, visibility ${FADED} linear; }
.tln-region.tln-region.tln-region .tln-told .tln-on { opacity: 1; visibility: visible; transition-delay: calc(var(--tln-seconds, 0s) * ${cssNumber(1 - CROSSED)}); }
@media (hover: hover) { ${heldBy('hover')} }
${heldBy('focus-within')}
@media (prefers-reduced-motion: reduce) { .tln-region.tln-region.tln-region .tln-told .tln-text { transition: none; } }`
