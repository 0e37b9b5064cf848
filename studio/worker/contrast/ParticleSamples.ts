import type { CopySamples, ScreenView } from '../../../core/legibility/CopySamples'
import type { LiveParticles } from './ContrastOrder'
import { drawnParticles, type DrawnParticles } from './drawnParticles'
import { Held } from './Held'

/** RGBA of particles at the samples of all texts of a screen, one after another, by seconds. */
export type SampledTimes = ReadonlyMap<number, Uint8ClampedArray>

const BYTES = 4

const MAX_HELD = 64_000_000

export const heldSamples = (): Held<SampledTimes> =>
  new Held(MAX_HELD, (times) => [...times.values()].reduce((sum, data) => sum + data.byteLength, 0))

/**
 * Particles in front of the samples of a screen. What was drawn once is remembered: it is the same
 * under other scrims and colours.
 */
export class ParticleSamples {
  /** Where the samples of each text are in what `at` gives; null for texts without. */
  readonly places: readonly (Int32Array | null)[]
  private readonly times: Map<number, Uint8ClampedArray>
  private drawn: Promise<DrawnParticles & { readonly spots: Int32Array }> | null = null
  private readonly key: string

  constructor(
    private readonly particles: LiveParticles,
    private readonly view: ScreenView,
    private readonly scale: number,
    private readonly samples: readonly (CopySamples | null)[],
    private readonly held: Held<SampledTimes>,
  ) {
    const { picture, region, focal, texts } = view
    const boxes = texts.map((text) => text.boxes)
    const counts = samples.map((each) => each?.count)
    this.key = JSON.stringify([particles.key, scale, picture, region, focal, boxes, counts])
    this.times = new Map(held.get(this.key))
    let next = 0
    this.places = samples.map(
      (each) => each && Int32Array.from(each.x, () => (next += BYTES) - BYTES),
    )
  }

  /** RGBA at a moment, of all samples. */
  async at(seconds: number): Promise<Uint8ClampedArray> {
    const known = this.times.get(seconds)
    if (known) return known
    this.drawn ??= this.open()
    const { at, spots } = await this.drawn
    const drawing = at(seconds)
    const data = new Uint8ClampedArray(spots.length * BYTES)
    for (let sample = 0; sample < spots.length; sample++)
      for (let byte = 0; byte < BYTES; byte++)
        data[sample * BYTES + byte] = drawing[spots[sample]! + byte]!
    this.times.set(seconds, data)
    return data
  }

  /** Remembers what was drawn. */
  keep(): void {
    if (this.drawn) this.held.set(this.key, this.times)
  }

  private async open(): Promise<DrawnParticles & { readonly spots: Int32Array }> {
    const drawn = await drawnParticles(this.particles.prepared, this.view.region, this.scale)
    const all = this.samples.flatMap((each) => (each ? [...drawn.placesOf(each)] : []))
    return { ...drawn, spots: Int32Array.from(all) }
  }
}
