import type { Part } from '../Part'

/** What the style moves by itself: it is held where a region must not move. */
const movingPart: Part = (region, _listen, _update, _fail, tell) => {
  const moving = [...region.querySelectorAll('.tln-moving')]
  if (!moving.length) return undefined
  const hold = (held: boolean) => (): void => {
    moving.forEach((element) => element.classList.toggle('tln-held', held))
    tell(held ? 'pause' : 'play')
  }
  return {
    // Some windows have none of it: the style says so.
    fits: () => moving.some((element) => getComputedStyle(element).animationName !== 'none'),
    choose: () => false,
    ended: () => false,
    play: hold(false),
    pause: hold(true),
  }
}

export default movingPart
