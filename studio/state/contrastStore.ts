import { create } from 'zustand'
import { contrastKey } from '../../core/backdrop/contrastBase'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { ScreenName } from '../../core/fit/screens'
import type { ScreenLayout } from '../../core/legibility/TextPlace'
import type { LoadedSources } from './loadedSources'
import type { ContrastRow, WorstMoment } from '../../core/legibility/worstOf'

/** All moments of a screen. */
export interface ScreenContrasts {
  readonly screen: ScreenName
  readonly layout: ScreenLayout
  readonly rows: readonly ContrastRow[]
}

/** What was measured of a backdrop so far. */
export interface Contrasts {
  /** Of the backdrop and the sources that it is true for (`measuredKey`). */
  readonly key: string
  readonly screens: readonly ScreenContrasts[]
  /** Of each text on each screen, as far as they are known. */
  readonly worst: readonly WorstMoment[]
  /** Whether all screens are measured, and their worst times checked at full size. */
  readonly isWhole: boolean
}

interface ContrastState {
  readonly contrasts: Contrasts | null
  /** How far frames are decoded, 0 to 1; null while none are. */
  readonly reading: number | null
  readonly error: string | null
  /** How often it was asked to be measured again after an error. */
  readonly attempt: number
  set(fields: Partial<Omit<ContrastState, 'set'>>): void
}

/** The contrast of all copy on all screens: never part of the document, never undone. */
export const useContrastStore = create<ContrastState>((set) => ({
  contrasts: null,
  reading: null,
  error: null,
  attempt: 0,
  set: (fields) => set(fields),
}))

/** Equal as long as the same is measured: a source that is replaced is another picture. */
export const measuredKey = (
  document: BackdropDocument,
  sources: Pick<LoadedSources, 'key'>,
): string => `${contrastKey(document)} ${sources.key}`

/** What was measured, if it is true for a document and its sources. */
export const freshOf = (
  contrasts: Contrasts | null,
  document: BackdropDocument,
  sources: Pick<LoadedSources, 'key'>,
): Contrasts | null => (contrasts?.key === measuredKey(document, sources) ? contrasts : null)
