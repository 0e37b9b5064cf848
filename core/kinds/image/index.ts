import { z } from 'zod'
import type { Kind } from '../Kind'
import { STILL_RATE } from '../Sequence'
import { imageInRegion } from './imageInRegion'
import { drifts, imageSchema, type ImageBase } from './Image'
import { imageSequence, imageSequenceSchema, type ImageSequence } from './imageSequence'
import { labelOfImage, reduceImage, type ImageAction } from './reduceImage'

/** An image in the manifest of a delivered folder. */
export const describedImageSchema = z.object({
  kind: z.literal('image'),
  placing: z.enum(['cover', 'contain', 'tile']),
  scrolling: z.enum(['page', 'fixed']),
  driftSeconds: z
    .number()
    .nullable()
    .describe('How long the slow pan and zoom takes there and back; null where there is none.'),
})
export type DescribedImage = z.infer<typeof describedImageSchema>

/** An image: a still in the formats and densities that screens need. */
export const image: Kind<ImageBase, ImageAction, ImageSequence, DescribedImage> = {
  schema: imageSchema,
  actions: ['image'],
  clips: () => false,
  hindrance(base) {
    if (base.placing !== 'cover') return 'A clip fills the region, and this image does not.'
    if (base.scrolling === 'fixed') return 'The image stays in place while the page scrolls.'
    return drifts(base) ? 'The image is panned by style. Take the pan and zoom away first.' : null
  },
  pictures: ({ placing, tileWidth, scrolling }) => ({
    densities: [1, 2],
    budgetShare: 1,
    width: placing === 'tile' ? tileWidth : null,
    fills: placing === 'cover' ? (scrolling === 'fixed' ? 'window' : 'region') : null,
    placed: placing !== 'tile',
    chosen: false,
  }),
  motion: (base) => (drifts(base) ? { turnSeconds: base.drift!.seconds, loops: true } : null),
  ground: ({ background, placing, opacity, scrolling }) => ({
    color: background,
    placeholder: placing === 'cover' && opacity === 1 && scrolling === 'page',
  }),
  styleBytes: (base) => (drifts(base) ? 2_400 : 2_200),
  frameRate: () => STILL_RATE,
  sequenceSchema: imageSequenceSchema,
  reduce: reduceImage,
  label: labelOfImage,
  sources: ({ material }) => [{ sourceId: material.sourceId, sha256: null }],
  sequence: imageSequence,
  seenIn: imageInRegion,
  layers: (base, { posters }) => [{ type: 'image', image: base, posters }],
  describe: (base) => ({
    kind: 'image',
    placing: base.placing,
    scrolling: base.scrolling,
    driftSeconds: image.motion(base)?.turnSeconds ?? null,
  }),
  lighter: () => [],
  checks: ({ material }, known) =>
    (known.get(material.sourceId)?.findings ?? []).filter(({ weight }) => weight !== 'note'),
}
