import { useEffect, useMemo, useRef, useState, type RefObject } from 'react'
import type { ClipSource } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { drawnLive, sequenceOf } from '../../../../core/backdrop/delivered'
import { toNumber } from '../../../../core/Fraction'
import { loopOf } from '../../../../core/kinds/footage/footageSequence'
import { frameCount } from '../../../../core/loop/framePlan'
import { useOutputFrames } from '../../../clip/useOutputFrames'
import { Button } from '../../../ui/controls'
import { drawDifference } from '../../../ui/drawDifference'
import { usePicture } from '../../../ui/usePicture'
import { placesOf, sourcesOf } from '../clipOf'
import { useDeckView } from './deckView'
import { usePlayer } from './usePlayer'

const WIDTH = 480
/** Seconds shown on each side of the loop point. */
const EACH_SIDE_SECONDS = 0.5
const GAINS = [1, 4, 16] as const

/**
 * Loop point, close up: the second around it again and again, at full and at quarter speed, the
 * last and the first frame, and their difference.
 */
export function SeamView({ document, source }: { document: FootageDocument; source: ClipSource }) {
  const openView = useDeckView((state) => state.open)
  const loop = loopOf(document.base)
  const frames = frameCount(loop)
  const fps = toNumber(loop.frameRate)
  const side = Math.min(Math.floor(frames / 2), Math.max(1, Math.round(EACH_SIDE_SECONDS * fps)))
  const numbers = useMemo(
    () => [
      ...Array.from({ length: side }, (_, index) => index),
      ...Array.from({ length: side }, (_, index) => frames - side + index),
    ],
    [frames, side],
  )
  const { pictures, error } = useOutputFrames(
    sequenceOf(drawnLive(document), sourcesOf(source)),
    placesOf(source),
    numbers,
    WIDTH,
  )
  // Composed in the order of the loop, played in the order of the loop point: the end first.
  const around = useMemo(
    () =>
      pictures?.length === numbers.length
        ? [...pictures.slice(side), ...pictures.slice(0, side)]
        : [],
    [pictures, numbers, side],
  )
  if (document.base.timing.repeat === 'once') {
    return (
      <div className="flex h-full flex-col items-start gap-2 px-4 py-3">
        <p>
          The clip plays once: there is no seam. It{' '}
          {document.base.timing.atEnd === 'fade' ? 'fades to the poster' : 'holds its last frame'}{' '}
          at the end.
        </p>
        <Button onClick={() => openView('filmstrip')}>Back to the filmstrip</Button>
      </div>
    )
  }
  if (error)
    return (
      <p role="alert" className="px-4 py-3 text-fix">
        {error}
      </p>
    )
  if (around.length === 0)
    return (
      <p role="status" className="px-4 py-3 text-muted">
        Composing the frames around the loop point …
      </p>
    )
  return <Panels around={around} side={side} fps={fps} frames={frames} />
}

function Panels({
  around,
  side,
  fps,
  frames,
}: {
  around: readonly ImageBitmap[]
  side: number
  fps: number
  frames: number
}) {
  const full = usePlayer(around, fps)
  const quarter = usePlayer(around, fps / 4)
  const [gain, setGain] = useState<number>(4)
  const [last, first] = [around[side - 1]!, around[side]!]
  const lastCanvas = usePicture(last)
  const firstCanvas = usePicture(first)
  const difference = useDifference(last, first, gain)
  return (
    <div
      className="flex h-full gap-3 overflow-x-auto px-4 pt-1.5 pb-2"
      tabIndex={0}
      role="region"
      aria-label="Loop point, close up"
    >
      <Panel
        canvas={full}
        label="Full speed"
        note={`${(around.length / fps).toFixed(1)} s around the loop point`}
      />
      <Panel
        canvas={quarter}
        label="Quarter speed"
        note={`${(fps / 4).toFixed(0)} frames a second`}
      />
      <Panel canvas={lastCanvas} label="Last frame" note={`frame ${frames} of ${frames}`} />
      <Panel canvas={firstCanvas} label="First frame" note="frame 1" />
      <Panel
        canvas={difference}
        label="Difference"
        note={
          <span className="inline-flex gap-1" role="group" aria-label="Amplified">
            {GAINS.map((each) => (
              <button
                key={each}
                type="button"
                aria-pressed={gain === each}
                onClick={() => setGain(each)}
                className="rounded border border-line-strong/50 px-1 aria-pressed:border-curtain aria-pressed:text-curtain"
              >
                {each} ×
              </button>
            ))}
          </span>
        }
      />
    </div>
  )
}

function Panel({
  canvas,
  label,
  note,
}: {
  canvas: RefObject<HTMLCanvasElement | null>
  label: string
  note: React.ReactNode
}) {
  return (
    <figure className="flex h-full min-w-40 flex-1 flex-col">
      <div className="min-h-0 flex-1 bg-surround">
        <canvas ref={canvas} role="img" aria-label={label} className="size-full object-contain" />
      </div>
      <figcaption className="flex items-baseline justify-between gap-2 pt-0.5 text-xs whitespace-nowrap">
        <b className="font-semibold">{label}</b>
        <span className="text-muted">{note}</span>
      </figcaption>
    </figure>
  )
}

/** The difference of two pictures per pixel, amplified, on black. */
function useDifference(
  one: ImageBitmap,
  other: ImageBitmap,
  gain: number,
): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    if (!canvas.current || one.width === 0) return
    const { width, height } = one
    canvas.current.width = width
    canvas.current.height = height
    drawDifference(canvas.current, one, other, gain)
  }, [one, other, gain])
  return canvas
}
