import type { SharedPictures } from '../../core/backdrop/recipe'
import type { AnySequence } from '../../core/kinds'
import { cleanVector } from './cleanVector'
import { blobOf, cleanedPlace, placeIn, type Places } from './sources'
import { WorkError } from './WorkError'

/*
 * Workers cannot decode drawings (SVG): a page draws them in pixels, large enough for what is made
 * of them, and gives the picture to the worker in the drawing's place.
 */

export const VECTOR_MIME = 'image/svg+xml'

/** How wide a slide's drawing is drawn at least: it may be zoomed. */
const DRAWN_SLIDE = 2560
/** Wider, a drawing is not drawn. */
const MAX_DRAWN = 7680

/** The part of a recipe that its drawing depends on. */
interface Drawn {
  readonly sequence: AnySequence
  readonly width: number
  /** Of pictures only. */
  readonly format?: string | undefined
  readonly shared?: SharedPictures | null
}

/**
 * The places of what a recipe needs, drawings replaced by pictures in which its sequence is at
 * least as wide as it asks; beside them the drawing itself, cleaned, where that is delivered.
 * Errors: `work/unreadable`, `work/decode-failed`.
 */
export async function drawnPlaces(
  { sequence, width, format, shared }: Drawn,
  places: Places,
): Promise<Places> {
  if (sequence.kind === 'particles') return drawnPlaces({ sequence: sequence.under, width }, places)
  if (sequence.kind === 'slideshow') {
    let drawn = places
    for (const { still } of sequence.slides)
      drawn = await drawnPlaces({ sequence: still, width: Math.max(width, DRAWN_SLIDE) }, drawn)
    return drawn
  }
  if (shared) {
    let drawn = places
    for (const each of shared.pictures) drawn = await drawnPlaces({ ...each, format }, drawn)
    return drawn
  }
  if (sequence.kind !== 'image' || sequence.mime !== VECTOR_MIME) return places
  const { sourceSha256, part } = sequence
  // One drawing may be several slides: it is drawn once.
  if ('file' in placeIn(places, sourceSha256) && format !== 'svg') return places
  const file = await blobOf(placeIn(places, sourceSha256), VECTOR_MIME)
  // Drawn from what is left after cleaning: embedded pages would make the canvas unreadable.
  const cleaned = await cleanVector(file, sequence.size, part)
  const drawn = await drawnVector(cleaned, sequence.size, Math.min(width, MAX_DRAWN), part)
  return {
    ...places,
    [sourceSha256]: { file: drawn },
    ...(format === 'svg' && { [cleanedPlace(sourceSha256)]: { file: cleaned } }),
  }
}

async function drawnVector(
  file: Blob,
  size: { readonly width: number; readonly height: number },
  width: number,
  part: { readonly width: number; readonly height: number } | null,
): Promise<Blob> {
  const url = URL.createObjectURL(file)
  try {
    const image = new Image()
    image.src = url
    await image.decode().catch((cause: unknown) => {
      throw new WorkError(
        'work/decode-failed',
        'The drawing cannot be shown in this browser. Export it again as SVG, or as PNG.',
        cause,
      )
    })
    const canvas = document.createElement('canvas')
    // The part is drawn at the wanted width, so the whole is larger.
    canvas.width = Math.ceil(width / (part?.width ?? 1))
    const whole = {
      width: size.width / (part?.width ?? 1),
      height: size.height / (part?.height ?? 1),
    }
    canvas.height = Math.ceil((canvas.width * whole.height) / whole.width)
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
    return await new Promise<Blob>((resolve, reject) =>
      canvas.toBlob(
        (blob) => (blob ? resolve(blob) : reject(new WorkError('work/decode-failed'))),
        'image/png',
      ),
    )
  } finally {
    URL.revokeObjectURL(url)
  }
}
