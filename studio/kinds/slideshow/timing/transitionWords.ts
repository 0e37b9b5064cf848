import type { Easing } from '../../../../core/kinds/easing'
import type { Direction, TransitionStyle } from '../../../../core/kinds/slideshow/transition'

/** Transitions grouped by what they do. */
export const TRANSITION_GROUPS: readonly {
  readonly label: string
  readonly styles: readonly TransitionStyle[]
}[] = [
  { label: 'Mix', styles: ['crossfade', 'through-colour'] },
  { label: 'Move', styles: ['push', 'slide-over'] },
  { label: 'Uncover', styles: ['edge', 'slats', 'columns', 'mosaic', 'circle'] },
]

export const STYLE_LABELS: Readonly<Record<TransitionStyle, string>> = {
  crossfade: 'Crossfade',
  'through-colour': 'Through a colour',
  push: 'Push',
  'slide-over': 'Slide over',
  edge: 'Edge',
  slats: 'Slats',
  columns: 'Columns',
  mosaic: 'Mosaic',
  circle: 'Circle',
}

export const EASING_LABELS: Readonly<Record<Easing, string>> = {
  linear: 'Even',
  'ease-in': 'Slow start',
  'ease-out': 'Slow end',
  'ease-in-out': 'Slow both',
}

export const DIRECTION_LABELS: Readonly<Record<Direction, string>> = {
  left: 'Left',
  right: 'Right',
  up: 'Up',
  down: 'Down',
}

/** The styles that go somewhere. */
export const DIRECTED: ReadonlySet<TransitionStyle> = new Set([
  'push',
  'slide-over',
  'slats',
  'columns',
])
