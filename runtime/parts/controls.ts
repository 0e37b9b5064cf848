import type { Part } from '../Part'

/** How far a finger must go to change a slide, in CSS pixels. */
const SWIPE = 48

/**
 * What visitors change slides with: buttons, arrow keys on them, swipes.
 */
const controlsPart: Part = (region, listen) => {
  const group = region.querySelector<HTMLElement>('.tln-controls')
  const box = region.querySelector('.tln-slides')
  if (!group || !box) return undefined
  const markers = [...group.querySelectorAll('.tln-marker')]
  const status = group.querySelector<HTMLElement>('.tln-status')!
  let isByHand = false
  const go = (to: string): void => {
    isByHand = true
    box.dispatchEvent(new CustomEvent('tln:go', { detail: to }))
  }
  const mark = (now: number): void => {
    markers.forEach((marker, index) =>
      index === now
        ? marker.setAttribute('aria-current', 'true')
        : marker.removeAttribute('aria-current'),
    )
    // Only what a visitor has asked for is announced.
    if (isByHand)
      status.textContent = status.dataset['tlnLabel']!.replace('#', `${now + 1}`).replace(
        '#',
        `${box.children.length - 1}`,
      )
    isByHand = false
  }
  group.hidden = false
  mark(0)
  listen(region, 'tln:slide', (event) => mark((event as CustomEvent<number>).detail))
  listen(group, 'click', ({ target }) => {
    const to = (target as Element).closest<HTMLElement>('[data-tln-go]')?.dataset['tlnGo']
    if (to) go(to)
  })
  listen(group, 'keydown', (event) => {
    const { key } = event as KeyboardEvent
    if (key === 'ArrowRight' || key === 'ArrowLeft') go(key === 'ArrowRight' ? 'next' : 'back')
  })
  let from = 0
  listen(region, 'pointerdown', (event) => (from = (event as PointerEvent).clientX))
  listen(region, 'pointerup', (event) => {
    const { clientX, pointerType } = event as PointerEvent
    const way = clientX - from
    if (pointerType === 'touch' && Math.abs(way) > SWIPE) go(way < 0 ? 'next' : 'back')
  })
  return undefined
}

export default controlsPart
