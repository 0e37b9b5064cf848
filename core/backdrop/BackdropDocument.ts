import { z } from 'zod'
import {
  colorSchema,
  count,
  cutText,
  fractionSchema,
  share as shareOf,
  sha256Schema,
  text,
  ticks,
  timescale,
} from '../bounded'
import { copyPartsSchema, FIRST_PARTS } from '../copy/copyParts'
import { copyPlaceSchema, FIRST_PLACE } from '../copy/copyPlace'
import { baseSchema, type Base, type KindName } from '../kinds'
import { FIRST_FOOTAGE } from '../kinds/footage/Footage'
import { wordsSchema } from '../copy/Words'
import { particlesSchema } from '../particles/Particles'
import { PLAIN_SHAPE } from '../picture/pictureShape'
import { scrimSchema } from '../scrim/Scrim'
import { FIRST_TEXTURE } from '../texture/Texture'
import { FIRST_TONE, toneDecisionSchema } from '../tone/Tone'
import { encoderNameSchema } from '../weight/native/encoderName'

const share = shareOf()
const encoderName = encoderNameSchema.nullable()
const pointSchema = z.object({ x: share, y: share })
/** Bytes of a file that a visitor loads: none is larger. */
const fileBytes = (min: number) => z.int().min(min).max(1_000_000_000)

/**
 * Where the folder lies on the site: empty for beside the page, else a path or an address that ends
 * in a slash. Blanks and commas would end an address within `srcset`, `?` and `#` its path. (No
 * lookbehind: Safari before 16.4 would not even parse it.)
 */
const baseUrlSchema = text(300).regex(
  /^((https?:\/\/[^\s,"'<>\\?#/]+|\.{0,2})\/([^\s,"'<>\\?#]*\/)?)?$/i,
  'An address of a folder begins with / or https:// and ends with /, without blanks, commas, ? or #.',
)

/** A language tag (BCP 47), such as `en` or `pt-BR`. */
const langSchema = text(35).regex(
  /^[a-z]{2,8}(-[a-z0-9]{1,8})*$/i,
  'A language is written like en or pt-BR.',
)

/** Bytes by screen class. */
const bytesByClass = z.object({
  phone: fileBytes(2_000),
  laptop: fileBytes(2_000),
  wide: fileBytes(2_000),
})

/** The files of one class of screens. */
const rowSchema = z.object({
  /**
   * Whether these screens get files of their own; otherwise they use those of the next wider class,
   * or of the next narrower.
   */
  enabled: z.boolean(),
  /** In pixels; the picture's own width is never exceeded. */
  width: z.int().min(160).max(3840),
  /** Whether the part that no screen of the class would show is cut off around the focal point. */
  crop: z.enum(['whole', 'screen']),
  /** Null for the loop's own. */
  frameRate: fractionSchema.nullable(),
  /** How strongly the ground behind the copy is blurred in these files, 0 to 1. */
  copyBlur: share,
  formats: z
    .object({ av1: z.boolean(), vp9: z.boolean(), h264: z.boolean() })
    .refine((formats) => Object.values(formats).includes(true), 'At least one format stays.'),
  /** Bytes of the first visit: poster, clip, script and style. */
  budgetBytes: fileBytes(20_000),
  /** A locked row is left alone by proposals, and cannot be edited. */
  locked: z.boolean(),
})

const label = () => text(80).trim().min(1, 'A label is needed.')

/** What markup, addresses and files of a folder are written with. */
export const handoffSchema = z.object({
  baseUrl: baseUrlSchema,
  /** Language of the copy and of the control's labels. */
  lang: langSchema,
  headingLevel: z.int().min(1).max(6),
  pauseLabel: label(),
  playLabel: label(),
  /** Words of a slideshow's controls; in the last `#` stands for the slide, then their number. */
  slidesLabel: label(),
  previousLabel: label(),
  nextLabel: label(),
  slideLabel: label(),
  /** Whether clips are written with a plain index, which lists the loop once. */
  plainIndex: z.boolean(),
})

/** Longest brand in the copy; projects may have longer names. */
export const MAX_BRAND_CHARS = 60

/** The version of documents that are written today. */
export const DOCUMENT_VERSION = 19

/**
 * A backdrop with every decision about it: one versioned JSON document, changed only through
 * `reduce`.
 */
export const backdropSchema = z.object({
  version: z.literal(DOCUMENT_VERSION),
  /** What is drawn behind the copy, with the decisions that only its kind has. */
  base: baseSchema,
  /** Moving elements between base and scrim; null for none. */
  particles: particlesSchema.nullable(),
  poster: z.object({
    /** The first output frame, a frame of the clip by its time, or an image from the shelf. */
    picture: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('first') }),
      z.object({ kind: z.literal('frame'), ticks: ticks(), timescale: timescale() }),
      // The image is described completely, so that the same document always gives the same picture.
      z.object({
        kind: z.literal('source'),
        sourceId: z.uuid(),
        sha256: sha256Schema,
        mime: text(40),
        bytes: count().min(1),
      }),
    ]),
    /** Whether AVIF is written besides WebP and JPEG. */
    avif: z.boolean(),
    /** Maximum bytes of one poster, by screen class. */
    maxBytes: bytesByClass,
  }),
  copy: z.object({
    brand: text(MAX_BRAND_CHARS),
    links: z.array(text(40)).max(6),
    ...wordsSchema.shape,
    ...copyPartsSchema.shape,
    color: colorSchema,
    buttonColor: colorSchema,
    /** The button under the pointer, and the ring around it in focus; null for no own colours. */
    buttonStates: z.object({ hover: colorSchema, focus: colorSchema }).nullable(),
    /** Where it stands on each class of screens. */
    places: z.object({
      phone: copyPlaceSchema,
      laptop: copyPlaceSchema,
      wide: copyPlaceSchema,
    }),
  }),
  /** What is done to the colours of the base. */
  tone: toneDecisionSchema,
  scrim: scrimSchema,
  /** Scrims of classes of screens that need another one; null for the shared one. */
  ownScrim: z.object({ phone: scrimSchema.nullable() }),
  fit: z.object({
    scope: z.enum(['region', 'page']),
    height: z.object({ unit: z.enum(['svh', 'px']), value: z.int().min(10).max(4000) }),
    focal: pointSchema,
    /** Focal points of classes that need another one; null for the shared one. */
    ownFocal: z.object({ phone: pointSchema.nullable(), laptop: pointSchema.nullable() }),
    /** Whether visitors see it without scrolling; further down it is loaded when it comes near. */
    place: z.enum(['top', 'below']),
  }),
  behaviour: z.object({
    phone: z.enum(['play', 'poster']),
    reducedMotion: z.enum(['play', 'poster']),
    dataSaver: z.enum(['play', 'poster']),
    playbackRate: z.number().min(0.25).max(2),
    pauseControl: z.boolean(),
    autoplayInMarkup: z.boolean(),
  }),
  weight: z.object({
    renditions: z
      .object({ phone: rowSchema, laptop: rowSchema, wide: rowSchema })
      .refine(
        (rows) => Object.values(rows).some((row) => row.enabled && row.formats.h264),
        'One row that everything plays stays: H.264 for at least one screen.',
      ),
    /** The widest windows, in CSS pixels, that count as phone and as laptop. */
    breakpoints: z
      .object({ phone: z.int().min(320).max(3000), laptop: z.int().min(400).max(4000) })
      .refine(({ phone, laptop }) => phone < laptop, 'Laptops are wider than phones.'),
    /** Best quality within each row's budget, or constant quality at whatever size results. */
    goal: z.enum(['budget', 'quality']),
    /** The SSIM that files reach when quality is the goal. */
    targetSsim: z.number().min(0.8).max(0.995),
    /** Strength of noise reduction, 0 to 1. */
    noiseReduction: share,
    /**
     * What encodes files of each format: an encoder program with its version, fixed when it is
     * chosen, or null for this browser.
     */
    encoders: z.object({
      av1: encoderName,
      vp9: encoderName,
      h264: encoderName,
      pictures: encoderName,
    }),
  }),
  handoff: handoffSchema,
})

export type BackdropDocument = z.infer<typeof backdropSchema>
/** A document whose base is of a kind. */
export type DocumentOf<K extends KindName> = BackdropDocument & {
  readonly base: Extract<Base, { readonly kind: K }>
}

/** Whether the base of a document is of a kind. */
export function isOf<K extends KindName>(
  document: BackdropDocument,
  kind: K,
): document is DocumentOf<K> {
  return document.base.kind === kind
}

export type RenditionSettings = z.infer<typeof rowSchema>

/** The values of a new backdrop; also what older documents meant where they had no value. */
export const FIRST_DECISIONS = {
  // A small part of each screen's budget for the clip: the poster must arrive first.
  poster: {
    picture: { kind: 'first' },
    avif: true,
    maxBytes: { phone: 60_000, laptop: 120_000, wide: 200_000 },
  },
  weight: {
    breakpoints: { phone: 640, laptop: 1440 },
    goal: 'budget',
    targetSsim: 0.97,
    noiseReduction: 0,
    encoders: { av1: null, vp9: null, h264: null, pictures: null },
  },
  handoff: {
    baseUrl: '',
    lang: 'en',
    headingLevel: 1,
    pauseLabel: 'Pause the background',
    playLabel: 'Play the background',
    slidesLabel: 'Background images',
    previousLabel: 'Previous image',
    nextLabel: 'Next image',
    slideLabel: 'Image # of #',
    plainIndex: false,
  },
} as const satisfies {
  poster: BackdropDocument['poster']
  weight: Partial<BackdropDocument['weight']>
  handoff: BackdropDocument['handoff']
}

/** The values that versions before 5 used by default, under their former names. */
const OLD_DECISIONS = {
  still: {
    picture: { kind: 'first' },
    avif: true,
    ceilings: { phone: 60_000, laptop: 120_000, wide: 200_000 },
  },
  weight: { limits: { phone: 640, laptop: 1440 }, goal: 'budget', ssim: 0.97, denoise: 0 },
} as const

type Fields = Record<string, unknown>
const fields = (value: unknown): Fields => (isRecord(value) ? value : {})
const mapFields = (value: unknown, map: (each: Fields) => Fields): Fields =>
  Object.fromEntries(Object.entries(fields(value)).map(([name, each]) => [name, map(fields(each))]))

/**
 * Upgrades by the version they start from. Each returns the next version's shape; the schema checks
 * the outcome.
 */
const UPGRADES: Readonly<Record<number, (document: Fields) => Fields>> = {
  // Version 0 was the shape of the first drafts, before budgets were kept by screen class.
  0: (document) => {
    const { budgetBytes, ...kept } = fields(document['weight'])
    const laptop = typeof budgetBytes === 'number' ? budgetBytes : DEFAULT_BUDGETS.laptop
    return { ...document, version: 1, weight: { ...kept, budgets: { ...DEFAULT_BUDGETS, laptop } } }
  },
  // Version 1 had straight seams only and no crop, and its poster was always the first frame.
  1: (document) => ({
    ...document,
    version: 2,
    timing: { ...FIRST_FOOTAGE.timing, ...fields(document['timing']) },
    picture: FIRST_FOOTAGE.picture,
    still: OLD_DECISIONS.still,
  }),
  // Version 2 had a width and a budget for each screen class and the same formats for all of them;
  // a budget counted the clip alone.
  2: (document) => {
    const { widths, formats, budgets } = fields(document['weight'])
    const row = (screenClass: keyof typeof DEFAULT_BUDGETS): Fields => ({
      on: true,
      width: fields(widths)[screenClass] ?? FIRST_WIDTHS[screenClass],
      crop: 'whole',
      frameRate: null,
      formats: { av1: false, vp9: true, ...fields(formats), h264: true },
      budget: fields(budgets)[screenClass] ?? DEFAULT_BUDGETS[screenClass],
      locked: false,
    })
    const ladder = { phone: row('phone'), laptop: row('laptop'), wide: row('wide') }
    return { ...document, version: 3, weight: { ...OLD_DECISIONS.weight, ladder } }
  },
  // Version 3 had no blur behind the copy.
  3: (document) => {
    const weight = fields(document['weight'])
    const ladder = mapFields(weight['ladder'], (row) => ({ soften: 0, ...row }))
    return { ...document, version: 4, weight: { ...weight, ladder } }
  },
  // Version 4 had the same content under other names.
  4: ({ still, ...document }) => {
    const { ceilings, ...poster } = fields(still)
    const { ladder, limits, ssim, denoise, ...weight } = fields(document['weight'])
    const behaviour = fields(document['behaviour'])
    const timing = fields(document['timing'])
    const seam = fields(timing['seam'])
    const renditions = mapFields(ladder, ({ on, budget, ...row }) => ({
      ...row,
      enabled: on,
      budgetBytes: budget,
    }))
    const kind = seam['kind'] === 'there-and-back' ? 'ping-pong' : seam['kind']
    return {
      ...document,
      version: 5,
      material: { frameRate: null, ...fields(document['material']) },
      timing: { ...timing, seam: { ...seam, kind } },
      poster: { ...poster, maxBytes: ceilings },
      behaviour: Object.fromEntries(
        Object.entries(behaviour).map(([name, value]) => [
          name,
          value === 'still' ? 'poster' : value,
        ]),
      ),
      weight: {
        ...weight,
        renditions,
        breakpoints: limits,
        targetSsim: ssim,
        noiseReduction: denoise,
      },
    }
  },
  // Version 5 filled transparent parts of animated images with white, and those of clips with
  // whatever colour the file has there; the blur behind the copy had another name.
  5: (document) => {
    const weight = fields(document['weight'])
    const copy = fields(document['copy'])
    const renditions = mapFields(weight['renditions'], ({ soften, ...row }) => ({
      ...row,
      copyBlur: soften,
    }))
    return {
      ...document,
      version: 6,
      picture: { matte: PLAIN_SHAPE.matte, ...fields(document['picture']) },
      // A project's name of more than 60 characters became the brand whole: nothing could read it.
      copy: { ...copy, brand: cutText(String(copy['brand'] ?? ''), MAX_BRAND_CHARS) },
      weight: { ...weight, renditions },
    }
  },
  // Version 6 had one markup for every place and every site.
  6: (document) => ({
    ...document,
    version: 7,
    fit: { place: 'top', ...fields(document['fit']) },
    handoff: FIRST_DECISIONS.handoff,
  }),
  // Version 7 was footage throughout: its own decisions lay beside the shared ones.
  7: ({ kind, material, timing, picture, ...document }) => ({
    ...document,
    version: 8,
    base: { kind, material, timing, picture },
  }),
  // Version 8 had one focal point for all screens.
  8: (document) => ({
    ...document,
    version: 9,
    fit: { ...fields(document['fit']), ownFocal: { phone: null, laptop: null } },
  }),
  // Version 9 had no slideshows, and no words for their controls.
  9: (document) => ({
    ...document,
    version: 10,
    handoff: { ...FIRST_DECISIONS.handoff, ...fields(document['handoff']) },
  }),
  // Version 10 had the same words in front of all slides.
  10: (document) => {
    const base = fields(document['base'])
    const { slides } = base
    return {
      ...document,
      version: 11,
      base: Array.isArray(slides)
        ? { ...base, slides: slides.map((slide) => ({ words: null, ...fields(slide) })) }
        : base,
    }
  },
  // Version 11 had no particles.
  11: (document) => ({ particles: null, ...document, version: 12 }),
  // Version 12 had all particles drawn by the script.
  12: (document) => ({
    ...document,
    version: 13,
    particles: document['particles'] ? { form: 'live', ...fields(document['particles']) } : null,
  }),
  // Version 13 had all copy where it began, of a heading, a text and a button in one size.
  13: (document) => ({
    ...document,
    version: 14,
    copy: {
      ...fields(document['copy']),
      ...FIRST_PARTS,
      places: { phone: FIRST_PLACE, laptop: FIRST_PLACE, wide: FIRST_PLACE },
    },
  }),
  // Version 14 had one layer of scrim, with the strength of each of its ends.
  14: (document) => ({
    ...document,
    version: 15,
    scrim: { layers: [layerOf(fields(document['scrim']))] },
  }),
  // Version 15 had no blend modes.
  15: (document) => ({
    ...document,
    version: 16,
    scrim: eachLayer(document['scrim'], { blend: 'normal' }),
  }),
  // Version 16 had one scrim for all screens, no typefaces, and no colours for a button's states.
  16: (document) => {
    const copy = fields(document['copy'])
    return {
      ...document,
      version: 17,
      ownScrim: { phone: null },
      copy: {
        ...copy,
        buttonStates: null,
        type: { headingFamily: null, bodyFamily: null, ...fields(copy['type']) },
      },
    }
  },
  // Version 17 had no textures, no tone, and nothing around letters.
  17: (document) => {
    const { phone } = fields(document['ownScrim'])
    return {
      ...document,
      version: 18,
      tone: FIRST_TONE,
      copy: { letters: null, ...fields(document['copy']) },
      scrim: withTextures(document['scrim']),
      ownScrim: { phone: phone === null ? null : withTextures(phone) },
    }
  },
  // Version 18 had all files encoded by browsers.
  18: (document) => ({
    ...document,
    version: 19,
    weight: { encoders: FIRST_DECISIONS.weight.encoders, ...fields(document['weight']) },
  }),
}

/** A scrim of version 17 whose layers have what a texture is of. */
const withTextures = (scrim: unknown): Fields => eachLayer(scrim, { texture: FIRST_TEXTURE })

/** A scrim whose layers have some fields, unless they have them already. */
function eachLayer(scrim: unknown, first: Fields): Fields {
  const { layers } = fields(scrim)
  return {
    layers: Array.isArray(layers)
      ? layers.map((layer) => ({ ...first, ...fields(layer) }))
      : layers,
  }
}

/** A scrim as version 14 wrote it. */
function layerOf(scrim: Record<string, unknown>): unknown {
  const [from, to] = [Number(scrim['strength']), Number(scrim['toStrength'])]
  const isFlat = scrim['kind'] === 'flat'
  const strength = isFlat ? from : Math.max(from, to)
  const part = (value: number): number => (strength > 0 ? Math.min(1, value / strength) : 1)
  return {
    shape: isFlat ? 'even' : 'linear',
    strength,
    angleDeg: scrim['angleDeg'],
    centre: { x: 0.5, y: 0.5 },
    radius: 0.8,
    stops: [
      { at: 0, color: scrim['color'], strength: isFlat ? 1 : part(from) },
      { at: 1, color: scrim['toColor'], strength: part(to) },
    ],
  }
}

const FIRST_WIDTHS = { phone: 640, laptop: 1280, wide: 1920 } as const

/** Bytes by screen class. Source: docs/weight.md. */
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
