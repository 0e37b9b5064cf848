import { createContext, use } from 'react'
import type { BrandColor, Typeface } from '../../core/brand/Brand'

/** The colours and typefaces that a project keeps, wherever one is chosen. */
export interface SavedColors {
  readonly colors: readonly BrandColor[]
  readonly typefaces: readonly Typeface[]
  /** Saves a colour under a name; tells by itself where that fails. */
  readonly save: (name: string, color: string) => Promise<boolean>
}

export const SavedColorsContext = createContext<SavedColors | null>(null)

/** The project's colours; null where there is no project around. */
export const useSavedColors = (): SavedColors | null => use(SavedColorsContext)
