import { coverRect, paintedRect, type Size } from '../../../core/fit/cover'
import { parseHex } from '../../../core/picture/srgb'
import {
  partBehind,
  worstPlace,
  type RegionPixels,
  type WorstPlace,
} from '../../../core/scrim/frameContrast'
import type { Scrim } from '../../../core/scrim/Scrim'
import { even } from '../../../core/weight/renditionSize'
import type { ScreenView } from '../../../core/legibility/CopySamples'
import { frameOf, type Composed } from '../compose/composeFrame'
import type { OpenSequence } from '../sequences/OpenSequence'
import type { ContrastBase, LiveParticles } from './ContrastOrder'
import { drawnParticles, type DrawnParticles } from './drawnParticles'
import { Held } from './Held'

/**
 * Regions are looked at as large as they are, in cells of 4 pixels: where little of a text lies on
 * something bright, half of the size makes a difference of 7 %.
 */
const CELL = 4
const MAX_WIDTH = 1920
/** Bytes of frames that are remembered, and of what is painted of them. */
const MAX_HELD = 128_000_000

/** Composes frames large enough for every screen, and remembers them. */
export class LargeFrames {
  private readonly held = new Held<Composed>(MAX_HELD, ({ picture }) => picture.data.byteLength)

  /** Frames with these numbers, each once, in any order. */
  async *get(
    { key, picture, copyBlur }: ContrastBase,
    numbers: readonly number[],
    views: readonly ScreenView[],
    open: () => Promise<OpenSequence>,
    signal: AbortSignal,
  ): AsyncGenerator<{ readonly number: number; readonly frame: Composed }> {
    const largest = Math.max(
      ...views.map(({ region, focal }) => coverRect(picture, region, focal).scale),
    )
    // What is enlarged is enlarged as browsers do, when it is drawn.
    const factor = Math.min(1, largest, MAX_WIDTH / picture.width)
    const [width, height] = [even(picture.width * factor), even(picture.height * factor)]
    const nameOf = (number: number): string => `${key} ${number}`
    const missing: number[] = []
    for (const number of numbers) {
      const frame = this.held.get(nameOf(number))
      // A larger one serves as well: some screens alone do not need what all of them did.
      if (frame && frame.picture.width >= width) yield { number, frame }
      else missing.push(number)
    }
    if (missing.length === 0) return
    missing.sort((one, other) => one - other)
    let index = 0
    const order = { width, height, copyBlur }
    for await (const frame of (await open()).composed(missing, order, signal)) {
      const number = missing[index++]!
      this.held.set(nameOf(number), frame)
      yield { number, frame }
    }
  }
}

/** What is painted behind each text of a screen; null for those outside. */
export type PaintedTexts = readonly (RegionPixels | null)[]

/** Remembers what is painted behind texts: it is the same under other scrims and colours. */
export const heldTexts = (): Held<PaintedTexts> =>
  new Held(MAX_HELD, (texts) => texts.reduce((sum, each) => sum + (each?.data.byteLength ?? 0), 0))

/** A screen, and what is in front of its base. */
export interface FullSizeParts {
  /** Equal exactly when frames of the base are. */
  readonly baseKey: string
  readonly view: ScreenView
  readonly scrim: Scrim
  readonly particles: LiveParticles | null
  readonly painted: Held<PaintedTexts>
}

/** Measures copy on a screen in frames at full size. */
export class FullSizeScreen {
  private readonly size: Size
  private readonly key: string
  // Made when something is not remembered.
  private context: OffscreenCanvasRenderingContext2D | null = null
  private particles: Promise<DrawnParticles> | null = null

  constructor(private readonly parts: FullSizeParts) {
    const { baseKey, view } = parts
    const { picture, region, focal, texts } = view
    this.size = {
      width: Math.max(1, Math.round(region.width)),
      height: Math.max(1, Math.round(region.height)),
    }
    const boxes = texts.map((text) => text.boxes)
    this.key = JSON.stringify([baseKey, picture, region, focal, boxes, parts.particles?.key])
  }

  /** What is painted behind texts, where that is remembered. */
  known(number: number, seconds: number): PaintedTexts | undefined {
    return this.parts.painted.get(this.nameOf(number, seconds))
  }

  /** What is painted behind texts: the frame, and particles at that time. */
  async paint(composed: Composed, number: number, seconds: number): Promise<PaintedTexts> {
    const context = await this.painted(composed, seconds)
    const texts = this.parts.view.texts.map(({ boxes }) => {
      const part = partBehind(this.size, boxes)
      if (!part) return null
      const { data } = context.getImageData(part.x, part.y, part.width, part.height)
      return { data, part, ...this.size }
    })
    this.parts.painted.set(this.nameOf(number, seconds), texts)
    return texts
  }

  /** The place that counts behind a text, in CSS pixels; null where nothing is behind it. */
  measure(painted: PaintedTexts, text: number): WorstPlace | null {
    const { boxes, color, plate } = this.parts.view.texts[text]!
    const pixels = painted[text]
    return pixels ? worstPlace(pixels, this.parts.scrim, boxes, parseHex(color), CELL, plate) : null
  }

  /** Where no particles are, times of the same frame are alike. */
  private nameOf(number: number, seconds: number): string {
    return `${this.key} ${this.parts.particles ? seconds : number}`
  }

  private async painted(
    composed: Composed,
    seconds: number,
  ): Promise<OffscreenCanvasRenderingContext2D> {
    const { size } = this
    const { particles, view } = this.parts
    if (particles) this.particles ??= drawnParticles(particles.prepared, view.region, 1)
    const drawnAt = await this.particles
    this.context ??= new OffscreenCanvas(size.width, size.height).getContext('2d', {
      willReadFrequently: true,
    })!
    const { context } = this
    const { picture, region, focal } = view
    const { x, y, width, height } = paintedRect(picture, region, focal)
    const frame = frameOf(composed, 0)
    // Linear, as browsers enlarge clips: anything finer is sharper than what is seen.
    context.imageSmoothingQuality = width > frame.displayWidth ? 'low' : 'high'
    context.drawImage(frame, x, y, width, height)
    frame.close()
    if (drawnAt) {
      const drawn = new Uint8ClampedArray(drawnAt.at(seconds))
      const layer = new OffscreenCanvas(size.width, size.height)
      layer.getContext('2d')!.putImageData(new ImageData(drawn, size.width), 0, 0)
      context.drawImage(layer, 0, 0)
    }
    return context
  }
}
