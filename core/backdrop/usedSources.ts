import { kindOf } from '../kinds'
import type { SourceRef } from '../kinds/Kind'
import type { BackdropDocument } from './BackdropDocument'
import { redo, undo, type History } from './history'

/** The sources a document uses: its base's, and the image from the shelf that its poster shows. */
export function usedSources({
  base,
  poster: { picture },
}: Pick<BackdropDocument, 'base' | 'poster'>): SourceRef[] {
  return [
    ...kindOf(base).sources(base),
    ...(picture.kind === 'source' ? [{ sourceId: picture.sourceId, sha256: picture.sha256 }] : []),
  ]
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
export function sourcesInHistory(document: BackdropDocument, history: History): SourceRef[] {
  const uses = reachableDocuments(document, history).flatMap(usedSources)
  return [...new Map(uses.map((use) => [`${use.sourceId} ${use.sha256}`, use])).values()]
}
