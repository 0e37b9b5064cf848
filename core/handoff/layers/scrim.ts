import type { BackdropDocument } from '../../backdrop/BackdropDocument'
import type { ScrimLayer } from '../../kinds/Layer'
import { parseHex } from '../../picture/srgb'
import { cssNumber } from '../cssNumber'
import type { LayerEmitter } from './LayerEmitter'

/** The scrim: one element over the base. */
export const scrim: LayerEmitter<ScrimLayer> = {
  markup: () => ['<div class="tln-scrim"></div>'],
  values: (_, document) => ({ scrim: scrimImage(document) }),
  rules: `.tln-region .tln-scrim { all: revert; position: absolute; inset: 0; background-image: var(--tln-scrim); }
`,
  printRules: '  .tln-region .tln-scrim { print-color-adjust: exact; }\n',
  files: () => [],
  scripts: () => [],
}

function rgba(hex: string, alpha: number): string {
  const { r, g, b } = parseHex(hex)
  return `rgb(${r} ${g} ${b} / ${cssNumber(alpha)})`
}

/** The scrim as a CSS image. */
export function scrimImage({ scrim: { color, strength, ...scrim } }: BackdropDocument): string {
  const from = rgba(color, strength)
  const to = scrim.kind === 'flat' ? from : rgba(scrim.toColor, scrim.toStrength)
  return `linear-gradient(${scrim.kind === 'flat' ? 0 : cssNumber(scrim.angleDeg)}deg, ${from}, ${to})`
}
