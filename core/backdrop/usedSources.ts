import type { BackdropDocument } from './BackdropDocument'
import { redo, undo, type History } from './history'

/** A source that a document uses. */
export interface SourceUse {
  readonly sourceId: string
  /**
   * The content that the document names by its digest, so that it stays the same picture; null
   * where it does not.
   */
  readonly sha256: string | null
}

/**
 * The sources a document uses: its clip, and the image from the shelf that its poster is made from.
 */
export function usedSources({
  material,
  poster,
}: Pick<BackdropDocument, 'material' | 'poster'>): SourceUse[] {
  const clip = { sourceId: material.sourceId, sha256: null }
  const { picture } = poster
  return picture.kind === 'source'
    ? [clip, { sourceId: picture.sourceId, sha256: picture.sha256 }]
    : [clip]
}

/** The documents that undo and redo lead to, without the present one. */
export function reachableDocuments(
  document: BackdropDocument,
  history: History,
): BackdropDocument[] {
  const reached: BackdropDocument[] = []
  for (const step of [undo, redo] as const) {
    let here = { document, history }
    for (
      let next = step(here.history, here.document);
      next;
      next = step(here.history, here.document)
    ) {
      reached.push(next.document)
      here = next
    }
  }
  return reached
}

/** The sources that undo and redo lead to, each once. */
export function sourcesInHistory(document: BackdropDocument, history: History): SourceUse[] {
  const uses = reachableDocuments(document, history).flatMap(usedSources)
  return [...new Map(uses.map((use) => [`${use.sourceId} ${use.sha256}`, use])).values()]
}
