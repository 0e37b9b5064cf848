import { reactionToPointer } from '../../core/particles/pointer'
import type { Part } from '../Part'
import type { ParticleRegion } from './ParticleRegion'

/** What a mouse does to particles: fingers scroll the page, and do nothing. */
const particlePointerPart: Part = (region: ParticleRegion, listen) => {
  const { extra, point } = reactionToPointer()
  region.tlnPointer = extra
  // The backdrop lies behind the copy: the window tells where a pointer is, and when it leaves.
  listen(window, 'pointermove pointerout', (event) => point(event as PointerEvent))
  return undefined
}

export default particlePointerPart
