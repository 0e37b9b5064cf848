import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { Point } from '../../core/fit/cover'
import { formatHex } from '../../core/picture/srgb'
import { useStage } from '../state/stageStore'
import { arrowStep } from '../ui/arrowStep'

/** Pixels of the picture that colours are taken from, and how many each way count for one. */
const SHOWN_WIDTH = 640
const AROUND = 1

/**
 * Takes a colour of the picture that the stage shows, without scrim and copy: by a click, or with
 * the arrow keys and Enter; Escape leaves it.
 */
export function PickColor({ width, height }: { readonly width: number; readonly height: number }) {
  const picking = useStage((state) => state.picking)
  const set = useStage((state) => state.set)
  useEffect(() => () => set({ picking: null }), [set])
  if (!picking) return null
  return <Picking key={picking.label} {...picking} width={width} height={height} />
}

function Picking({
  label,
  onPick,
  width,
  height,
}: {
  readonly label: string
  readonly onPick: (color: string) => void
  readonly width: number
  readonly height: number
}) {
  const set = useStage((state) => state.set)
  const [place, setPlace] = useState<Point>({ x: 0.5, y: 0.5 })
  const [color, setColor] = useState(() => stageColor({ x: 0.5, y: 0.5 }))
  const target = useRef<HTMLButtonElement>(null)
  useEffect(() => target.current?.focus(), [])
  const leave = (): void => set({ picking: null })
  const look = (at: Point): void => {
    setPlace(at)
    setColor(stageColor(at))
  }
  const take = (at: Point): void => {
    const taken = stageColor(at)
    if (taken) onPick(taken)
    leave()
  }
  const placeOf = (event: PointerEvent): Point => {
    const box = event.currentTarget.getBoundingClientRect()
    return {
      x: clamp((event.clientX - box.left) / box.width),
      y: clamp((event.clientY - box.top) / box.height),
    }
  }
  const press = (event: KeyboardEvent): void => {
    const by = arrowStep(event)
    if (by) look({ x: clamp(place.x + by[0]), y: clamp(place.y + by[1]) })
    else if (event.key === 'Escape') leave()
    else if (event.key === 'Enter' || event.key === ' ') take(place)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <>
      <button
        ref={target}
        type="button"
        aria-label={`Pick a colour: ${label}. Arrow keys move, Enter takes it, Escape leaves.`}
        className="absolute top-0 left-0 z-20 cursor-crosshair touch-none outline-2 -outline-offset-2 outline-white"
        style={{ width, height }}
        onPointerMove={(event) => look(placeOf(event))}
        onPointerUp={(event) => take(placeOf(event))}
        onKeyDown={press}
        onBlur={leave}
      />
      <span
        aria-hidden
        className="pointer-events-none absolute z-20 size-10 -translate-x-1/2 -translate-y-1/2 rounded-full border-4 border-white outline-1 outline-black/60"
        style={{
          left: place.x * width,
          top: place.y * height,
          background: color ?? 'transparent',
        }}
      />
      <p
        role="status"
        className="pointer-events-none absolute bottom-2 left-2 z-20 rounded bg-sheet px-2 py-1 text-xs shadow"
      >
        {color ? (
          <>
            <span className="font-mono">{color}</span> for {label.toLowerCase()}: click or Enter
            takes it, Escape leaves
          </>
        ) : (
          'The stage shows no picture yet. Press Escape, and try again in a moment.'
        )}
      </p>
    </>
  )
}

const clamp = (value: number): number => Math.min(1, Math.max(0, value))

/** The colour of the picture that the stage shows now, at a place; null where it shows none. */
function stageColor(place: Point): string | null {
  const canvas = useStage.getState().snapshot(SHOWN_WIDTH)
  if (!canvas || canvas.width === 0 || canvas.height === 0) return null
  const context = canvas.getContext('2d')!
  return colorAt(context.getImageData(0, 0, canvas.width, canvas.height), place)
}

/** The mean colour of a few pixels around a place, given in shares. */
function colorAt({ data, width, height }: ImageData, { x, y }: Point): string {
  const [column, row] = [
    Math.min(width - 1, Math.floor(x * width)),
    Math.min(height - 1, Math.floor(y * height)),
  ]
  const sum = [0, 0, 0]
  let count = 0
  for (let dy = -AROUND; dy <= AROUND; dy++)
    for (let dx = -AROUND; dx <= AROUND; dx++) {
      const [px, py] = [column + dx, row + dy]
      if (px < 0 || py < 0 || px >= width || py >= height) continue
      const at = 4 * (py * width + px)
      for (let channel = 0; channel < 3; channel++)
        sum[channel] = sum[channel]! + data[at + channel]!
      count += 1
    }
  const [r, g, b] = sum.map((value) => value / count)
  return formatHex({ r: r!, g: g!, b: b! })
}
