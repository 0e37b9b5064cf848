import type { ComponentType } from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { ScreenClass } from '../../core/fit/screens'
import type { LoadedSources } from '../state/loadedSources'
import type { Balance, Readout } from './Balance'

/** What visits download of a base, where that depends on the visit. */
export type Visits = ComponentType<{
  readonly document: BackdropDocument
  readonly sources: LoadedSources
}>

export interface DeckProps {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
  readonly backdropId: string
  readonly Visits?: Visits | undefined
}

/** Limits for the files of a class of screens that only one kind of base has. */
export type Limits = ComponentType<{
  readonly document: BackdropDocument
  readonly screenClass: ScreenClass
}>

export interface BenchProps extends DeckProps {
  readonly projectId: string
  readonly Limits?: Limits | undefined
}

/** A place of the workbench: its readout in the balance bar, its bench, and its deck. */
export interface Room {
  readonly label: string
  /** Its state, from measured figures only. */
  readonly read: (balance: Balance) => Readout
  readonly Bench: ComponentType<BenchProps>
  readonly Deck: ComponentType<DeckProps>
  /** A class of its deck's height. */
  readonly deckHeight: string
}

/** Classes of a deck that is a table. */
export const DECK_SHELL = 'h-full overflow-auto px-4 py-2.5'
