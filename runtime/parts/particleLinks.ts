import { drawLinks } from '../../core/particles/links'
import type { Part } from '../Part'
import type { ParticleRegion } from './ParticleRegion'

/** Lines between particles that are near each other. */
const particleLinksPart: Part = (region: ParticleRegion) => {
  region.tlnLinks = drawLinks
  return undefined
}

export default particleLinksPart
