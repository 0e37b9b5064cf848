import { z } from 'zod'
import { colorSchema, count, sha256Schema, share, text } from '../../bounded'
import type { Size } from '../../fit/cover'
import type { ShareRect } from '../../picture/pictureShape'
import type { SequenceOptions, Sources } from '../Sources'
import { STILL_RATE, type Sequence } from '../Sequence'
import type { ImageBase } from './Image'

/** A heavier drawing takes visitors' processors longer to draw than a picture to decode. */
const MAX_VECTOR_BYTES = 40_000

/** What decides the one frame of an image. */
interface ImagePlan {
  readonly sourceSha256: string
  /** Of the file: what its decoder is chosen by, and how much is read. */
  readonly mime: string
  readonly bytes: number
  readonly size: Size
  /** The part that is shown, in shares of the upright picture; null for all of it. */
  readonly part: ShareRect | null
  /** What transparent parts are filled with; null where there are none. */
  readonly matte: string | null
  /** How much of the image covers that, 0 to 1: what is left of it is flattened into the file. */
  readonly opacity: number
  /** Of a drawing that can be delivered as it is; null of any other image. */
  readonly vectorBytes: number | null
}

/** The one frame of an image. */
export interface ImageSequence extends Sequence, ImagePlan {
  readonly kind: 'image'
}

/** The sequence of an image; null where its source is not known, or is no image. */
export function imageSequence(
  { material, background }: ImageBase,
  known: Sources,
  { part }: SequenceOptions = {},
): ImageSequence | null {
  return stillOf({ sourceId: material.sourceId, background, opacity: 1 }, known, part)
}

/** One image as files are made of it. */
interface StillOrder {
  readonly sourceId: string
  readonly background: string
  readonly opacity: number
}

/** The frame of an image over a colour; null where its source is not known, or is no image. */
export function stillOf(
  { sourceId, background, opacity }: StillOrder,
  known: Sources,
  part: ShareRect | null = null,
): ImageSequence | null {
  const source = known.get(sourceId)
  if (!source?.image) return null
  const { mime, bytes, alpha, isDrawing = false } = source.image
  return imageSequenceFrom({
    sourceSha256: source.sha256,
    mime,
    bytes,
    size: {
      width: Math.max(2, Math.round(source.width * (part?.width ?? 1))),
      height: Math.max(2, Math.round(source.height * (part?.height ?? 1))),
    },
    part: part ?? null,
    matte: alpha || opacity < 1 ? background : null,
    opacity,
    vectorBytes: isDrawing && !part && opacity === 1 && bytes <= MAX_VECTOR_BYTES ? bytes : null,
  })
}

const short = (value: number): string => String(Math.round(value * 1e5) / 1e5)

function imageSequenceFrom(plan: ImagePlan): ImageSequence {
  const { sourceSha256, part, matte, opacity } = plan
  const shown = part ? `:${[part.x, part.y, part.width, part.height].map(short).join(',')}` : ''
  return {
    kind: 'image',
    ...plan,
    frames: 1,
    frameRate: STILL_RATE,
    loops: true,
    inputs: [sourceSha256],
    keys: {
      inputs: sourceSha256,
      picture: `:image${shown}${matte ? `:matte${matte}` : ''}${opacity < 1 ? `:opacity${short(opacity)}` : ''}`,
      frames: 'still',
      first: 'still',
    },
  }
}

const side = () => z.int().min(1).max(65_536)

/** An image's sequence as it crosses the wire. */
export const imageSequenceSchema: z.ZodType<ImageSequence> = z
  .object({
    kind: z.literal('image'),
    sourceSha256: sha256Schema,
    mime: text(40),
    bytes: count().min(1),
    size: z.object({ width: side(), height: side() }),
    part: z.object({ x: share(), y: share(), width: share(), height: share() }).nullable(),
    matte: colorSchema.nullable(),
    opacity: share(),
    vectorBytes: count().nullable(),
  })
  .transform(imageSequenceFrom)
