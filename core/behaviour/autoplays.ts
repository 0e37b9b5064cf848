import type { BackdropDocument } from '../backdrop/BackdropDocument'

/** Whether the clip starts from the markup: never where it would be fetched out of view. */
export function autoplays({ behaviour, fit }: BackdropDocument): boolean {
  return behaviour.autoplayInMarkup && fit.place === 'top'
}
