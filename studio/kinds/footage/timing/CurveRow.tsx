import type { Analysis } from '../../../../core/material/Analysis'
import type { View } from './view'

const HEIGHT = 62

/** Curves of motion (filled) and brightness (line) over the part of the clip in view. */
export function CurveRow({
  analysis,
  view,
  width,
}: {
  analysis: Analysis
  view: View
  width: number
}) {
  const { motion, brightness, durationMs, motionPeak } = analysis
  if (width <= 0 || motion.length < 2) return null
  const seconds = durationMs / 1000
  const each = seconds / motion.length
  const first = Math.max(0, Math.floor(view.from / each) - 1)
  const last = Math.min(motion.length - 1, Math.ceil(view.to / each) + 1)
  const x = (point: number): number => ((point * each - view.from) / (view.to - view.from)) * width
  // The usable part sets the scale: a hard cut beside it would press all other motion flat.
  const max = Math.max(1, motionPeak)
  const line = (values: readonly number[], height: (value: number) => number): string =>
    Array.from(
      { length: last - first + 1 },
      (_, index) =>
        `${x(first + index).toFixed(1)},${(HEIGHT - height(values[first + index]!) * (HEIGHT - 2)).toFixed(1)}`,
    ).join(' ')
  const motionLine = line(motion, (value) => Math.min(1, value / max))
  return (
    <div className="pointer-events-none relative mt-0.5" style={{ height: HEIGHT }}>
      <svg
        width={width}
        height={HEIGHT}
        role="img"
        aria-label={`Motion, up to ${max.toFixed(0)} ΔE a second, and brightness`}
        className="block bg-sheet/60"
      >
        <polygon
          points={`${x(first)},${HEIGHT} ${motionLine} ${x(last)},${HEIGHT}`}
          className="fill-muted/35"
        />
        <polyline
          points={line(brightness, (value) => value)}
          fill="none"
          strokeWidth="1.5"
          className="stroke-look"
        />
      </svg>
      <span className="absolute top-0 left-1 bg-sheet/70 px-0.5 text-[0.66rem] leading-tight text-muted">
        motion, to {max.toFixed(0)} ΔE/s · <span className="text-look">brightness</span>
      </span>
    </div>
  )
}
