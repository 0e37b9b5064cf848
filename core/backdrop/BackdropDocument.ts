import { z } from 'zod'

/** `#rrggbb`. */
const color = z.string().regex(/^#[0-9a-fA-F]{6}$/, 'A colour is written like #1b2a4c.')
const share = z.number().min(0).max(1)
const text = (longest: number) => z.string().max(longest)

/** A link that cannot run code: a fragment, a path, or a web or mail address. */
const href = z.string().max(500).regex(/^(#|\/|\.\/|https?:\/\/|mailto:|tel:)|^$/i, 'A target begins with #, / or https://.')

export const fractionSchema = z.object({ num: z.int().min(1).max(240_000), den: z.int().min(1).max(1_000_000) })

const cutSchema = z
  .object({ timescale: z.int().min(1), start: z.number().min(0), end: z.number() })
  .refine((cut) => cut.end > cut.start, 'The end lies after the start.')

const shareRect = z
  .object({ x: share, y: share, width: z.number().min(0.05).max(1), height: z.number().min(0.05).max(1) })
  .refine(({ x, y, width, height }) => x + width <= 1.000001 && y + height <= 1.000001, 'The crop lies inside the picture.')

/** Bytes by screen class. */
const bytesByClass = z.object({ phone: z.int().min(2_000), laptop: z.int().min(2_000), wide: z.int().min(2_000) })

/** A backdrop with every decision about it: one versioned JSON document, changed only through `reduce`. */
export const backdropSchema = z.object({
  version: z.literal(2),
  kind: z.literal('footage'),
  material: z.object({ sourceId: z.string() }),
  timing: z.object({
    cut: cutSchema,
    speed: z.number().min(0.25).max(4),
    repeat: z.enum(['loop', 'once']),
    frameRate: fractionSchema,
    /** How the end meets the start; `overlapSeconds` counts in a blended seam only. */
    seam: z.object({ kind: z.enum(['straight', 'blended', 'there-and-back']), overlapSeconds: z.number().min(0.04).max(10) }),
    /** Whether slow motion mixes neighbouring frames instead of showing one twice. */
    blendFrames: z.boolean(),
    /** What a clip that plays once ends with: its last frame, or a fade back to the still. */
    atEnd: z.enum(['hold', 'fade']),
  }),
  /** How the picture is cropped (in shares of the upright picture) and straightened. */
  picture: z.object({ crop: shareRect.nullable(), quarterTurns: z.int().min(0).max(3), mirrored: z.boolean() }),
  still: z.object({
    /** The first output frame, a frame of the clip by its moment, or a still from the shelf. */
    picture: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('first') }),
      z.object({ kind: z.literal('frame'), ticks: z.number().min(0), timescale: z.int().min(1) }),
      // What it is made from stands here whole, so that the same document always means the same picture.
      z.object({ kind: z.literal('source'), sourceId: z.uuid(), sha256: z.string().regex(/^[0-9a-f]{64}$/), mime: z.string().max(40), bytes: z.int().min(1) }),
    ]),
    /** Whether AVIF is written besides WebP and JPEG. */
    avif: z.boolean(),
    /** Bytes that one still may take, by screen class. */
    ceilings: bytesByClass,
  }),
  copy: z.object({
    brand: text(60),
    links: z.array(text(40)).max(6),
    heading: text(200),
    body: text(500),
    button: z.object({ label: text(60), href }),
    color,
    buttonColor: color,
  }),
  scrim: z.object({
    kind: z.enum(['flat', 'gradient']),
    color,
    strength: share,
    toColor: color,
    toStrength: share,
    angleDeg: z.number().min(0).max(360),
  }),
  fit: z.object({
    scope: z.enum(['region', 'page']),
    height: z.object({ unit: z.enum(['svh', 'px']), value: z.int().min(10).max(4000) }),
    focal: z.object({ x: share, y: share }),
  }),
  behaviour: z.object({
    phone: z.enum(['play', 'still']),
    reducedMotion: z.enum(['play', 'still']),
    dataSaver: z.enum(['play', 'still']),
    playbackRate: z.number().min(0.25).max(2),
    pauseControl: z.boolean(),
    autoplayInMarkup: z.boolean(),
  }),
  weight: z.object({
    /** Widths in pixels by screen class; the source's own width is never exceeded. */
    widths: z.object({ phone: z.int().min(160).max(3840), laptop: z.int().min(160).max(3840), wide: z.int().min(160).max(3840) }),
    formats: z.object({ vp9: z.boolean(), h264: z.boolean() }).refine((formats) => formats.vp9 || formats.h264, 'At least one format stays.'),
    /** Bytes that one clip may take, by screen class. */
    budgets: z.object({ phone: z.int().min(20_000), laptop: z.int().min(20_000), wide: z.int().min(20_000) }),
  }),
})

export type BackdropDocument = z.infer<typeof backdropSchema>

/** What a backdrop starts with where nothing was decided: also what older documents are taken to have meant. */
export const FIRST_DECISIONS = {
  timing: { seam: { kind: 'straight', overlapSeconds: 0.8 }, blendFrames: false, atEnd: 'hold' },
  picture: { crop: null, quarterTurns: 0, mirrored: false },
  // A small part of each screen's budget for the clip: the still must arrive first.
  still: { picture: { kind: 'first' }, avif: true, ceilings: { phone: 60_000, laptop: 120_000, wide: 200_000 } },
} as const satisfies { timing: Partial<BackdropDocument['timing']>; picture: BackdropDocument['picture']; still: BackdropDocument['still'] }

/** The sources a document stands on: its clip, and the still from the shelf where it has one. */
export function sourcesOf({ material, still }: Pick<BackdropDocument, 'material' | 'still'>): string[] {
  return still.picture.kind === 'source' ? [material.sourceId, still.picture.sourceId] : [material.sourceId]
}

/** Upgrades by the version they start from. Each returns the next version's shape; the schema checks the outcome. */
const UPGRADES: Readonly<Record<number, (document: Record<string, unknown>) => Record<string, unknown>>> = {
  // Version 0 was the shape of the first drafts, before budgets were kept by screen class.
  0: (document) => {
    const weight = (document['weight'] ?? {}) as Record<string, unknown>
    const budget = typeof weight['budgetBytes'] === 'number' ? weight['budgetBytes'] : DEFAULT_BUDGETS.laptop
    const { budgetBytes: _, ...kept } = weight
    return { ...document, version: 1, weight: { ...kept, budgets: { ...DEFAULT_BUDGETS, laptop: budget } } }
  },
  // Version 1 knew straight seams only, took pictures as they are, and made the still from the first frame.
  1: (document) => ({
    ...document, version: 2, timing: { ...FIRST_DECISIONS.timing, ...((document['timing'] ?? {}) as Record<string, unknown>) }, picture: FIRST_DECISIONS.picture, still: FIRST_DECISIONS.still,
  }),
}

/** Bytes by screen class. Source: docs/method.md, "Weight". */
export const DEFAULT_BUDGETS = { phone: 1_000_000, laptop: 2_500_000, wide: 4_000_000 } as const

/** Reads a stored document of any version, upgrading it step by step. */
export function parseBackdrop(stored: unknown): z.ZodSafeParseResult<BackdropDocument> {
  let document = stored
  while (isRecord(document)) {
    const upgrade = UPGRADES[document['version'] as number]
    if (!upgrade) break
    document = upgrade(document)
  }
  return backdropSchema.safeParse(document)
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}
