import type { Gradient, Paint } from '../../../core/kinds/paint/Paint'
import { useBackdrop } from '../../state/backdropStore'

/** Changes of a paint; `gesture` is the same during one drag. */
export function usePaint(base: Paint) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const set = (paint: Partial<Omit<Paint, 'kind'>>, gesture: string | null = null): void =>
    dispatch({ type: 'paint/set', paint }, gesture)
  return {
    set,
    /** Replaces one gradient. */
    setGradient: (index: number, gradient: Gradient, gesture: string | null = null): void =>
      set({ gradients: base.gradients.with(index, gradient) }, gesture),
  }
}
