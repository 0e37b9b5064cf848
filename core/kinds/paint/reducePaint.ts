import type { Paint } from './Paint'

/** What of a paint is decided. */
type PaintFields = Partial<Omit<Paint, 'kind'>>

/** Every change of a paint. Values are already valid. */
export type PaintAction = { readonly type: 'paint/set'; readonly paint: PaintFields }

/** The paint after an action; the same object when nothing changes. */
export function reducePaint(base: Paint, { paint }: PaintAction): Paint {
  const next = { ...base, ...paint }
  return JSON.stringify(next) === JSON.stringify(base) ? base : next
}

const LABELS: Readonly<Record<keyof PaintFields, string>> = {
  color: 'colour',
  gradients: 'gradient',
  blend: 'blend mode',
  motion: 'motion',
  dither: 'dither',
}

/** What the action is called in the list of undo steps. */
export function labelOfPaint({ paint }: PaintAction): string {
  const fields = Object.keys(paint) as (keyof PaintFields)[]
  return fields.length === 1 ? LABELS[fields[0]!] : 'paint'
}
