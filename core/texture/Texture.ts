import { z } from 'zod'

/** The patterns that Telon draws; with `own`, one that was made of an image of the shelf. */
export const PATTERNS = [
  'lines',
  'scan-lines',
  'hairline',
  'dots',
  'checks',
  'weave',
  'grain',
  'paper',
] as const

/** The largest side of a tile that was made of an image, in pixels. */
export const MAX_TILE_SIDE = 64

const side = () => z.int().min(1).max(MAX_TILE_SIDE)

/** A small picture of coverage: a digit for each pixel, row after row; 0 is clear, 3 is full. */
export const tileSchema = z
  .object({
    width: side(),
    height: side(),
    levels: z
      .string()
      .regex(/^[0-3]+$/, 'A tile has the levels 0 to 3.')
      .max(MAX_TILE_SIDE ** 2),
  })
  .refine(
    ({ width, height, levels }) => levels.length === width * height,
    'A tile has a level for each pixel.',
  )

export const textureSchema = z
  .object({
    pattern: z.enum([...PATTERNS, 'own']),
    /** Device pixels of a visitor's screen for each pixel of the tile. */
    scale: z.int().min(1).max(8),
    /** Of an own pattern. */
    tile: tileSchema.nullable(),
  })
  .refine(
    ({ pattern, tile }) => (pattern === 'own') === (tile !== null),
    'An own pattern has a tile, and no other has.',
  )

/** A fine pattern that is repeated over the region, in the colour and strength of its layer. */
export type Texture = z.infer<typeof textureSchema>
export type Pattern = Texture['pattern']
export type Tile = z.infer<typeof tileSchema>

/** What a layer of another shape would begin with. */
export const FIRST_TEXTURE: Texture = { pattern: 'lines', scale: 1, tile: null }

/** The steps of coverage. */
export const FULL_LEVEL = 3
