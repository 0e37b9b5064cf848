import { Slider } from '../ui/controls'

interface Range {
  readonly from: number
  readonly to: number
}

/** From a least to a greatest value: each pushes the other before it. */
export function RangeFields({
  names,
  value,
  low,
  high,
  step,
  show,
  onChange,
}: {
  /** Labels of the least and of the greatest. */
  names: readonly [least: string, greatest: string]
  value: Range
  low: number
  high: number
  step: number
  show: (value: number) => string
  onChange: (value: Range, gesture: string) => void
}) {
  const { from, to } = value
  return (
    <>
      <Slider
        label={names[0]}
        value={from}
        low={low}
        high={high}
        step={step}
        shown={show(from)}
        onChange={(next, gesture) => onChange({ from: next, to: Math.max(next, to) }, gesture)}
      />
      <Slider
        label={names[1]}
        value={to}
        low={low}
        high={high}
        step={step}
        shown={show(to)}
        onChange={(next, gesture) => onChange({ from: Math.min(next, from), to: next }, gesture)}
      />
    </>
  )
}
