import type { ComponentType } from 'react'
import { isOf, type BackdropDocument, type DocumentOf } from '../../core/backdrop/BackdropDocument'
import type { KindName } from '../../core/kinds'
import type { Balance, Readout } from '../rooms/Balance'

/** A document as one of a kind. The workbench opens the rooms of a kind with its documents only. */
export function documentOf<K extends KindName>(document: BackdropDocument, kind: K): DocumentOf<K> {
  if (!isOf(document, kind)) throw new Error(`a room of ${kind} was opened with another base`)
  return document
}

/** A part of a room that takes documents of a kind, as a part that takes any. */
export function ofKind<K extends KindName, P extends { readonly document: BackdropDocument }>(
  kind: K,
  Part: ComponentType<Omit<P, 'document'> & { readonly document: DocumentOf<K> }>,
): ComponentType<P> {
  return function PartOfKind({ document, ...rest }) {
    return <Part {...rest} document={documentOf(document, kind)} />
  }
}

/** Everything a readout of a kind is read from. */
export type BalanceOf<K extends KindName> = Omit<Balance, 'document'> & {
  readonly document: DocumentOf<K>
}

/** A readout that takes documents of a kind, as one that takes any. */
export function readingOf<K extends KindName>(
  kind: K,
  read: (balance: BalanceOf<K>) => Readout,
): (balance: Balance) => Readout {
  return ({ document, ...rest }) => read({ ...rest, document: documentOf(document, kind) })
}
