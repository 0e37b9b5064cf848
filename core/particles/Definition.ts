import { z } from 'zod'
import { colorSchema, count, share, text } from '../bounded'
import {
  isSprite,
  MAX_SPRITE_BYTES,
  MAX_SPRITE_CHARS,
  MAX_SPRITE_SIDE,
  MAX_SPRITES,
  SPRITE_ADDRESS,
} from './sprites'

/** What an element looks like. */
export const SHAPES = [
  'disc',
  'glow',
  'ring',
  'streak',
  'flake',
  'leaf',
  'petal',
  'paper',
  'star',
  'bubble',
  'blob',
] as const
export type Shape = (typeof SHAPES)[number]

/** Most elements of one backdrop, whatever its size. */
export const MAX_ELEMENTS = 2000
/** Most links of one element: their number grows with the elements, not with their square. */
export const MAX_LINKS = 6
/** A brightness that changes faster than this could flash (WCAG 2.3.1 allows three a second). */
const MIN_TWINKLE_SECONDS = 0.5

/** Swings are whole rounds of a period: in a shorter one the quickest could flash. */
export const MIN_PERIOD_SECONDS = 2

const EDGES = ['top', 'right', 'bottom', 'left'] as const

/** From a least to a greatest value; each element gets one between them. */
const range = (min: number, max: number, told: string) =>
  z
    .strictObject({ from: z.number().min(min).max(max), to: z.number().min(min).max(max) })
    .describe(told)

const weight = z.number().min(0.01).max(1000).default(1).describe('How often, among the others.')

const shapeSchema = z
  .strictObject({
    shape: z.enum(SHAPES).optional(),
    sprite: z
      .string()
      .max(MAX_SPRITE_CHARS, `A sprite has at most ${MAX_SPRITE_BYTES} bytes`)
      .regex(SPRITE_ADDRESS, 'A sprite is a WebP or PNG in base64, as a data address')
      .refine(isSprite, `A sprite has at most ${MAX_SPRITE_SIDE} pixels to each side`)
      .optional()
      .describe('A picture as a data address: WebP or PNG.'),
    tinted: z
      .boolean()
      .optional()
      .describe('Whether a sprite is drawn in the colours of the palette, instead of its own.'),
    weight,
  })
  .refine(
    ({ shape, sprite }) => (shape === undefined) !== (sprite === undefined),
    'Give each either a shape or a sprite.',
  )

const motionSchema = z.strictObject({
  direction: z
    .number()
    .min(0)
    .max(360)
    .describe('Where elements go, in degrees: 0 is up, 90 to the right.'),
  spread: z
    .number()
    .min(0)
    .max(360)
    .default(0)
    .describe('How far single elements may deviate from it, in degrees altogether.'),
  speed: range(0, 2000, 'CSS pixels a second.'),
  life: z
    .number()
    .min(0.5)
    .max(120)
    .default(6)
    .describe('Seconds after which slow elements fade out and begin elsewhere.'),
  sway: z
    .strictObject({
      distance: z.number().min(0).max(500).describe('CSS pixels to each side.'),
      seconds: z.number().min(0.5).max(120).describe('How long to and fro takes.'),
    })
    .nullable()
    .default(null)
    .describe('To and fro across the direction.'),
  wander: z
    .strictObject({
      distance: z.number().min(0).max(500).describe('CSS pixels at most.'),
      seconds: z.number().min(0.5).max(120).describe('About how long a round takes.'),
    })
    .nullable()
    .default(null)
    .describe('Along a flow that neighbours share.'),
  spin: range(-240, 240, 'Turns a minute, to the right.').default({ from: 0, to: 0 }),
  rise: z
    .number()
    .min(-2000)
    .max(2000)
    .default(0)
    .describe('CSS pixels up and down again within a life, as if thrown.'),
  swell: share().default(0).describe('How much an element grows to the middle of its life.'),
  twinkle: z
    .strictObject({
      amount: share().describe('How much of its opacity goes.'),
      seconds: z.number().min(MIN_TWINKLE_SECONDS).max(60).describe('From bright to bright.'),
    })
    .nullable()
    .default(null),
})

/** A definition of particles, as it is stored and exchanged. */
export const definitionSchema = z.strictObject({
  format: z.literal('telon-particles'),
  version: z.literal(1),
  name: text(60),
  seed: count(2_147_483_647).describe('Another seed gives another arrangement of the same kind.'),
  period: z
    .number()
    .min(MIN_PERIOD_SECONDS)
    .max(120)
    .describe('Seconds after which everything is as it was at the beginning.'),
  perMegapixel: z
    .number()
    .min(0.5)
    .max(4000)
    .describe('Elements in an area of a million CSS pixels.'),
  most: count(MAX_ELEMENTS).min(1).default(400).describe('Elements at most, whatever the area.'),
  shapes: z
    .array(shapeSchema)
    .min(1)
    .max(SHAPES.length + MAX_SPRITES)
    .refine(
      (shapes) => shapes.filter(({ sprite }) => sprite !== undefined).length <= MAX_SPRITES,
      `At most ${MAX_SPRITES} of them are sprites.`,
    )
    .describe('What elements look like: each is a shape, or a sprite.'),
  size: range(0.5, 800, 'Diameter in CSS pixels, of the nearest elements.'),
  depth: z
    .strictObject({
      planes: z.int().min(1).max(6).default(1),
      size: share().default(0).describe('How much smaller the farthest plane is.'),
      speed: share().default(0).describe('How much slower it is.'),
      softness: share().default(0).describe('How soft the nearest plane is.'),
    })
    .default({ planes: 1, size: 0, speed: 0, softness: 0 }),
  colours: z
    .strictObject({
      palette: z
        .array(z.strictObject({ colour: colorSchema, weight }))
        .min(1)
        .max(12),
      by: z
        .enum(['random', 'depth', 'age'])
        .default('random')
        .describe('By the weights; from far to near; or from the beginning of a life to its end.'),
      core: colorSchema
        .nullable()
        .default(null)
        .describe('In the middle of what glows, and of stars; null for their own colour.'),
    })
    .describe('What colours elements have.'),
  opacity: range(0, 1, 'From the faintest to the strongest element.'),
  blend: z.enum(['normal', 'add']).default('normal').describe('`add` is for light.'),
  motion: motionSchema,
  links: z
    .strictObject({
      distance: z.number().min(4).max(400).describe('In CSS pixels, between centres.'),
      most: z.int().min(1).max(MAX_LINKS).describe('Links of one element at most.'),
      width: z.number().min(0.25).max(8),
      opacity: share().describe('Of the shortest links; longer ones are fainter.'),
      filled: z.boolean().default(false).describe('Whether triangles of links are filled.'),
    })
    .nullable()
    .default(null),
  where: z
    .strictObject({
      edge: z.enum(EDGES),
      from: share().describe('Where it begins, in shares of the way from this edge to the other.'),
      to: share().describe('Where it ends.'),
      soft: share().default(0.2).describe('The share in which it fades at both ends.'),
    })
    .nullable()
    .default(null)
    .describe('A band from an edge; null for everywhere.'),
  pointer: z
    .strictObject({
      reaction: z.enum(['part', 'gather', 'brighten', 'link']),
      radius: z.number().min(10).max(600).describe('In CSS pixels.'),
      strength: share(),
    })
    .nullable()
    .default(null)
    .describe('What a mouse does; nothing happens by touch.'),
})
export type Definition = z.infer<typeof definitionSchema>

/** The JSON Schema of definitions, for docs/schema. */
export const particlesJsonSchema = (): object =>
  z.toJSONSchema(definitionSchema, { io: 'input', unrepresentable: 'any' })
