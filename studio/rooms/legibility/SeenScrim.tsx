import { scrimStyle } from '../../../core/handoff/layers/scrim'
import type { Scrim } from '../../../core/scrim/Scrim'
import { scrimRuns } from '../../../core/scrim/scrimAt'

/** A scrim as browsers draw it; what it lies over is isolated. */
export function SeenScrim({ scrim }: { readonly scrim: Scrim }) {
  return scrimRuns(scrim).map(({ blend, layers }, at) => (
    <span
      key={at}
      aria-hidden
      className="absolute inset-0"
      style={{ ...scrimStyle(layers), mixBlendMode: blend }}
    />
  ))
}
