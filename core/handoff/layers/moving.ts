import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import { easeInOut } from '../../kinds/easing'
import { cssNumber } from '../cssNumber'

/*
 * Slow motion by style alone: a transform there and back, which browsers compose without painting
 * anew. The script only pauses it; under reduced motion, and on phones that show no motion, the
 * element stands as it does at the start.
 */

/** A motion of an element there and back in `seconds`. */
export interface StyleMotion {
  /** The transform when it has come so far, 0 to 1: always the same functions in the same order. */
  readonly at: (progress: number) => string
  readonly seconds: number
  /** `transform-origin`. */
  readonly origin: string
  /**
   * Without a graphics processor a browser draws the whole element again for each of 60 frames a
   * second. Slow motion looks the same in fewer steps (docs/paint.md).
   */
  readonly stepsPerSecond: number
}

/** Pieces of a way in steps, each as fast as easing has it there. */
const PIECES = 8

/** The whole steps of each piece of a way. */
const stepsOfPiece = ({ seconds, stepsPerSecond }: StyleMotion): number =>
  Math.max(1, Math.round((stepsPerSecond * seconds) / 2 / PIECES))

const keyframesOf = ({ at }: StyleMotion): string =>
  Array.from({ length: PIECES + 1 }, (_, piece) => {
    const share = piece / PIECES
    return `${cssNumber(share * 100)}% { transform: ${at(easeInOut(share))}; }`
  }).join(' ')

/** The rules of a moving element; `own` selects the backdrop with this `id`. */
export function movingRules(
  motion: StyleMotion,
  { own, id }: { readonly own: string; readonly id: string },
  { behaviour, weight }: BackdropDocument,
): string[] {
  const name = `tln-moving-${id}`
  const { at, origin, seconds } = motion
  return [
    `@keyframes ${name} { ${keyframesOf(motion)} }`,
    `.tln-region${own} .tln-moving { transform: ${at(0)}; transform-origin: ${origin}; animation: ${name} ${cssNumber(seconds / 2)}s steps(${stepsOfPiece(motion)}) infinite alternate; will-change: transform; }`,
    ...(behaviour.phone === 'poster'
      ? [
          `@media (max-width: ${weight.breakpoints.phone}px) { .tln-region${own} .tln-moving { animation: none; } }`,
        ]
      : []),
  ]
}

/** The rules that everything that moves by style shares. */
export const MOVING_RULES = `.tln-region.tln-region .tln-held { animation-play-state: paused; }
@media (prefers-reduced-motion: reduce) {
  .tln-region.tln-region [data-tln-reduced-motion="poster"] .tln-moving { animation: none; }
}
`
export const MOVING_PRINT_RULES = '  .tln-region.tln-region .tln-moving { animation: none; }\n'
