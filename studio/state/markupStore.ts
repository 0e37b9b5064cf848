import { create } from 'zustand'
import type { PastedForm } from '../../core/handoff/emitMarkup'

/** Which form of the markup bench and deck show: a view, never part of the document. */
export const useMarkup = create<{
  readonly form: PastedForm
  setForm(form: PastedForm): void
}>((set) => ({ form: 'fragment', setForm: (form) => set({ form }) }))
