import type { ClipFacts, PosterFacts, Rendition } from '../api/wire'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import {
  clipRecipes,
  containerOf,
  posterRecipes,
  recipeKey,
  type ClipRecipe,
  type PlacedPoster,
} from '../backdrop/recipe'
import type { ScreenClass } from '../fit/screens'
import type { DeliveredClip, DeliveredMedia, DeliveredPoster } from '../kinds/DeliveredMedia'
import type { Sources } from '../kinds/Kind'

/** A medium of the folder. Equal bytes stand there once, for all screens that use them. */
export interface MediaFile {
  readonly path: string
  /** The digest of its content; null while it is not rendered. */
  readonly sha256: string | null
  readonly bytes: number
}

/** The media of a folder as markup and figures name them, and as files. */
export interface DeliveredFiles {
  readonly media: DeliveredMedia
  readonly figures: {
    readonly clips: readonly ClipFacts[]
    readonly posters: readonly PosterFacts[]
  }
  readonly files: readonly MediaFile[]
  /** The keys of files that are not rendered yet. */
  readonly missing: readonly string[]
}

/** Finds what is rendered of a recipe, by its key. */
export type FindRendition = (key: string) => Rendition | undefined

/** How much of a digest is in a name: 16 million names before two of one backdrop's may meet. */
const HASH_CHARS = 8
/** Stands for the digest of what is not rendered yet. */
const NO_HASH = '…'

/**
 * The short id of a backdrop, from its uuid or another digest in hex: six characters, the same as
 * long as the backdrop exists.
 */
export function shortId(hex: string): string {
  return hex.replaceAll('-', '').slice(0, 6).toLowerCase()
}

/** The keys of every file a handoff needs. */
export function handoffKeys(document: BackdropDocument, known: Sources): string[] {
  return [...clipRecipes(document, known), ...posterRecipes(document, known)].map(({ recipe }) =>
    recipeKey(recipe),
  )
}

/** Where a clip lies: under the backdrop's id and the hash of its content, so it never changes. */
function clipPath(id: string, screenClass: ScreenClass, recipe: ClipRecipe, hash: string): string {
  return `media/${id}-clip-${screenClass}-${recipe.width}-${recipe.family}-${hash}.${containerOf(recipe)}`
}

function posterPath(
  id: string,
  screenClass: ScreenClass,
  { recipe, slide }: Pick<PlacedPoster, 'recipe' | 'slide'>,
  hash: string,
): string {
  const use =
    slide !== undefined
      ? `slide${slide + 1}`
      : recipe.sequence.kind === 'image'
        ? 'image'
        : 'poster'
  return `media/${id}-${use}-${screenClass}-${recipe.width}-${hash}.${recipe.format === 'jpeg' ? 'jpg' : recipe.format}`
}

/**
 * The media of a backdrop's folder; what is not rendered stands with what is known of it. With a
 * plain index, clips that are still to be rewritten have names without a hash.
 */
export function deliveredFiles(
  id: string,
  document: BackdropDocument,
  known: Sources,
  find: FindRendition,
): DeliveredFiles {
  const files = new Map<string, MediaFile>()
  const missing: string[] = []
  const rewrites = ({ facts }: Rendition): boolean =>
    document.handoff.plainIndex && facts.kind === 'clip' && facts.repeats > 1
  const place = (key: string, pathOf: (hash: string) => string): MediaFile => {
    const made = find(key)
    if (!made) missing.push(key)
    const known = made && files.get(made.sha256)
    if (known) return known
    const file = {
      path: pathOf(made && !rewrites(made) ? made.sha256.slice(0, HASH_CHARS) : NO_HASH),
      sha256: made?.sha256 ?? null,
      bytes: made?.bytes ?? 0,
    }
    files.set(made?.sha256 ?? key, file)
    return file
  }
  const clips = clipRecipes(document, known).map(({ screenClass, recipe }) => {
    const key = recipeKey(recipe)
    const facts = find(key)?.facts ?? null
    if (facts && facts.kind !== 'clip') throw new Error(`${key} is not a clip`)
    const { path, bytes } = place(key, (hash) => clipPath(id, screenClass, recipe, hash))
    const clip: DeliveredClip = {
      screenClass,
      family: recipe.family,
      container: containerOf(recipe),
      codec: facts?.codec ?? 'not rendered yet',
      width: facts?.width ?? recipe.width,
      height: facts?.height ?? recipe.height,
      bytes,
      url: path,
    }
    return { clip, facts }
  })
  const posters = posterRecipes(document, known).map((placed) => {
    const { screenClass, density, slide, recipe } = placed
    const key = recipeKey(recipe)
    const facts = find(key)?.facts ?? null
    if (facts && facts.kind !== 'poster') throw new Error(`${key} is not a poster`)
    const { path, bytes } = place(key, (hash) => posterPath(id, screenClass, placed, hash))
    const poster: DeliveredPoster = {
      screenClass,
      density,
      ...(slide !== undefined && { slide }),
      format: recipe.format,
      width: facts?.width ?? recipe.width,
      height: facts?.height ?? recipe.height,
      bytes,
      url: path,
    }
    return { poster, facts }
  })
  return {
    media: {
      clips: clips.map(({ clip }) => clip),
      posters: posters.map(({ poster }) => poster),
      placeholder: posters[0]?.facts?.placeholder ?? null,
    },
    figures: {
      clips: clips.flatMap(({ facts }) => facts ?? []),
      posters: posters.flatMap(({ facts }) => facts ?? []),
    },
    files: [...files.values()],
    missing,
  }
}
