import { knownSource } from '../../core/api/knownSource'
import { isClip, type ClipSource, type Source } from '../../core/api/wire'
import type { Sources } from '../../core/kinds/Kind'
import { mediaUrl } from '../api/client'
import type { Places } from '../worker/sources'

/** The sources of a base, as the shelf has them. */
export interface LoadedSources {
  readonly all: readonly Source[]
  /** What sequences and recipes need to know of them. */
  readonly known: Sources
  /** Where a worker finds them. */
  readonly places: Places
  /** Their contents, as one text. */
  readonly key: string
}

/** An address as workers need it; outside a page nothing is fetched. */
export const absolute = (path: string): string =>
  new URL(path, globalThis.location?.href ?? 'http://localhost').href

/** Where a worker finds a source. */
export function placeOf({ sha256, facts }: Pick<Source, 'sha256' | 'facts'>) {
  return { url: absolute(mediaUrl(sha256)), bytes: facts.bytes }
}

/** Sources with what is derived from them. */
export function loadedSources(all: readonly Source[]): LoadedSources {
  return {
    all,
    known: new Map(all.map((source) => [source.id, knownSource(source)])),
    places: Object.fromEntries(all.map((source) => [source.sha256, placeOf(source)])),
    key: all.map(({ sha256 }) => sha256).join('-'),
  }
}

/** The clip with an id; null where it is no clip, or not among them. */
export function clipIn({ all }: LoadedSources, sourceId: string): ClipSource | null {
  const found = all.find(({ id }) => id === sourceId)
  return found && isClip(found) ? found : null
}
