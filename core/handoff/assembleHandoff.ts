import type { TriedCost } from '../api/slowMachines'
import type { Rendition } from '../api/wire'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import type { Sources } from '../kinds/Kind'
import { withPlainIndex } from '../media/withPlainIndex'
import { fail, ok, type Result } from '../result'
import { deliveredFiles, handoffKeys } from './deliveredFiles'
import { emitHandoff, type EmittedFile } from './emitHandoff'
import type { DeliveredScripts } from './scripts'

/** What a folder is assembled from. */
export interface HandoffOrder {
  /** The backdrop's short id: what two backdrops on one page are told apart by. */
  readonly id: string
  readonly name: string
  readonly document: BackdropDocument
  readonly known: Sources
  /** Looks recipes up among what is made. */
  readonly find: (keys: readonly string[]) => Promise<readonly Rendition[]>
  /** A stored clip with a plain index, by its digest: asked for only where one is wished. */
  readonly plain: (sha256: string) => Promise<PlainClip>
  readonly scripts: DeliveredScripts
  /** What its particles cost on slowed machines; null where that was not tried. */
  readonly particleCost: TriedCost | null
}

/** A medium of an assembled folder: a stored file by its digest, or bytes made for this folder. */
export type AssembledMedium = {
  readonly path: string
  readonly sha256: string
  readonly bytes: number
  /** Null where it is the stored file of that digest. */
  readonly content: Uint8Array | null
}

/** A clip whose index lists its loop once. */
export interface PlainClip {
  readonly content: Uint8Array<ArrayBuffer>
  readonly sha256: string
}

/** A complete folder: texts, and media. */
export interface AssembledHandoff {
  /** The media as the markup refers to them, for each screen. */
  readonly delivered: DeliveredMedia
  readonly texts: readonly EmittedFile[]
  readonly media: readonly AssembledMedium[]
}

/**
 * Assembles the delivered folder, or lists the recipes that are not rendered yet. Throws where a
 * stored file cannot be read again.
 */
export async function assembleHandoff(
  order: HandoffOrder,
): Promise<Result<AssembledHandoff, string[]>> {
  const { id, name, document, known, scripts, particleCost } = order
  const found = await order.find(handoffKeys(document, known))
  const rewritten = new Map<string, Uint8Array>()
  const made = new Map<string, Rendition>()
  for (const rendition of found)
    made.set(
      rendition.key,
      document.handoff.plainIndex ? await plain(rendition, order.plain, rewritten) : rendition,
    )
  const { media, figures, files, missing } = deliveredFiles(id, document, known, (key) =>
    made.get(key),
  )
  if (missing.length > 0) return fail([...missing])
  return ok({
    delivered: media,
    texts: emitHandoff({
      id,
      name,
      document,
      scripts,
      media,
      figures: { ...figures, particleCost },
    }),
    media: files.map(({ path, sha256, bytes }) => ({
      path,
      sha256: sha256!,
      bytes,
      content: rewritten.get(sha256!) ?? null,
    })),
  })
}

/** A clip with a plain index. Throws for anything but a clip that Telon wrote. */
export async function plainClip(stored: Uint8Array<ArrayBuffer>): Promise<PlainClip> {
  const content = await withPlainIndex(stored)
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', content))
  const sha256 = Array.from(digest, (byte) => byte.toString(16).padStart(2, '0')).join('')
  return { content, sha256 }
}

/** A rendition whose index lists the loop once; the rewritten files are kept by their digests. */
async function plain(
  rendition: Rendition,
  rewrite: HandoffOrder['plain'],
  rewritten: Map<string, Uint8Array>,
): Promise<Rendition> {
  const { facts } = rendition
  if (facts.kind !== 'clip' || facts.repeats <= 1) return rendition
  const { content, sha256 } = await rewrite(rendition.sha256)
  rewritten.set(sha256, content)
  return {
    ...rendition,
    sha256,
    bytes: content.byteLength,
    facts: { ...facts, repeats: 1 },
  }
}
