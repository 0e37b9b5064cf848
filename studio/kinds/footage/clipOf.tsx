import type { ComponentType } from 'react'
import type { ClipSource } from '../../../core/api/wire'
import type { FootageDocument } from './FootageDocument'
import type { BenchProps, DeckProps } from '../../rooms/Room'
import { clipIn, loadedSources, type LoadedSources } from '../../state/loadedSources'
import { documentOf } from '../ofKind'

/** The clip that footage is cut from. The workbench opens footage only with its clip. */
export function clipOf({ base }: FootageDocument, sources: LoadedSources): ClipSource {
  const clip = clipIn(sources, base.material.sourceId)
  if (!clip) throw new Error('footage was opened without its clip')
  return clip
}

/** What a bench that is about one clip is given. */
export type ClipBenchProps = Omit<BenchProps, 'sources' | 'document'> & {
  readonly document: FootageDocument
  readonly source: ClipSource
}

/** A part of a room that is about one clip, as a part that is given the base's sources. */
export function withClip<P extends DeckProps>(
  Part: ComponentType<
    Omit<P, 'sources' | 'document'> & { document: FootageDocument; source: ClipSource }
  >,
): ComponentType<P> {
  return function PartOfClip({ sources, document, ...rest }) {
    const own = documentOf(document, 'footage')
    return <Part {...rest} document={own} source={clipOf(own, sources)} />
  }
}

/** What sequences need to know of a clip. */
export const sourcesOf = (source: ClipSource): LoadedSources['known'] =>
  loadedSources([source]).known

/** Where a worker finds a clip. */
export const placesOf = (source: ClipSource): LoadedSources['places'] =>
  loadedSources([source]).places
