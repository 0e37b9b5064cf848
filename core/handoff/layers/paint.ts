import { paintMoves, type Paint } from '../../kinds/paint/Paint'
import { motionSteps } from '../../kinds/paint/motionSteps'
import { paintTransform } from '../../kinds/paint/paintMotion'
import type { PaintLayer } from '../../kinds/Layer'
import { cssNumber } from '../cssNumber'
import { grainUrl } from './grain'
import type { LayerEmitter } from './LayerEmitter'
import { MOVING_PRINT_RULES, MOVING_RULES, movingRules, type StyleMotion } from './moving'
import { needsFallback, paintBlends, paintImages } from './paintCss'

/** Colours that the style draws: no file is loaded. */
export const paint: LayerEmitter<PaintLayer> = {
  markup: ({ paint: base }) => [
    `<div class="tln-paint${paintMoves(base) ? ' tln-moving' : ''}"></div>`,
    ...(base.dither ? ['<div class="tln-grain"></div>'] : []),
  ],
  values: ({ paint: base }) => ({
    paint: paintImages(base, false),
    ...(base.dither && { grain: `url("${grainUrl()}")` }),
  }),
  ownRules({ paint: base }, scope, document) {
    const box = `.tln-region${scope.own} .tln-paint`
    const blends = paintBlends(base)
    const { oversize } = paintTransform(base)
    return [
      ...(needsFallback(base)
        ? [
            `@supports (background: linear-gradient(in oklab, red, red)) { ${scope.own} { --tln-paint: ${paintImages(base, true)}; } }`,
          ]
        : []),
      ...(blends ? [`${box} { background-blend-mode: ${blends}; }`] : []),
      // Larger than the region, so that no edge comes into view while it moves.
      ...(oversize > 1 ? [`${box} { inset: ${cssNumber((1 - oversize) * 50)}%; }`] : []),
      ...(paintMoves(base) ? movingRules(motionOf(base), scope, document) : []),
    ]
  },
  rules: `.tln-region .tln-paint { all: revert; position: absolute; inset: 0; background-color: var(--tln-background-color); background-image: var(--tln-paint); }
.tln-region .tln-grain { all: revert; position: absolute; inset: 0; background-image: var(--tln-grain); }
${MOVING_RULES}`,
  printRules: `  .tln-region .tln-paint { print-color-adjust: exact; }
${MOVING_PRINT_RULES}`,
  files: () => [],
  scripts: ({ paint: base }) => (paintMoves(base) ? ['moving'] : []),
}

const percent = (share: number): string => `${cssNumber(share * 100)}%`

/** The motion of a paint as transforms of its element. */
function motionOf(base: Paint): StyleMotion {
  const { turnDeg, shift, scale, oversize, origin } = paintTransform(base)
  return {
    at: (progress) =>
      `translate(${percent((shift.x / oversize) * progress)}, ${percent((shift.y / oversize) * progress)}) rotate(${cssNumber(turnDeg * progress)}deg) scale(${cssNumber(1 + (scale - 1) * progress)})`,
    seconds: base.motion!.seconds,
    origin: `${percent(origin.x)} ${percent(origin.y)}`,
    stepsPerSecond: motionSteps(base),
  }
}
