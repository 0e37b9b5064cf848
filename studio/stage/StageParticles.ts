import { particlesOf } from '../../core/backdrop/delivered'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { drawLinks } from '../../core/particles/links'
import { painterOf, type Draw, type Images } from '../../core/particles/Painter'
import { reactionToPointer } from '../../core/particles/pointer'
import { prepare, spritesOf } from '../../core/particles/prepare'
import { useParticleView } from '../particles/particleView'
import { spriteImages } from '../particles/spriteImages'
import type { DrawnCost } from '../state/stageStore'

/** As in the delivered script. */
const MAX_DENSITY = 1.5
/** How much a frame counts in the mean cost. */
const MEAN_WEIGHT = 0.08

/** A clock below that particles may follow; null where nothing moves there. */
export interface BaseClock {
  readonly seconds: number
  readonly playing: boolean
}

/**
 * Particles on the stage: drawn by the code that is delivered, but with a clock that can be held,
 * and with any definition at once.
 */
export class StageParticles {
  private readonly baseClock: () => BaseClock | null
  private readonly reaction = reactionToPointer()
  private canvas: HTMLCanvasElement | null = null
  private context: CanvasRenderingContext2D | null = null
  private view: Window | null = null
  private draw: Draw | null = null
  private shown = ''
  private period = 1
  private follows = false
  private interval = 1000 / 30
  private count = 0
  private handle = 0
  private last = 0
  private own = 0
  private paused = false
  /** Whether they were paused before they were held at a moment; null while they are not. */
  private wasPaused: boolean | null = null
  /** The time that was painted last. */
  private painted = 0
  private milliseconds = 0
  private frames = 0

  /** `baseClock` gives the clock of what is below. */
  constructor(baseClock: () => BaseClock | null) {
    this.baseClock = baseClock
  }

  /** Seconds within the period, and whether they pass; null where there are no particles. */
  clock(): BaseClock | null {
    if (!this.canvas) return null
    return { seconds: this.seconds() % this.period, playing: !this.paused }
  }

  /** Holds them at a moment, or lets them go on from there. */
  park(seconds: number | null): void {
    if (seconds === null) {
      this.paused = this.wasPaused ?? this.paused
      this.wasPaused = null
      return
    }
    this.wasPaused ??= this.paused
    this.paused = true
    this.own = seconds
  }

  toggle(): void {
    this.paused = !this.paused
  }

  /** Mean of the last frames; null where nothing is drawn. */
  cost(): DrawnCost | null {
    return this.canvas && this.frames > 0
      ? { milliseconds: this.milliseconds, framesPerSecond: this.frames, count: this.count }
      : null
  }

  /** What is drawn now, to be looked at; null where there is nothing. */
  picture(): HTMLCanvasElement | null {
    return this.canvas && this.canvas.width > 0 ? this.canvas : null
  }

  /** Draws a document's particles onto a canvas of the stage's page; null where it has none. */
  show(canvas: HTMLCanvasElement | null, document: BackdropDocument): void {
    const definition = particlesOf(document)
    if (!canvas || !definition) return this.stop()
    const { particles } = document
    const still = document.behaviour.reducedMotion === 'poster'
    if (canvas !== this.canvas) this.take(canvas, still)
    const width = canvas.parentElement!.clientWidth
    const height = canvas.parentElement!.clientHeight
    const wanted = JSON.stringify([definition, width, height, particles])
    if (wanted === this.shown || width === 0 || height === 0) return
    this.shown = wanted
    const density = Math.min(MAX_DENSITY, this.view!.devicePixelRatio)
    canvas.width = Math.floor(width * density)
    canvas.height = Math.floor(height * density)
    this.period = definition.period
    this.follows = particles!.follows !== 'own'
    this.interval = 1000 / particles!.frameRate
    const paintWith = (images: Images): void => {
      const extras = [this.reaction.extra, drawLinks]
      this.draw = painterOf(prepare(definition), { width, height }, density, extras, images)
      this.paint()
    }
    paintWith([])
    if (spritesOf(definition).length > 0)
      void spriteImages(definition).then((images) => {
        if (this.shown === wanted) paintWith(images)
      })
  }

  /** Draws nothing any more. */
  stop(): void {
    if (!this.canvas) return
    cancelAnimationFrame(this.handle)
    this.view?.removeEventListener('pointermove', this.follow)
    this.view?.removeEventListener('pointerout', this.follow)
    this.canvas = this.context = this.draw = null
    this.shown = ''
    this.frames = 0
  }

  private readonly follow = (event: PointerEvent): void => this.reaction.point(event)

  private take(canvas: HTMLCanvasElement, still: boolean): void {
    this.stop()
    this.canvas = canvas
    this.context = canvas.getContext('2d')
    this.view = canvas.ownerDocument.defaultView
    this.view!.addEventListener('pointermove', this.follow)
    this.view!.addEventListener('pointerout', this.follow)
    this.paused = still && matchMedia('(prefers-reduced-motion: reduce)').matches
    this.last = performance.now()
    this.handle = requestAnimationFrame(this.turn)
  }

  private readonly turn = (now: number): void => {
    this.handle = requestAnimationFrame(this.turn)
    const passed = now - this.last
    // Screens differ from their own rates by a little.
    if (passed < this.interval - 4 || useParticleView.getState().quiet) return
    this.last = now
    // What stands still is not drawn again: it was when it was last changed.
    const base = this.baseClock()
    const isOn = base ? base.playing : !this.paused
    if (!isOn && this.seconds() === this.painted) return
    if (isOn) this.own += Math.min(passed, 100) / 1000
    this.frames += (1000 / passed - this.frames) * (this.frames > 0 ? MEAN_WEIGHT : 1)
    this.paint()
  }

  private paint(): void {
    if (!this.draw || !this.context) return
    const began = performance.now()
    this.painted = this.seconds()
    this.count = this.draw(this.context, this.painted)
    this.milliseconds += (performance.now() - began - this.milliseconds) * MEAN_WEIGHT
  }

  /** The time that is drawn: that of what is below where it is followed. */
  private seconds(): number {
    return (this.follows ? this.baseClock()?.seconds : undefined) ?? this.own
  }
}
