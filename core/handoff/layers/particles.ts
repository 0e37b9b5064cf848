import { particleData } from '../../particles/prepare'
import type { ParticlesLayer } from '../../kinds/Layer'
import type { LayerEmitter } from './LayerEmitter'

/*
 * Their data stand in single quotes: they are numbers, paths and colours.
 */

/**
 * Moving elements that the script draws onto a canvas. They fade in over the base, so that their
 * first picture is the poster.
 */
export const particles: LayerEmitter<ParticlesLayer> = {
  markup: ({ definition, frameRate }) => [
    `<canvas class="tln-particles" width="0" height="0" data-tln-rate="${frameRate}" data-tln-particles='${particleData(definition)}'></canvas>`,
  ],
  ownRules: (_, { own }, { behaviour, weight }) =>
    behaviour.phone === 'poster'
      ? [
          `@media (max-width: ${weight.breakpoints.phone}px) { .tln-region${own} .tln-particles { --tln-still: 1; } }`,
        ]
      : [],
  rules: `.tln-region .tln-particles { all: revert; display: block; position: absolute; inset: 0; width: 100%; height: 100%; opacity: 0; transition: opacity 0.8s; }
.tln-region .tln-drawn { opacity: 1; }
`,
  printRules: '  .tln-region .tln-particles { display: none; }\n',
  files: () => [],
  scripts: ({ definition: { links, pointer } }) => [
    // What joins a pointer must do so before links are sought.
    ...(pointer ? (['particlePointer'] as const) : []),
    ...(links ? (['particleLinks'] as const) : []),
    'particles',
  ],
}
