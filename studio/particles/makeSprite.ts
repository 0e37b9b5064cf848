import { MAX_SPRITE_BYTES, MAX_SPRITE_SIDE } from '../../core/particles/sprites'
import type { LoadedImage } from '../shelf/loadImage'

/** Sides that are tried in pixels, from the finest, and qualities of each. */
const SIDES = [MAX_SPRITE_SIDE, 192, 128, 96, 64, 48, 32]
/** Canvas pixels for each CSS pixel, as the delivered script has at most. */
const DENSITY = 1.5
const QUALITIES = [0.9, 0.75, 0.6]

/** Why an image cannot be a sprite, with what to do. */
export class SpriteProblem extends Error {
  override readonly name = 'SpriteProblem'
}

/** The sides that serve elements of a diameter: much finer pictures flicker when they are small. */
export function sidesFor(diameter: number): readonly number[] {
  const needed = SIDES.filter((side) => side >= diameter * DENSITY)
  return SIDES.slice(Math.max(0, needed.length - 1))
}

/**
 * An image as a sprite for elements of a diameter in CSS pixels: whole, in the middle of a square,
 * as fine as its bytes allow. Throws SpriteProblem where it needs too many bytes even when it is
 * small.
 */
export async function makeSprite(loaded: LoadedImage, diameter: number): Promise<string> {
  for (const side of sidesFor(diameter))
    for (const quality of QUALITIES) {
      const made = await encode(loaded, side, quality)
      if (made.size <= MAX_SPRITE_BYTES) return addressOf(made)
      // Formats without a quality stay as large.
      if (made.type !== 'image/webp') break
    }
  throw new SpriteProblem(
    `This image has too much detail for a sprite: more than ${MAX_SPRITE_BYTES / 1000} kB even at ${SIDES.at(-1)} px. Choose a plainer one.`,
  )
}

function encode({ image, size }: LoadedImage, side: number, quality: number): Promise<Blob> {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = side
  const scale = side / Math.max(size.width, size.height)
  const [width, height] = [size.width * scale, size.height * scale]
  const context = canvas.getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.drawImage(image, (side - width) / 2, (side - height) / 2, width, height)
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) => (blob ? resolve(blob) : reject(new SpriteProblem('It cannot be encoded here.'))),
      'image/webp',
      quality,
    ),
  )
}

async function addressOf(file: Blob): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  return `data:${file.type};base64,${btoa(String.fromCharCode(...bytes))}`
}
