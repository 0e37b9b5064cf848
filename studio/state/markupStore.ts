import { create } from 'zustand'
import type { MarkupForm } from '../../core/handoff/emitMarkup'

/** The forms that a site pastes. */
export type PastedForm = Exclude<MarkupForm, 'page'>

/** Which form of the markup bench and deck show: a view, never part of the document. */
export const useMarkup = create<{
  readonly form: PastedForm
  setForm(form: PastedForm): void
}>((set) => ({ form: 'fragment', setForm: (form) => set({ form }) }))
