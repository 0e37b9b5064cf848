import { useEffect, useRef, useState, type PointerEvent } from 'react'
import type { SourceCard } from '../../core/api/wire'
import { mimeOf } from '../../core/media/image/mimeOf'
import { mediaUrl } from '../api/client'
import { frameWorker } from '../state/frameWorker'
import { useAsync } from '../ui/useAsync'
import { usePicture } from '../ui/usePicture'

const CELLS_A_SECOND = 8
/** Width over height of a source as shown. */
function aspectOf({ facts }: Pick<SourceCard, 'facts'>): number {
  return facts.kind === 'clip'
    ? facts.video.displayWidth / facts.video.displayHeight
    : facts.displayWidth / facts.displayHeight
}

interface SourceThumbProps {
  readonly source: Pick<SourceCard, 'facts' | 'strip' | 'sha256'>
  readonly className?: string
  /** Plays by itself, as while the keyboard is on it. */
  readonly playing?: boolean
}

/**
 * A picture of a source. A clip's follows the pointer from its start to its end, and plays while
 * the keyboard is on it.
 */
export function SourceThumb({ source, className = '', playing = false }: SourceThumbProps) {
  const { strip, facts } = source
  const [cell, setCell] = useState<number | null>(null)
  const tick = useRef(0)
  const cells = strip?.cells ?? 1
  useEffect(() => {
    if (!playing || cells < 2 || matchMedia('(prefers-reduced-motion: reduce)').matches) return
    const timer = setInterval(
      () => setCell((tick.current = (tick.current + 1) % cells)),
      1000 / CELLS_A_SECOND,
    )
    return () => {
      clearInterval(timer)
      setCell(null)
    }
  }, [playing, cells])
  const follow = (event: PointerEvent): void => {
    const box = event.currentTarget.getBoundingClientRect()
    setCell(
      Math.min(
        cells - 1,
        Math.max(0, Math.floor(((event.clientX - box.left) / box.width) * cells)),
      ),
    )
  }
  // Footage often begins black or with a card: a frame a third of the way in says more.
  const shown = cell ?? Math.floor(cells / 3)
  if (!strip) return <Unmeasured source={source} className={className} />
  return (
    <div
      aria-hidden
      className={`relative overflow-hidden bg-ink ${className}`}
      onPointerMove={cells > 1 ? follow : undefined}
      onPointerLeave={() => setCell(null)}
    >
      <div
        className="absolute top-1/2 left-1/2 -translate-x-1/2 -translate-y-1/2"
        style={coverStyle(aspectOf(source))}
      >
        <div
          className="size-full"
          style={{
            backgroundImage: `url(${mediaUrl(strip.sha256, 'image/webp')})`,
            backgroundSize: `${cells * 100}% 100%`,
            backgroundPosition: cells > 1 ? `${(shown / (cells - 1)) * 100}% 0` : '0 0',
          }}
        />
      </div>
      {cell !== null && cells > 1 && (
        <div
          className="absolute bottom-0 left-0 h-1 bg-curtain"
          style={{ width: `${((cell + 1) / cells) * 100}%` }}
        />
      )}
      {facts.kind === 'image' && facts.alpha && (
        <span className="absolute bottom-1.5 left-1.5 rounded-sm bg-ink/75 px-1 text-[0.7rem] text-white">
          alpha
        </span>
      )}
    </div>
  )
}

/** Landscape pictures fill the 16 : 9 window; upright ones stand whole in it. */
function coverStyle(aspect: number) {
  return aspect >= 1.2
    ? { width: `max(100cqw, calc(100cqh * ${aspect}))`, aspectRatio: aspect }
    : { height: '100%', aspectRatio: aspect }
}

type Thumbed = SourceThumbProps['source']

function Unmeasured({ source, className }: { source: Thumbed; className: string }) {
  const { facts } = source
  const [failed, setFailed] = useState<string | null>(null)
  if (facts.kind === 'image')
    return (
      <div aria-hidden className={`overflow-hidden bg-paper-deep ${className}`}>
        <img
          src={mediaUrl(source.sha256, mimeOf(facts.format))}
          alt=""
          loading="lazy"
          decoding="async"
          className="size-full object-contain"
        />
      </div>
    )
  const type = facts.container === 'webm' || facts.container === 'mkv' ? 'video/webm' : 'video/mp4'
  if (facts.container === 'gif' || facts.container === 'webp')
    return (
      <div aria-hidden className={`overflow-hidden bg-ink ${className}`}>
        <img
          src={mediaUrl(source.sha256, `image/${facts.container}`)}
          alt=""
          loading="lazy"
          className="size-full object-cover"
        />
      </div>
    )
  if (facts.video.family === 'mjpeg' || failed === source.sha256)
    return <DecodedPicture source={source} className={className} />
  return (
    <video
      aria-hidden
      tabIndex={-1}
      muted
      playsInline
      preload="metadata"
      // Without a moment some browsers show nothing until the clip plays.
      src={`${mediaUrl(source.sha256, type)}#t=0.001`}
      onError={() => setFailed(source.sha256)}
      className={`bg-paper-deep object-cover ${className}`}
    />
  )
}

/** The first frame of a clip that the browser's player does not play, from the media worker. */
function DecodedPicture({ source, className }: { source: Thumbed; className: string }) {
  const { value, error } = useAsync<ImageBitmap | null>(source.sha256, async (signal) => {
    const place = { url: mediaUrl(source.sha256), bytes: source.facts.bytes }
    const order = { type: 'frames', place, numbers: [0], width: 320, coarse: false } as const
    let first: ImageBitmap | null = null
    const onStep = ({ picture }: { picture: ImageBitmap }): void => void (first = picture)
    await frameWorker().run(order, { signal, onStep })
    return first
  })
  const canvas = usePicture(value)
  return error ? (
    <div className={`grid place-items-center bg-paper-deep text-xs text-muted ${className}`}>
      No picture in this browser
    </div>
  ) : (
    <canvas ref={canvas} aria-hidden className={`bg-paper-deep object-cover ${className}`} />
  )
}
