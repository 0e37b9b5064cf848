import { useEffect, useRef } from 'react'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { easeInOut } from '../../../core/kinds/easing'
import { paintMoves, type Paint } from '../../../core/kinds/paint/Paint'
import { paintPixels } from '../../../core/kinds/paint/paintPixels'
import { DECK_SHELL } from '../../rooms/Room'

/** Moments of the way there. */
const MOMENTS = [0, 0.2, 0.4, 0.6, 0.8, 1]
const PICTURE = { width: 192, height: 108 } as const

/** What is seen on the way there. */
export function MotionDeck({ document: { base } }: { document: DocumentOf<'paint'> }) {
  if (!paintMoves(base))
    return (
      <div className={`${DECK_SHELL} text-muted`}>
        The paint stands still. Switch on slow motion to see its way here.
      </div>
    )
  const { seconds } = base.motion!
  return (
    <div
      className={`${DECK_SHELL} flex items-start gap-3`}
      tabIndex={0}
      role="region"
      aria-label="The way of the motion"
    >
      {MOMENTS.map((share) => (
        <figure key={share} className="min-w-32 flex-1">
          <Moment paint={base} progress={easeInOut(share)} />
          <figcaption className="mt-1 font-mono text-xs text-muted">
            {((share * seconds) / 2).toFixed(1)} s
          </figcaption>
        </figure>
      ))}
      <p className="w-40 shrink-0 text-xs text-muted">
        Then the same way back: after {seconds} s it begins again where it started.
      </p>
    </div>
  )
}

/** A paint at a moment of its motion. */
function Moment({ paint, progress }: { paint: Paint; progress: number }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const { width, height } = PICTURE
    const pixels = paintPixels(paint, width, height, progress)
    canvas.current!.getContext('2d')!.putImageData(new ImageData(pixels, width, height), 0, 0)
  }, [paint, progress])
  return <canvas ref={canvas} aria-hidden {...PICTURE} className="w-full rounded-sm" />
}
