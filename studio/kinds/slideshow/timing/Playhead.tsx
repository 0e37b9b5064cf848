import type { Cycle } from '../../../../core/kinds/slideshow/cycle'
import { shownAt } from '../../../../core/kinds/slideshow/cycle'
import { useStage } from '../../../state/stageStore'
import { framedTime, steppedTime } from './deckGeometry'

/** Where the stage is in the cycle: dragged, or moved slide by slide and frame by frame. */
export function Playhead({
  cycle,
  pxPerSecond,
  count,
}: {
  cycle: Cycle
  pxPerSecond: number
  count: number
}) {
  const time = useStage((state) => state.parkedSeconds ?? state.time)
  const set = useStage((state) => state.set)
  const park = (seconds: number): void =>
    set({ parkedSeconds: Math.min(cycle.seconds - 1e-3, Math.max(0, seconds)) })
  const { slide } = shownAt(cycle, time)
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label="Playhead"
      aria-valuemin={0}
      aria-valuemax={Math.round(cycle.seconds * 100) / 100}
      aria-valuenow={Math.round(time * 100) / 100}
      aria-valuetext={`${time.toFixed(2)} s, slide ${slide + 1} of ${count}`}
      title="Arrow keys go from slide to slide, with Shift frame by frame"
      className="absolute top-0 h-full w-4 -translate-x-1/2 cursor-ew-resize touch-none outline-none before:absolute before:top-0 before:left-1/2 before:h-full before:w-0.5 before:-translate-x-1/2 before:bg-ink after:absolute after:top-0 after:left-1/2 after:size-2.5 after:-translate-x-1/2 after:rounded-full after:bg-ink focus-visible:after:outline-2 focus-visible:after:outline-offset-2 focus-visible:after:outline-curtain"
      style={{ left: time * pxPerSecond }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
        const box = event.currentTarget.parentElement!.getBoundingClientRect()
        park((event.clientX - box.left) / pxPerSecond)
      }}
      onKeyDown={(event) => {
        const way = ({ ArrowRight: 1, ArrowLeft: -1 } as const)[event.key as 'ArrowRight']
        if (way === undefined) return
        event.preventDefault()
        park(event.shiftKey ? framedTime(cycle, time, way) : steppedTime(cycle, time, way))
      }}
    />
  )
}
