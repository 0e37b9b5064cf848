/** A part of a loop, in seconds. */
export interface Span {
  readonly from: number
  readonly to: number
}

/** Whether a moment lies in one of some parts. */
export const isWithin = (spans: readonly Span[], seconds: number): boolean =>
  spans.some(({ from, to }) => seconds >= from && seconds < to)
