/** Listens until the region is released; a target that is not there is left out. */
export type Listen = (
  target: EventTarget | null | undefined,
  types: string,
  act: (event: Event) => void,
  once?: boolean,
) => void

/** Something that moves. */
export interface Mover {
  /** Whether there is something of it for this window. */
  fits(): boolean
  /** Takes what fits the window now; returns whether that is something else. */
  choose(): boolean
  /** What has ended may fade although something else goes on. */
  ended(): boolean
  /** Does nothing where it plays already or has ended. */
  play(): void
  pause(): void
}

/**
 * A part of the script: what moves of its layer in a region; undefined where there is none. It is
 * given its means in order, since names of fields would be delivered as they are:
 *
 * - `update` decides anew what is shown.
 * - `fail` shows the poster instead, until a window of another size has other files. A refusal to
 *   play is passed on as it is.
 * - `tell` tells the page what happens now, if it is not that already.
 * - `signal` is aborted when the region is released.
 */
export type Part = (
  region: HTMLElement,
  listen: Listen,
  update: () => void,
  fail: (error?: unknown) => void,
  tell: (state: 'play' | 'pause') => void,
  signal: AbortSignal,
) => Mover | undefined
