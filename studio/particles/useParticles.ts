import type { Definition } from '../../core/particles/Definition'
import { useBackdrop } from '../state/backdropStore'

type Motion = Definition['motion']

/** Changes of a definition; `gesture` is the same during one drag. */
export function useParticles(definition: Definition) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const define = (change: Partial<Definition>, gesture: string | null = null): void =>
    dispatch({ type: 'particles/define', definition: change }, gesture)
  return {
    define,
    move: (motion: Partial<Motion>, gesture: string | null = null): void =>
      define({ motion: { ...definition.motion, ...motion } }, gesture),
  }
}
