import { toNumber } from '../../../../core/Fraction'
import { loopOf } from '../../../../core/kinds/footage/footageSequence'
import { overlapFrames } from '../../../../core/loop/framePlan'
import { useCutHandles, type CutHandleProps } from './useCutHandles'

/**
 * The cut on the strip: everything outside is dimmed, both ends are handles, the upper edge moves
 * the whole cut, and a blended seam is shown as two ramps.
 */
export function CutRegion({
  stripTop,
  stripHeight,
  ...props
}: CutHandleProps & { readonly stripTop: number; readonly stripHeight: number }) {
  const { document, view } = props
  const { handle, numberAt, snapped } = useCutHandles(props)
  const { cut, speed, frameRate, seam } = document.base.timing
  const loop = loopOf(document.base)
  const [start, end] = [cut.start / cut.timescale, cut.end / cut.timescale]
  const overlap = (overlapFrames(loop) / toNumber(frameRate)) * speed
  const share = (seconds: number): number => (seconds - view.from) / (view.to - view.from)
  const percent = (seconds: number): string => `${share(seconds) * 100}%`
  const span = (from: number, to: number): React.CSSProperties => ({
    left: percent(from),
    width: `${Math.max(0, share(to) - share(from)) * 100}%`,
    top: stripTop,
    height: stripHeight,
  })
  const words = (seconds: number): string =>
    `${seconds.toFixed(2)} seconds, frame ${numberAt(seconds)}`
  return (
    <div className="pointer-events-none absolute inset-0">
      {[span(view.from, Math.max(view.from, start)), span(Math.min(view.to, end), view.to)].map(
        (style, at) => (
          <div key={at} aria-hidden className="absolute bg-paper-deep/75" style={style} />
        ),
      )}
      {overlap > 0 && <Ramp style={span(start, start + overlap)} rising />}
      {overlap > 0 && <Ramp style={span(end - overlap, end)} rising={false} />}
      <div aria-hidden className="absolute border-y-3 border-curtain" style={span(start, end)} />
      <button
        {...handle('both', start, 'Move the cut', `${words(start)} to ${words(end)}`)}
        className="pointer-events-auto absolute h-2.5 cursor-grab touch-none rounded-t bg-curtain/85 active:cursor-grabbing"
        style={{
          left: percent(start),
          width: `${Math.max(0, share(end) - share(start)) * 100}%`,
          top: stripTop - 3,
        }}
      />
      {seam.kind === 'ping-pong' && document.base.timing.repeat === 'loop' && (
        <span
          aria-hidden
          className="absolute rounded bg-curtain px-1 text-xs text-white"
          style={{
            left: percent(end),
            top: stripTop + stripHeight / 2 - 9,
            transform: 'translateX(-120%)',
          }}
        >
          ↩ backward
        </span>
      )}
      {overlap > 0 && (
        <button
          {...handle(
            'overlap',
            start + overlap,
            'Overlap of the seam',
            `${(overlap / speed).toFixed(2)} seconds`,
          )}
          className="pointer-events-auto absolute z-10 w-3 -translate-x-1/2 cursor-ew-resize touch-none"
          style={{ left: percent(start + overlap), top: stripTop, height: stripHeight }}
        >
          <span className="absolute inset-y-0 left-1/2 w-px -translate-x-1/2 bg-white" />
          <span className="absolute top-1.5 left-1/2 size-2.5 -translate-x-1/2 rotate-45 border border-curtain bg-white" />
        </button>
      )}
      {(
        [
          ['start', start, 'Start of the cut'],
          ['end', end, 'End of the cut'],
        ] as const
      ).map(([part, seconds, label]) => (
        <button
          key={part}
          {...handle(part, seconds, label, words(seconds))}
          className="pointer-events-auto absolute z-10 w-4 -translate-x-1/2 cursor-ew-resize touch-none focus-visible:outline-offset-0"
          style={{ left: percent(seconds), top: stripTop - 4, height: stripHeight + 18 }}
        >
          <span className="absolute inset-y-0 left-1/2 w-[3px] -translate-x-1/2 bg-curtain" />
          <span className="absolute bottom-0 left-1/2 size-3.5 -translate-x-1/2 rounded-full border-2 border-sheet bg-curtain" />
          {snapped?.part === part && (
            <span className="absolute bottom-full left-1/2 -translate-x-1/2 rounded bg-ink px-1.5 text-[0.66rem] whitespace-nowrap text-white">
              {snapped.label}
            </span>
          )}
        </button>
      ))}
    </div>
  )
}

/**
 * How strongly the start shows over the end: rising where it comes in, falling where the end goes
 * out.
 */
function Ramp({ style, rising }: { style: React.CSSProperties; rising: boolean }) {
  return (
    <svg
      aria-hidden
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      className="absolute"
      style={style}
    >
      <polygon
        points={rising ? '0,100 100,0 100,100' : '0,0 0,100 100,100'}
        className="fill-curtain/35"
      />
      <line
        x1="0"
        y1={rising ? 100 : 0}
        x2="100"
        y2={rising ? 0 : 100}
        vectorEffect="non-scaling-stroke"
        strokeWidth="2"
        className="stroke-white"
      />
    </svg>
  )
}
