import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { parseHex } from '../picture/srgb'
import { contrastRatio } from '../scrim/contrast'
import type { Placeholder } from './HandoffMedia'

/** Trims a number to what CSS needs. */
const short = (value: number): string => String(Math.round(value * 1000) / 1000)

function rgba(hex: string, alpha: number): string {
  const { r, g, b } = parseHex(hex)
  return `rgb(${r} ${g} ${b} / ${short(alpha)})`
}

/** The scrim as a CSS image. */
export function scrimImage({ scrim }: BackdropDocument): string {
  const from = rgba(scrim.color, scrim.strength)
  const to = scrim.kind === 'flat' ? from : rgba(scrim.toColor, scrim.toStrength)
  return `linear-gradient(${scrim.kind === 'flat' ? 0 : short(scrim.angleDeg)}deg, ${from}, ${to})`
}

/** Black or white, whichever reads better on the button. */
export function inkOn(background: string): string {
  const ground = parseHex(background)
  return contrastRatio(ground, parseHex('#1a1410')) >= contrastRatio(ground, parseHex('#ffffff'))
    ? '#1a1410'
    : '#ffffff'
}

/**
 * The style of the backdrop. Sites may override the custom properties of the first rule. `100svh`
 * is preceded by `100vh` for browsers that do not know it. The placeholder is shown until the
 * poster has loaded.
 */
export function emitBackdropStyle(
  document: BackdropDocument,
  placeholder: Placeholder | null,
): string {
  const { fit } = document
  const height = `${fit.height.value}${fit.height.unit}`
  return `/* Moving background. Custom properties may be set anew by the site. */
.tln-region {
  --tln-height: ${fit.height.unit === 'svh' ? `${fit.height.value}vh` : height};
  --tln-focal-point: ${short(fit.focal.x * 100)}% ${short(fit.focal.y * 100)}%;
  --tln-scrim: ${scrimImage(document)};
  --tln-background-color: ${document.scrim.color};
  --tln-pause-size: 2.75rem;${placeholder ? `\n  --tln-average-color: ${placeholder.colour};\n  --tln-placeholder: url("${placeholder.dataUrl}");` : ''}
  position: relative;
  isolation: isolate;
  display: flex;
  flex-direction: column;
  min-height: var(--tln-height);
  background: var(--tln-background-color);
}
${fit.height.unit === 'svh' ? `@supports (height: 1svh) { .tln-region { --tln-height: ${height}; } }\n` : ''}.tln-backdrop, .tln-scrim { position: absolute; inset: 0; overflow: hidden; }
.tln-backdrop { z-index: -1; pointer-events: none;${placeholder ? ' background: var(--tln-average-color) var(--tln-placeholder) var(--tln-focal-point) / cover no-repeat;' : ''} }
.tln-page > .tln-backdrop { position: fixed; }
.tln-poster, .tln-video {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: cover;
  object-position: var(--tln-focal-point);
}
.tln-scrim { background-image: var(--tln-scrim); }
.tln-poster-only .tln-video { visibility: hidden; }
${document.timing.repeat === 'once' && document.timing.atEnd === 'fade' ? '.tln-video { transition: opacity 0.8s; }\n.tln-ended .tln-video { opacity: 0; }\n' : ''}.tln-pause {
  position: absolute;
  right: 1rem;
  bottom: 1rem;
  width: var(--tln-pause-size);
  height: var(--tln-pause-size);
  padding: 0;
  border: 0;
  border-radius: 50%;
  color: #fff;
  background: rgb(0 0 0 / 0.55);
  cursor: pointer;
}
.tln-pause[hidden] { display: none; }
.tln-pause:focus-visible { outline: 3px solid #fff; outline-offset: 2px; }
.tln-pause::before {
  content: "";
  display: block;
  width: 0.3rem;
  height: 0.9rem;
  margin: auto;
  border: solid currentColor;
  border-width: 0 0.28rem;
}
.tln-pause.tln-paused::before { width: 0; height: 0; border-width: 0.5rem 0 0.5rem 0.85rem; border-color: transparent transparent transparent currentColor; }
`
}

/**
 * The style of the stand-in copy: for the demonstration page and the stage, not needed on a site.
 */
export function emitCopyStyle({ copy }: BackdropDocument): string {
  return `.tln-region { --tln-copy-color: ${copy.color}; --tln-button-color: ${copy.buttonColor}; --tln-button-text-color: ${inkOn(copy.buttonColor)}; }
* { box-sizing: border-box; }
body { margin: 0; font-family: "Archivo Variable", system-ui, sans-serif; color: #26221c; background: #fff; }
.tln-header { display: flex; flex-wrap: wrap; gap: 0.5rem 2rem; align-items: baseline; justify-content: space-between; padding: 1.75rem clamp(1.25rem, 5vw, 5rem); color: var(--tln-copy-color); }
.tln-brand { font-weight: 700; letter-spacing: 0.08em; text-transform: uppercase; font-size: 1.15rem; }
.tln-links { display: flex; flex-wrap: wrap; gap: 0.25rem 1.75rem; }
.tln-link { color: inherit; text-decoration: none; }
.tln-link:hover, .tln-link:focus-visible { text-decoration: underline; }
.tln-copy { margin: auto 0; padding: 2rem clamp(1.25rem, 5vw, 5rem) 4.5rem; max-width: 52rem; color: var(--tln-copy-color); }
.tln-heading { margin: 0 0 1rem; font-size: clamp(2.2rem, 5.6vw, 4.5rem); line-height: 1.05; letter-spacing: -0.02em; font-weight: 700; text-wrap: balance; }
.tln-body { margin: 0 0 1.75rem; font-size: 1.2rem; line-height: 1.5; max-width: 34rem; }
.tln-button { display: inline-block; padding: 0.9rem 1.5rem; font-weight: 650; font-size: 1.05rem; color: var(--tln-button-text-color); background: var(--tln-button-color); text-decoration: none; }
.tln-button:focus-visible { outline: 3px solid var(--tln-copy-color); outline-offset: 3px; }
.tln-after { padding: 3rem clamp(1.25rem, 5vw, 5rem); line-height: 1.6; max-width: 46rem; }
`
}
