import { coverRect, paintedRect, type Size } from '../../../core/fit/cover'
import type { TextPlace } from '../../../core/legibility/TextPlace'
import { parseHex } from '../../../core/picture/srgb'
import { worstPlace, type WorstPlace } from '../../../core/scrim/frameContrast'
import type { Scrim } from '../../../core/scrim/Scrim'
import { even } from '../../../core/weight/renditionSize'
import type { Prepared } from '../../../core/particles/Prepared'
import type { ScreenView } from '../../../core/legibility/CopySamples'
import { frameOf, type Composed } from '../compose/composeFrame'
import type { OpenSequence } from '../sequences/OpenSequence'
import type { ContrastBase } from './ContrastOrder'
import { drawnParticles, type DrawnParticles } from './drawnParticles'

/**
 * Regions are looked at as large as they are, in cells of 4 pixels: where little of a text lies on
 * something bright, half of the size makes a difference of 7 %.
 */
const CELL = 4
const MAX_WIDTH = 1920
/** Bytes of frames that are remembered: other scrims and colours have the same worst times. */
const MAX_HELD = 128_000_000

/** Composes frames large enough for every screen, and remembers them. */
export class LargeFrames {
  private readonly held = new Map<string, Composed>()
  private bytes = 0

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
      this.hold(nameOf(number), frame)
      yield { number, frame }
    }
  }

  private hold(name: string, frame: Composed): void {
    // Two who measure at once may have composed the same frame.
    this.drop(name)
    this.held.set(name, frame)
    this.bytes += frame.picture.data.byteLength
    for (const oldest of this.held.keys()) if (this.bytes > MAX_HELD) this.drop(oldest)
  }

  private drop(name: string): void {
    this.bytes -= this.held.get(name)?.picture.data.byteLength ?? 0
    this.held.delete(name)
  }
}

/** Measures copy on a screen in frames at full size. */
export class FullSizeScreen {
  private readonly view: ScreenView
  private readonly scrim: Scrim
  private readonly size: Size
  private readonly context: OffscreenCanvasRenderingContext2D
  private readonly particles: DrawnParticles | null

  private constructor(view: ScreenView, scrim: Scrim, particles: DrawnParticles | null) {
    this.view = view
    this.scrim = scrim
    this.particles = particles
    this.size = {
      width: Math.max(1, Math.round(view.region.width)),
      height: Math.max(1, Math.round(view.region.height)),
    }
    this.context = new OffscreenCanvas(this.size.width, this.size.height).getContext('2d', {
      willReadFrequently: true,
    })!
  }

  static async of(
    view: ScreenView,
    scrim: Scrim,
    particles: Prepared | null,
  ): Promise<FullSizeScreen> {
    const drawn = particles && (await drawnParticles(particles, view.region, 1))
    return new FullSizeScreen(view, scrim, drawn)
  }

  /** The place that counts behind each text, in CSS pixels; null where nothing is behind it. */
  measure(composed: Composed, seconds: number, texts: readonly TextPlace[]): (WorstPlace | null)[] {
    const pixels = { data: this.painted(composed, seconds), ...this.size }
    return texts.map(({ boxes, color, plate }) =>
      worstPlace(pixels, this.scrim, boxes, parseHex(color), CELL, plate),
    )
  }

  private painted(composed: Composed, seconds: number): Uint8ClampedArray {
    const { context, size } = this
    const { picture, region, focal } = this.view
    const { x, y, width, height } = paintedRect(picture, region, focal)
    const frame = frameOf(composed, 0)
    // Linear, as browsers enlarge clips: anything finer is sharper than what is seen.
    context.imageSmoothingQuality = width > frame.displayWidth ? 'low' : 'high'
    context.drawImage(frame, x, y, width, height)
    frame.close()
    if (this.particles) {
      const drawn = new Uint8ClampedArray(this.particles.at(seconds))
      const layer = new OffscreenCanvas(size.width, size.height)
      layer.getContext('2d')!.putImageData(new ImageData(drawn, size.width), 0, 0)
      context.drawImage(layer, 0, 0)
    }
    return context.getImageData(0, 0, size.width, size.height).data
  }
}
