import type { Cycle } from '../../../../core/kinds/slideshow/cycle'
import { lightnessOf } from '../../../../core/kinds/slideshow/slideFindings'
import type { ShownSlide } from '../slidesOf'

const HEIGHT = 30

/** The mean lightness of what is seen, through the cycle. */
export function LightnessRow({
  slides,
  cycle,
  width,
}: {
  slides: readonly ShownSlide[]
  cycle: Cycle
  width: number
}) {
  const values = slides.map(({ source }) => lightnessOf(source?.analysis?.palette ?? []))
  if (values.some((value) => value === null))
    return <p className="pt-1 text-xs text-muted">Lightness: images are still being measured.</p>
  const x = (time: number): number => (time / cycle.seconds) * width
  const y = (value: number): number => HEIGHT - 2 - value * (HEIGHT - 4)
  const points = cycle.spans.flatMap(({ fullFrom, leavesFrom }, index) => [
    `${x(fullFrom)},${y(values[index]!)}`,
    `${x(leavesFrom)},${y(values[index]!)}`,
  ])
  points.push(`${width},${y(values[0]!)}`)
  const brightest = Math.max(...(values as number[]))
  const darkest = Math.min(...(values as number[]))
  return (
    <div className="pt-1">
      <svg
        width={width}
        height={HEIGHT}
        role="img"
        aria-label={`Lightness from ${Math.round(darkest * 100)} to ${Math.round(brightest * 100)} %`}
      >
        <polyline
          points={points.join(' ')}
          fill="none"
          strokeWidth={1.5}
          className="stroke-muted"
        />
      </svg>
      <p className="sticky left-0 w-max text-xs text-muted">
        mean lightness: darkest {values.indexOf(darkest) + 1} with {Math.round(darkest * 100)} %,
        brightest {values.indexOf(brightest) + 1} with {Math.round(brightest * 100)} %
      </p>
    </div>
  )
}
