import { painterOf, type Draw } from '../../core/particles/Painter'
import { SPRITES, type Prepared } from '../../core/particles/Prepared'
import type { Part } from '../Part'
import type { ParticleRegion } from './ParticleRegion'

/*
 * Particles: drawn onto a canvas in front of the base, as often as its rate says. The first picture
 * stands wherever nothing may move. A machine that does not keep up gets fewer elements in steps,
 * and the first picture at last; the page is told by `tln:fewer` how many are left.
 */

/** Canvas pixels for each CSS pixel, at most: more cost much and are hardly seen. */
const MAX_DENSITY = 1.5
/** How much a frame counts in the mean that decides, and how late it may be at most in it. */
const WEIGHT = 0.1
const LATEST = 3
/**
 * A frame that comes after so many milliseconds is late, at either rate: some devices save power
 * with 30 frames a second, and fewer elements would not change that.
 */
const LATE_MS = 46
/** Of a frame's time, what drawing may take: the rest is the page's. */
const OWN_SHARE = 0.5
/** What is left of the elements after a step, and the share with which it is given up. */
const STEP = 0.7
const LEAST_SHARE = 0.1

const particlesPart: Part = (region: ParticleRegion, _listen, update, _fail, tell, signal) => {
  const canvas = region.querySelector<HTMLCanvasElement>('.tln-particles')!
  const context = (canvas as typeof canvas | null)?.getContext('2d')
  // Browsers that draw nothing unseen (before 2023) show the base alone.
  if (!context || !self.OffscreenCanvas) return undefined
  const { dataset, parentElement: box } = canvas
  const prepared = JSON.parse(dataset['tlnParticles']!) as Prepared
  const frame = 1000 / +dataset['tlnRate']!
  const images: HTMLImageElement[] = []
  let draw: Draw | undefined
  let share = 1
  let gaveUp = false
  let seconds = 0
  let last = 0
  let timer = 0
  /** Mean of how late frames were, or of what drawing took: 1 is too much. */
  let load = 0

  const show = (): number | undefined => draw?.(context, seconds, share)
  const fit = (): void => {
    const density = Math.min(MAX_DENSITY, devicePixelRatio)
    const { clientWidth: width, clientHeight: height } = box!
    canvas.width = width * density
    canvas.height = height * density
    draw = painterOf(
      prepared,
      { width, height },
      density,
      [region.tlnPointer, region.tlnLinks],
      images,
    )
    show()
    canvas.classList.add('tln-drawn')
  }
  const turn = (now: number): void => {
    timer = requestAnimationFrame(turn)
    const passed = now - last
    // Screens differ from their own rates by a little.
    if (passed < frame - 4) return
    last = now
    // After a hindrance it goes on where it was.
    seconds += Math.min(passed, 100) / 1000
    const began = performance.now()
    show()
    const late = Math.max(passed / LATE_MS, (performance.now() - began) / OWN_SHARE / frame)
    load += (Math.min(LATEST, late) - load) * WEIGHT
    if (load < 1) return
    load = 0
    gaveUp = (share *= STEP) < LEAST_SHARE
    if (gaveUp) {
      // What is below may go on without them.
      cancelAnimationFrame(timer)
      seconds = timer = 0
      share = 1
    }
    const detail = show()
    region.dispatchEvent(
      new CustomEvent('tln:fewer', { bubbles: true, detail: gaveUp ? 0 : detail }),
    )
    update()
  }
  const observer = new ResizeObserver(fit)
  observer.observe(box!)
  prepared[0][SPRITES].forEach((address, at) => {
    const image = new Image()
    // One that cannot be loaded is not drawn.
    image.onload = () => {
      images[at] = image
      fit()
    }
    image.src = address
  })
  // Nothing else of a region sets this.
  signal.onabort = () => observer.disconnect()

  return {
    // Some windows show no motion: the style says so. So does a machine that is too slow.
    fits: () => !gaveUp && !getComputedStyle(canvas).getPropertyValue('--tln-still'),
    choose: () => false,
    ended: () => false,
    play() {
      if (timer || gaveUp) return
      last = performance.now()
      timer = requestAnimationFrame(turn)
      tell('play')
    },
    pause() {
      if (!timer) return
      timer = cancelAnimationFrame(timer) ?? 0
      load = 0
      tell('pause')
    },
  }
}

export default particlesPart
