import type { Part } from '../Part'

/**
 * Whoever reads words, or uses what changes slides, is not overtaken by the next slide. Pattern:
 * WAI-ARIA Authoring Practices, Carousel.
 */
const holdsPart: Part = (region, listen) => {
  const box = region.querySelector('.tln-slides')
  if (!box) return undefined
  const holds = { mouse: false, focus: false }
  const hold = (by: keyof typeof holds, now: boolean): void => {
    holds[by] = now
    box.dispatchEvent(new CustomEvent('tln:hold', { detail: holds.mouse || holds.focus }))
  }
  for (const area of region.querySelectorAll('.tln-controls, .tln-texts'))
    listen(area, 'mouseenter mouseleave', ({ type }) => hold('mouse', type === 'mouseenter'))
  // The pause control starts it again: the focus stays on that.
  listen(region, 'focusin focusout', ({ type, target }) =>
    hold('focus', type === 'focusin' && !(target as Element).closest('.tln-pause')),
  )
  return undefined
}

export default holdsPart
