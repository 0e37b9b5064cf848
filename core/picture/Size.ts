/** A size in pixels. */
export interface Size {
  readonly width: number
  readonly height: number
}
