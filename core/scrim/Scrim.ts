import { z } from 'zod'
import { colorSchema, share } from '../bounded'
import { BLEND_MODES } from '../picture/blend'
import { FIRST_TEXTURE, textureSchema } from '../texture/Texture'

/** More layers are no longer told apart, and each is painted over every frame of the clip. */
export const MAX_SCRIM_LAYERS = 6
/** Stops of a gradient. */
export const MAX_SCRIM_STOPS = 8

const stopSchema = z.object({
  at: share(),
  color: colorSchema,
  /** Its opacity, of which the layer's strength takes its share. */
  strength: share(),
})

const layerSchema = z.object({
  /** Even layers and textures have the colour of their first stop alone. */
  shape: z.enum(['even', 'linear', 'radial', 'texture']),
  /** How it is mixed with what is behind it. */
  blend: z.enum(BLEND_MODES),
  /** Of the whole layer: 0 is nothing, 1 hides what is behind a normal one. */
  strength: share(),
  /** CSS angle of a linear one, and of lines: 0 points up, 90 to the right. */
  angleDeg: z.number().min(0).max(360),
  /** Of a radial one, in shares of the region; so is its radius, of width and height. */
  centre: z.object({ x: share(), y: share() }),
  radius: z.number().min(0.1).max(2),
  stops: z
    .array(stopSchema)
    .min(2, 'A gradient has two stops at least.')
    .max(MAX_SCRIM_STOPS, 'A gradient has eight stops at most.')
    .refine(
      (stops) => stops.every((stop, index) => index === 0 || stop.at >= stops[index - 1]!.at),
      'Stops stand in the order of their places.',
    ),
  /** What a texture is of. */
  texture: textureSchema,
})

/** Layers that are textures. */
const texturesIn = (layers: readonly z.infer<typeof layerSchema>[]): number =>
  layers.filter(({ shape }) => shape === 'texture').length

export const scrimSchema = z.object({
  /** From back to front. */
  layers: z
    .array(layerSchema)
    .max(MAX_SCRIM_LAYERS, 'A scrim has six layers at most.')
    // Two patterns that lie over each other cover what neither tells alone.
    .refine((layers) => texturesIn(layers) <= 1, 'A scrim has one texture at most.'),
})

/** The scrim between background and copy. Strengths are opacities, 0 to 1. */
export type Scrim = z.infer<typeof scrimSchema>
export type ScrimLayer = Scrim['layers'][number]
export type ScrimStop = ScrimLayer['stops'][number]

/** Nothing between them. */
export const NO_SCRIM: Scrim = { layers: [] }

/** A layer of one colour. It has what a gradient needs, so that its shape can be changed. */
export const evenLayer = (color: string, strength: number): ScrimLayer => ({
  shape: 'even',
  blend: 'normal',
  strength,
  angleDeg: 90,
  centre: { x: 0.5, y: 0.5 },
  radius: 0.8,
  stops: [
    { at: 0, color, strength: 1 },
    { at: 1, color, strength: 0 },
  ],
  texture: FIRST_TEXTURE,
})

export const evenScrim = (color: string, strength: number): Scrim => ({
  layers: [evenLayer(color, strength)],
})

/** A layer that runs along an angle, from one strength of a colour to another. */
export function linearLayer(
  color: string,
  [from, to]: readonly [number, number],
  angleDeg: number,
): ScrimLayer {
  const strength = Math.max(from, to)
  const part = (value: number): number => (strength > 0 ? value / strength : 1)
  return {
    ...evenLayer(color, strength),
    shape: 'linear',
    angleDeg,
    stops: [
      { at: 0, color, strength: part(from) },
      { at: 1, color, strength: part(to) },
    ],
  }
}

/** A scrim with another layer in the place of one. */
export const withLayer = ({ layers }: Scrim, index: number, layer: ScrimLayer): Scrim => ({
  layers: layers.with(index, layer),
})
