import { z } from 'zod'
import { colorSchema, share } from '../../bounded'

/** Slow motion takes so long at least and at most, in seconds, there and back. */
export const DRIFT_SECONDS = { min: 8, max: 120 } as const
/** How much closer than the whole picture a view may be. */
export const MAX_ZOOM = 3

export const viewSchema = z
  .object({ x: share(), y: share(), zoom: z.number().min(1).max(MAX_ZOOM) })
  .refine(
    ({ x, y, zoom }) => x <= 1 - 1 / zoom + 1e-6 && y <= 1 - 1 / zoom + 1e-6,
    'The view lies inside the picture.',
  )

/** An image: a still from the shelf, which may be panned and zoomed slowly. */
export const imageSchema = z.object({
  kind: z.literal('image'),
  material: z.object({ sourceId: z.uuid() }),
  /** Filling the region, shown whole, or repeated. */
  placing: z.enum(['cover', 'contain', 'tile']),
  /** Width of one tile in CSS pixels. */
  tileWidth: z.int().min(16).max(2000),
  /** Behind the image, and under its transparent parts. */
  background: colorSchema,
  opacity: share(),
  /** Whether it moves with the page, or stays in place while the page scrolls over it. */
  scrolling: z.enum(['page', 'fixed']),
  /** Slow pan and zoom between two views, there and back in `seconds`; null for none. */
  drift: z
    .object({
      from: viewSchema,
      to: viewSchema,
      seconds: z.number().min(DRIFT_SECONDS.min).max(DRIFT_SECONDS.max),
    })
    .nullable(),
})

export type ImageBase = z.infer<typeof imageSchema>

/** A part of what the region shows: its corner in shares, and how much closer it is. */
export type View = NonNullable<ImageBase['drift']>['from']

/** The values of a new image. */
export const FIRST_IMAGE = {
  placing: 'cover',
  tileWidth: 320,
  background: '#14101c',
  opacity: 1,
  scrolling: 'page',
  drift: null,
} as const satisfies Partial<ImageBase>

/** A slow zoom into the middle: what a designer starts from. */
export const FIRST_DRIFT: NonNullable<ImageBase['drift']> = {
  from: { x: 0, y: 0, zoom: 1 },
  to: { x: 0.09, y: 0.065, zoom: 1.2 },
  seconds: 40,
}

/** A new image backdrop's base: the whole image, filling the region. */
export function createImage(sourceId: string): ImageBase {
  return { kind: 'image', material: { sourceId }, ...FIRST_IMAGE }
}

/** Whether the image is panned: tiles and images shown whole are not. */
export function drifts({ placing, drift }: Pick<ImageBase, 'placing' | 'drift'>): boolean {
  return placing === 'cover' && drift !== null
}

/** A view moved inside the picture: zooming out must not leave it half outside. */
export function insideView({ x, y, zoom }: View): View {
  const near = Math.min(MAX_ZOOM, Math.max(1, zoom))
  const most = 1 - 1 / near
  const within = (value: number): number => Math.min(most, Math.max(0, value))
  return { x: within(x), y: within(y), zoom: near }
}

/** The view at a share of the way from one to the other, 0 to 1. */
export function viewAt(
  { from, to }: Pick<NonNullable<ImageBase['drift']>, 'from' | 'to'>,
  share: number,
): View {
  // As CSS interpolates `translate() scale()`: each part of the transform by itself.
  const mix = (a: number, b: number): number => a + (b - a) * share
  const zoom = mix(from.zoom, to.zoom)
  return {
    x: mix(from.x * from.zoom, to.x * to.zoom) / zoom,
    y: mix(from.y * from.zoom, to.y * to.zoom) / zoom,
    zoom,
  }
}
