import { create } from 'zustand'

interface PaintSelection {
  /** The gradient that bench, deck and stage show, and its stop that is open. */
  readonly gradient: number
  readonly stop: number
  set(state: Partial<Pick<PaintSelection, 'gradient' | 'stop'>>): void
}

/** Which gradient and which of its stops are open. */
export const usePaintSelection = create<PaintSelection>()((set) => ({
  gradient: 0,
  stop: 0,
  set: (state) => set(state),
}))

/** The selection within what there is: undo may have taken a gradient or a stop away. */
export function useSelected(gradients: readonly { readonly stops: readonly unknown[] }[]) {
  const { gradient, stop, set } = usePaintSelection()
  const index = Math.min(gradient, gradients.length - 1)
  const stops = gradients[index]?.stops.length ?? 0
  return { index, stop: Math.min(stop, stops - 1), set }
}
