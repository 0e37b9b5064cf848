import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'

/** What is shown over the stage is given: the region's size there, in pixels of the screen. */
export interface StageArea {
  readonly document: BackdropDocument
  readonly width: number
  readonly height: number
}
