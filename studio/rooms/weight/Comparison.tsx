import { useEffect, useLayoutEffect, useRef, type PointerEvent, type RefObject } from 'react'
import { drawDifference } from '../../ui/drawDifference'
import type { Pair } from './comparedPair'

/**
 * Two pictures in one place, with a line between them that is dragged, or their difference; what is
 * larger than the window is moved by hand.
 */
export function Comparison({
  pictures,
  zoom,
  wipe,
  gain,
  labels,
  onWipe,
}: {
  pictures: Pair | null
  zoom: number
  wipe: number
  gain: number | null
  labels: readonly [string, string]
  onWipe: (share: number) => void
}) {
  const scroller = useKeptMiddle(zoom, pictures !== null)
  const canvas = useComparison(pictures, wipe, gain)
  const drag = useRef<{
    readonly kind: 'pan' | 'wipe'
    readonly x: number
    readonly y: number
  } | null>(null)
  const size = pictures
    ? { width: pictures.right.width * zoom, height: pictures.right.height * zoom }
    : null
  const shareAt = (event: PointerEvent): number => {
    const box = canvas.current!.getBoundingClientRect()
    return Math.min(1, Math.max(0, (event.clientX - box.left) / box.width))
  }
  return (
    <div className="relative min-h-0 flex-1">
      <div
        ref={scroller}
        className="absolute inset-0 grid overflow-auto bg-surround"
        role="region"
        aria-label="Comparison"
        tabIndex={0}
        onPointerDown={(event) => {
          if (event.button !== 0 || !canvas.current) return
          const near =
            gain === null &&
            Math.abs(shareAt(event) - wipe) * canvas.current.getBoundingClientRect().width < 24
          drag.current = { kind: near ? 'wipe' : 'pan', x: event.clientX, y: event.clientY }
          event.currentTarget.setPointerCapture(event.pointerId)
        }}
        onPointerMove={(event) => {
          const held = drag.current
          if (!held) return
          if (held.kind === 'wipe') onWipe(shareAt(event))
          else {
            scroller.current!.scrollBy(held.x - event.clientX, held.y - event.clientY)
            drag.current = { ...held, x: event.clientX, y: event.clientY }
          }
        }}
        onPointerUp={() => (drag.current = null)}
        onPointerCancel={() => (drag.current = null)}
      >
        {size ? (
          <div className="relative m-auto" style={{ width: size.width, height: size.height }}>
            <canvas
              ref={canvas}
              role="img"
              aria-label={
                gain === null
                  ? `${labels[0]} left of the line, ${labels[1]} right of it`
                  : `Difference of ${labels[0]} and ${labels[1]}, × ${gain}`
              }
              className="block size-full select-none"
              style={{ imageRendering: zoom > 1 ? 'pixelated' : 'auto' }}
            />
            {gain === null && (
              <span
                aria-hidden
                className="absolute inset-y-0 w-0.5 -translate-x-1/2 cursor-ew-resize bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.5)]"
                style={{ left: `${wipe * 100}%` }}
              >
                <span className="sticky top-1/2 block h-8 w-3 -translate-x-[5px] rounded bg-white shadow" />
              </span>
            )}
          </div>
        ) : (
          <p role="status" className="p-6 text-white">
            Reading the frame …
          </p>
        )}
      </div>
      {size && gain === null && <CornerLabels size={size} labels={labels} />}
    </div>
  )
}

/** Names both sides in the picture's lower corners, as far as those are in the window. */
function CornerLabels({
  size,
  labels,
}: {
  size: { readonly width: number; readonly height: number }
  labels: readonly [string, string]
}) {
  return (
    <div
      aria-hidden
      className="pointer-events-none absolute flex justify-between gap-2 px-2 text-xs text-white"
      style={{
        insetInline: inset(size.width),
        bottom: `calc(${inset(size.height)} + 0.25rem)`,
      }}
    >
      <span className="rounded bg-black/60 px-1.5">{labels[0]}</span>
      <span className="rounded bg-black/60 px-1.5">{labels[1]}</span>
    </div>
  )
}

/**
 * A window onto a larger picture: the middle of what is in view stays there when the size changes,
 * and a picture opens at its own middle, where the line is.
 */
function useKeptMiddle(zoom: number, opened: boolean): RefObject<HTMLDivElement | null> {
  const scroller = useRef<HTMLDivElement>(null)
  const shownZoom = useRef(zoom)
  useLayoutEffect(() => {
    const at = scroller.current
    if (!at || shownZoom.current === zoom) return
    const [x, y] = [at.scrollLeft + at.clientWidth / 2, at.scrollTop + at.clientHeight / 2]
    at.scrollTo(
      (x * zoom) / shownZoom.current - at.clientWidth / 2,
      (y * zoom) / shownZoom.current - at.clientHeight / 2,
    )
    shownZoom.current = zoom
  }, [zoom])
  useLayoutEffect(() => {
    const at = scroller.current
    if (opened && at)
      at.scrollTo((at.scrollWidth - at.clientWidth) / 2, (at.scrollHeight - at.clientHeight) / 2)
  }, [opened])
  return scroller
}

/**
 * Distance between a picture's edge and that of the window around it; 0 if the picture is larger.
 */
function inset(side: number): string {
  return `max(0px, (100% - ${side}px) / 2)`
}

/** Draws both sides with the line between them, or their difference, amplified. */
function useComparison(
  pair: Pair | null,
  wipe: number,
  gain: number | null,
): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    if (!pair || !canvas.current || pair.right.width === 0) return
    const { left, right } = pair
    const { width, height } = right
    if (canvas.current.width !== width) canvas.current.width = width
    if (canvas.current.height !== height) canvas.current.height = height
    if (gain !== null) {
      drawDifference(canvas.current, left, right, gain)
      return
    }
    const context = canvas.current.getContext('2d', { willReadFrequently: true })!
    context.drawImage(left, 0, 0, width, height)
    const line = Math.round(width * wipe)
    if (line < width)
      context.drawImage(right, line, 0, width - line, height, line, 0, width - line, height)
  }, [pair, wipe, gain])
  return canvas
}
