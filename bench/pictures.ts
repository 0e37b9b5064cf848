import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import type { ClipRecipe, PosterRecipe } from '../core/backdrop/recipe'
import { stillOf } from '../core/kinds/image/imageSequence'
import { pictureEncoder } from '../encoders/encodePicture'
import { RenderBrowser } from '../headless/RenderBrowser'
import { recipeOf } from './weight'

/*
 * Posters by sharp against those of the browser's encoders at equal similarity: first frames of
 * clips, and images.
 */

const CLIPS = ['dusk-window.mov', 'rain-platform.mp4', 'aurora-fjord.webm', 'harbour-lights.mp4']
const IMAGES = [
  'cabin-berth.jpg',
  'cabin-corridor.jpg',
  'first-snow.jpg',
  'fjord-night.webp',
  'stop-lakeside.jpg',
  'stop-salt-flats.jpg',
]
const WIDTH = 1280
const FORMATS = ['avif', 'webp', 'jpeg'] as const
/** Shares of what the browser's encoder takes for a picture without visible loss. */
const SHARES = [1, 0.4]
const NO_LIMIT = 20e6
/** Attempts of sharp around the similarity that the browser's file has. */
const TRIES = 4

type Material = Pick<PosterRecipe, 'sequence' | 'width' | 'height'>

const fromClip = ({ sequence, width, height }: ClipRecipe): Material => ({
  sequence,
  width,
  height,
})

async function fromImage(file: string): Promise<Material> {
  const bytes = await readFile(file)
  const { width, height, format } = await sharp(bytes).metadata()
  const mime = `image/${format}`
  const known = {
    sha256: '',
    width,
    height,
    image: { mime, bytes: bytes.byteLength, alpha: false },
  }
  const sequence = stillOf({ sourceId: 'image', background: '#000000', opacity: 1 }, {
    get: () => known,
  } as unknown as Parameters<typeof stillOf>[1])
  if (!sequence) throw new Error('no image')
  const scale = Math.min(1, WIDTH / width)
  const even = (side: number): number => Math.round((side * scale) / 2) * 2
  return { sequence, width: even(width), height: even(height) }
}

interface Made {
  readonly bytes: number
  readonly ssim: number
}

/** Bytes that sharp needs for the similarity of a file, between its nearest two attempts. */
function bytesAt(ssim: number, tries: readonly Made[]): number | null {
  const sorted = [...tries].sort((a, b) => a.ssim - b.ssim)
  const above = sorted.findIndex((each) => each.ssim >= ssim)
  if (above <= 0) return above === 0 ? sorted[0]!.bytes : null
  const [low, high] = [sorted[above - 1]!, sorted[above]!]
  const u = (ssim - low.ssim) / (high.ssim - low.ssim)
  return Math.exp(Math.log(low.bytes) * (1 - u) + Math.log(high.bytes) * u)
}

/** Measures all formats on the demonstration's pictures. */
export async function measurePictures(demo: string): Promise<void> {
  const pictures = await pictureEncoder({})
  if (!pictures) throw new Error('sharp is not installed')
  const browser = await RenderBrowser.start()
  browser.pictures = pictures.encode
  const saved = new Map(FORMATS.map((format) => [format, [] as number[]]))
  for (const name of [...CLIPS, ...IMAGES]) {
    const file = join(demo, name)
    const material = CLIPS.includes(name)
      ? fromClip(await recipeOf(file, 'av1'))
      : await fromImage(file)
    for (const format of FORMATS) {
      const made = async (encoder: string | null, maxBytes: number): Promise<Made> => {
        const { bytes, facts } = await browser.render(file, {
          ...{ kind: 'poster', picture: { kind: 'first' }, copyBlur: null, shared: null, format },
          ...{ ...material, encoder, maxBytes: Math.round(maxBytes) },
        })
        return { bytes: bytes.byteLength, ssim: (facts as { readonly ssim: number }).ssim }
      }
      const whole = await made(null, NO_LIMIT)
      for (const share of SHARES) {
        const theirs = share === 1 ? whole : await made(null, whole.bytes * share)
        const tries: Made[] = []
        for (let at = theirs.bytes; tries.length < TRIES; at *= 0.8)
          tries.push(await made(pictures.name, at))
        // Without a limit both end at the first step without visible loss.
        const bytes = share === 1 ? tries[0]!.bytes : bytesAt(theirs.ssim, tries)
        if (bytes !== null) saved.get(format)!.push(1 - bytes / theirs.bytes)
        console.log(
          `${name} ${format}: browser ${theirs.bytes} at ${theirs.ssim.toFixed(4)}, ${pictures.name} ${bytes?.toFixed(0) ?? '–'}; ${tries.map((each) => `${each.bytes} at ${each.ssim.toFixed(4)}`).join(', ')}`,
        )
      }
    }
  }
  await browser.stop()
  for (const [format, shares] of saved)
    console.log(
      `${format}: ${shares.length} compared, mean ${((shares.reduce((sum, each) => sum + each, 0) / shares.length) * 100).toFixed(0)} % smaller, least ${(Math.min(...shares) * 100).toFixed(0)} %`,
    )
}
