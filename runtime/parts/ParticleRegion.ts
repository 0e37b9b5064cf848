import type { Extra } from '../../core/particles/Painter'

/** A region with what other parts of the script draw together with its particles. */
export interface ParticleRegion extends HTMLElement {
  tlnLinks?: Extra
  tlnPointer?: Extra
}
