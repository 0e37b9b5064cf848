import type { CopySamples } from '../../../core/legibility/CopySamples'
import { drawLinks } from '../../../core/particles/links'
import { painterOf } from '../../../core/particles/Painter'
import { SPRITES, type Prepared } from '../../../core/particles/Prepared'
import type { Size } from '../../../core/picture/Size'
import { decodedSprites } from '../sequences/decodedSprites'

/** Particles over a region, drawn small. */
export interface DrawnParticles {
  /** Where samples are in the bytes of a drawing. */
  placesOf(samples: CopySamples): Int32Array
  /** RGBA at a moment. */
  at(seconds: number): Uint8ClampedArray
}

/** Draws particles over a region at `scale` pixels for each CSS pixel. */
export async function drawnParticles(
  prepared: Prepared,
  region: Size,
  scale: number,
): Promise<DrawnParticles> {
  const width = Math.max(1, Math.round(region.width * scale))
  const height = Math.max(1, Math.round(region.height * scale))
  const context = new OffscreenCanvas(width, height).getContext('2d', {
    willReadFrequently: true,
  })!
  const draw = painterOf(
    prepared,
    region,
    scale,
    [drawLinks],
    await decodedSprites(prepared[0][SPRITES]),
  )
  return {
    placesOf: ({ x, y }) =>
      Int32Array.from(x, (each, sample) => {
        const column = Math.min(width - 1, Math.floor(each * scale))
        const row = Math.min(height - 1, Math.floor(y[sample]! * scale))
        return (row * width + column) * 4
      }),
    at(seconds) {
      draw(context, seconds)
      return context.getImageData(0, 0, width, height).data
    },
  }
}
