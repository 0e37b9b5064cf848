import type { Part } from '../Part'

/*
 * Slides that the script changes, one after another, each once its image has been decoded: the next
 * one is fetched while the present one is shown, never before the first one has been painted.
 *
 * The box of the slides takes two events: `tln:go` brings a slide (`next`, `back`, or its index),
 * `tln:hold` stops the turns or lets them go on. The page is told of each slide by `tln:slide`.
 */

/** How often it is asked whether the next image has come, in milliseconds, and how many times. */
const ASK_MS = 250
const ASKS = 12

/** How long a slide stays, or its transition takes. */
const milliseconds = (slide: HTMLElement, place: 0 | 1): number =>
  +slide.dataset['tlnSeconds']!.split(' ')[place]! * 1000

/** The slide of this visit, or of this day as the visitor counts days. */
const chosenSlide = (region: HTMLElement, order: string): number => {
  const day = new Date()
  const today = Math.floor((+day - day.getTimezoneOffset() * 60000) / 864e5)
  const key = `tln-slide-${region.dataset['tln']}`
  try {
    return order === 'visit' ? (localStorage[key] = +(localStorage[key] ?? -1) + 1) : today
  } catch {
    // Storage may be refused: then it is the one of the day.
    return today
  }
}

/** The slide after one; a shuffled cycle shows each once, and none twice in a row. */
const slidesAfter = (order: string, count: number): ((index: number) => number) => {
  const queue: number[] = []
  return (index) => {
    if (order !== 'shuffled') return (index + 1) % count
    if (!queue.length)
      for (let each = 0; each < count; each++)
        queue.splice(Math.random() * (queue.length + 1), 0, each)
    if (queue[0] === index) queue.push(queue.shift()!)
    return queue.shift()!
  }
}

/** The slide that the style shows: a late script goes on with it. */
const seenSlide = (slides: readonly HTMLElement[]): HTMLElement =>
  slides.findLast(
    (slide) => +getComputedStyle(slide).opacity > 0.5 && slide.getBoundingClientRect().top > -9999,
  )!

/** Brings a slide in over another one; returns how to end that at once. */
const enter = (slide: HTMLElement, left: HTMLElement): (() => void) => {
  slide.dataset['tlnEnter'] = left.dataset['tlnLeave']
  slide.classList.remove('tln-laid')
  slide.classList.add('tln-on')
  left.classList.add('tln-leave')
  const finish = (): void => {
    clearTimeout(end)
    // Two may come in within one turn: the present one stays.
    if (!slide.dataset['tlnEnter']) return
    left.classList.remove('tln-on', 'tln-leave')
    delete slide.dataset['tlnEnter']
  }
  const end = setTimeout(finish, milliseconds(left, 1))
  return finish
}

const slidesPart: Part = (region, listen, update, _fail, tell) => {
  const box = region.querySelector<HTMLElement>('.tln-slides')
  const order = box?.dataset['tlnOrder']
  if (!box || !order) return undefined
  const slides = [...box.children] as HTMLElement[]
  // The last one is the first one again, to come in over the others.
  const count = slides.length - 1
  const once = order === 'visit' || order === 'day'
  let timer: ReturnType<typeof setTimeout> | undefined
  let asks = 0
  let playing = false
  let held = false
  let done = false
  let finish: (() => void) | undefined
  /** What comes next: decided once, however often it is stopped meanwhile. */
  let next: number | undefined
  let shown = seenSlide(slides)
  let now = slides.indexOf(shown) % count
  box.classList.add('tln-driven')
  shown.classList.add('tln-on')

  const after = slidesAfter(order, count)
  const change = (index: number): void => {
    finish?.()
    next = undefined
    if (index === now) return
    const left = shown
    now = index
    shown = slides[index || count]!
    finish = enter(shown, left)
    region.dispatchEvent(new CustomEvent('tln:slide', { bubbles: true, detail: index }))
  }
  /** Changes to a slide once it is there, at the earliest in `wait`; then goes on. */
  const bring = (index: number, wait: number, byHand = false): void => {
    clearTimeout(timer)
    const slide = slides[index || count]!
    if (index !== now) slide.classList.add('tln-laid')
    const image = slide.querySelector('img')
    // Now: a lazy one would be fetched only when it is due.
    if (image) image.loading = 'eager'
    const turn = (): void => {
      // It was stopped while the image was decoded.
      if (!byHand && (!playing || held)) return
      const before = shown
      change(index)
      done ||= once
      if (done) update()
      else if (playing && !held)
        bring((next = after(index)), milliseconds(shown, 0) + milliseconds(before, 1))
    }
    timer = setTimeout(() => {
      const failed = image?.complete && !image.naturalWidth
      const late = image && !image.complete && ++asks < ASKS
      if (late) return bring(index, ASK_MS, byHand)
      asks = 0
      if (image && (failed || !image.complete)) {
        // It is left out: the one after it follows, or the present one stays for its hold.
        if (byHand) run()
        else bring((next = after(index)), ASK_MS)
      } else if (image?.decode) image.decode().then(turn, turn)
      else turn()
    }, wait)
  }
  const run = (): void => {
    clearTimeout(timer)
    box.classList.toggle('tln-held', !playing || held)
    if (playing && !held && !done)
      bring(
        (next ??= once ? chosenSlide(region, order) % count : after(now)),
        once ? 0 : milliseconds(shown, 0),
      )
  }
  listen(box, 'tln:go', (event) => {
    const to = (event as CustomEvent<string>).detail
    done ||= once
    bring((to === 'next' ? now + 1 : to === 'back' ? now + count - 1 : +to) % count, 0, true)
  })
  listen(box, 'tln:hold', (event) => {
    held = (event as CustomEvent<boolean>).detail
    run()
  })
  return {
    // Some windows have no cycle: the style says so.
    fits: () => getComputedStyle(box).getPropertyValue('--tln-cycle').trim() !== 'none',
    choose: () => false,
    ended: () => done,
    play() {
      if (playing) return
      playing = true
      tell('play')
      run()
    },
    pause() {
      if (!playing) return
      playing = false
      tell('pause')
      run()
    },
  }
}

export default slidesPart
