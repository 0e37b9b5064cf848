import { create } from 'zustand'

/** The views of the deck of particles. */
export type ParticleDeck = 'cost' | 'form' | 'definition'

interface ParticleView {
  /** What of the material is open: the base, or the particles over it. */
  readonly tab: 'base' | 'particles'
  readonly deck: ParticleDeck
  /** Whether controls for everything in the definition are shown. */
  readonly advanced: boolean
  /** Whether nothing is drawn here, since a measurement wants the processor for itself. */
  readonly quiet: boolean
  set(state: Partial<Omit<ParticleView, 'set'>>): void
}

/** What of Material is open: never part of the document, never undone. */
export const useParticleView = create<ParticleView>()((set) => ({
  tab: 'base',
  deck: 'cost',
  advanced: false,
  quiet: false,
  set: (state) => set(state),
}))
