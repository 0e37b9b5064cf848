import { useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from 'react'
import type { ClipSource } from '../../core/api/wire'
import { describeFinding } from '../../core/material/describeFinding'
import type { Analysis } from '../../core/material/Analysis'
import { mediaUrl } from '../api/client'
import { formatBytes } from '../ui/format'

const STRIP_HEIGHT = 56
const CURVE_HEIGHT = 64

/**
 * The filmstrip with the playhead, what was found as spans above it, and curves of motion and
 * brightness below.
 */
export function Curves({
  source,
  seconds,
  onSeek,
}: {
  source: ClipSource
  seconds: number
  onSeek: (seconds: number) => void
}) {
  const { analysis, facts } = source
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const [width, setWidth] = useState(0)
  const length = facts.durationMs / 1000
  useLayoutEffect(() => {
    const observer = new ResizeObserver(() => setWidth(box.current?.clientWidth ?? 0))
    observer.observe(box.current!)
    return () => observer.disconnect()
  }, [])
  useEffect(() => {
    if (canvas.current && analysis && width > 0)
      drawCurves(canvas.current, width, analysis, facts.durationMs / 1000)
  }, [analysis, width, facts.durationMs])
  const seek = (event: PointerEvent<HTMLDivElement>): void => {
    const bounds = event.currentTarget.getBoundingClientRect()
    onSeek(Math.min(1, Math.max(0, (event.clientX - bounds.left) / bounds.width)) * length)
  }
  return (
    <div className="shrink-0 border-t border-line bg-paper px-4 pt-1 pb-2">
      <div className="flex items-baseline justify-between gap-4 text-xs text-muted">
        <span>
          {analysis ? (
            <>
              motion, in its usable part up to{' '}
              <b className="font-semibold text-ink">{analysis.motionPeak.toFixed(1)}</b> ΔE a second
              · <span className="text-look">brightness</span> ·{' '}
              <span className="text-curtain">
                weight of each second, up to {formatBytes(Math.max(0, ...analysis.bytesEachSecond))}
              </span>
            </>
          ) : (
            'Curves are shown once the clip is measured.'
          )}
        </span>
        <span className="shrink-0 max-lg:hidden">Click or drag to look at a moment.</span>
      </div>
      <div
        ref={box}
        role="slider"
        tabIndex={0}
        aria-label="Moment of the clip"
        aria-valuemin={0}
        aria-valuemax={length}
        aria-valuenow={Math.round(seconds * 1000) / 1000}
        aria-valuetext={`${seconds.toFixed(2)} seconds`}
        className="relative mt-1 cursor-ew-resize touch-none select-none"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          seek(event)
        }}
        onPointerMove={(event) =>
          event.currentTarget.hasPointerCapture(event.pointerId) && seek(event)
        }
      >
        <Strip source={source} width={width} />
        {analysis && (
          <canvas
            ref={canvas}
            role="img"
            aria-label="Curves of motion and brightness"
            className="block w-full"
            style={{ height: CURVE_HEIGHT }}
          />
        )}
        <Moments source={source} />
        <span
          aria-hidden
          className="pointer-events-none absolute -top-1 bottom-0 w-0.5 bg-curtain"
          style={{ left: `${(seconds / length) * 100}%` }}
        >
          <span className="absolute -top-0.5 -left-[3px] size-2 rounded-full bg-curtain" />
        </span>
      </div>
    </div>
  )
}

/** As many pictures of the clip as fit beside each other. */
function Strip({ source: { strip, facts }, width }: { source: ClipSource; width: number }) {
  const cellWidth = (STRIP_HEIGHT * facts.video.displayWidth) / facts.video.displayHeight
  const shown = strip ? Math.max(1, Math.min(strip.cells, Math.round(width / cellWidth))) : 0
  return (
    <div className="flex overflow-hidden rounded-sm bg-ink/20" style={{ height: STRIP_HEIGHT }}>
      {strip &&
        Array.from({ length: shown }, (_, at) => {
          const cell = Math.min(strip.cells - 1, Math.floor(((at + 0.5) / shown) * strip.cells))
          return (
            <span
              key={at}
              aria-hidden
              className="h-full flex-1 border-r border-paper-deep bg-cover last:border-0"
              style={{
                backgroundImage: `url(${mediaUrl(strip.sha256, 'image/webp')})`,
                backgroundSize: `${strip.cells * 100}% 100%`,
                backgroundPosition: `${strip.cells > 1 ? (cell / (strip.cells - 1)) * 100 : 0}% 0`,
              }}
            />
          )
        })}
    </div>
  )
}

/** What was found at moments of the clip, as spans. */
function Moments({ source: { findings, facts } }: { source: ClipSource }) {
  return findings
    .filter((finding) => finding.fromMs !== null)
    .map((finding, at) => {
      const from = finding.fromMs! / facts.durationMs
      const to = (finding.toMs ?? finding.fromMs!) / facts.durationMs
      return (
        <span
          key={at}
          title={describeFinding(finding).title}
          className={`pointer-events-none absolute top-0 bottom-0 border-x-2 ${finding.weight === 'fix' ? 'border-fix bg-fix/25' : 'border-look bg-look/25'}`}
          style={{ left: `${from * 100}%`, width: `max(2px, ${(to - from) * 100}%)` }}
        />
      )
    })
}

/**
 * Motion as a filled curve against its own peak, brightness as a line from 0 to 1, the weight of
 * each second as steps against the heaviest.
 */
function drawCurves(
  canvas: HTMLCanvasElement,
  width: number,
  { motion, brightness, bytesEachSecond }: Analysis,
  seconds: number,
): void {
  const ratio = devicePixelRatio
  canvas.width = Math.round(width * ratio)
  canvas.height = Math.round(CURVE_HEIGHT * ratio)
  const painter = canvas.getContext('2d')!
  painter.scale(ratio, ratio)
  const style = getComputedStyle(canvas)
  const x = (index: number, count: number): number => (index / Math.max(1, count - 1)) * width
  // A hard cut would flatten all else: the scale ends a little above what nearly all frames stay
  // under.
  const sorted = [...motion].sort((a, b) => a - b)
  const top = Math.max(
    0.001,
    Math.min(sorted[sorted.length - 1] ?? 1, (sorted[Math.floor(sorted.length * 0.98)] ?? 1) * 1.3),
  )
  painter.fillStyle = style.getPropertyValue('--color-line-strong')
  painter.beginPath()
  painter.moveTo(0, CURVE_HEIGHT)
  motion.forEach((value, index) =>
    painter.lineTo(
      x(index, motion.length),
      CURVE_HEIGHT - Math.min(1, value / top) * (CURVE_HEIGHT - 6),
    ),
  )
  painter.lineTo(width, CURVE_HEIGHT)
  painter.fill()
  painter.strokeStyle = style.getPropertyValue('--color-look')
  painter.lineWidth = 1.5
  painter.beginPath()
  brightness.forEach((value, index) =>
    painter[index === 0 ? 'moveTo' : 'lineTo'](
      x(index, brightness.length),
      CURVE_HEIGHT - value * (CURVE_HEIGHT - 4) - 2,
    ),
  )
  painter.stroke()
  const heaviest = Math.max(1, ...bytesEachSecond)
  painter.strokeStyle = style.getPropertyValue('--color-curtain')
  painter.lineWidth = 1
  painter.beginPath()
  bytesEachSecond.forEach((bytes, second) => {
    const y = CURVE_HEIGHT - (bytes / heaviest) * (CURVE_HEIGHT - 8) - 1
    painter[second === 0 ? 'moveTo' : 'lineTo']((second / seconds) * width, y)
    painter.lineTo(Math.min(width, ((second + 1) / seconds) * width), y)
  })
  painter.stroke()
}
