import { hasClips, kindOf, moves } from '../kinds'
import type { Motion } from '../kinds/Kind'
import type { Definition } from '../particles/Definition'
import { shownDefinition } from '../particles/Particles'
import type { BackdropDocument } from './BackdropDocument'

type Moving = Pick<BackdropDocument, 'base' | 'particles'>

/** Whether anything of a backdrop moves: only then there is a script, and something to pause. */
export const isMoving = ({ base, particles }: Moving): boolean => moves(base) || particles !== null

/** Whether clips are rendered of a backdrop. */
export const rendersClips = ({ base }: Moving): boolean => hasClips(base)

/** The particles of a backdrop with the period that they have there; null where there are none. */
export function particlesOf({ base, particles }: Moving): Definition | null {
  return particles && shownDefinition(particles, kindOf(base).motion(base)?.turnSeconds ?? null)
}

/** How a backdrop moves: as its base does, else by its particles; null where it stands still. */
export function motionOf({ base, particles }: Moving): Motion | null {
  const own = kindOf(base).motion(base)
  return own ?? (particles && { turnSeconds: particles.definition.period, loops: true })
}
