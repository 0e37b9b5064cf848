import { Magnet, Maximize2, ZoomIn, ZoomOut } from 'lucide-react'

interface Props {
  /** Seconds in the clip. */
  readonly playhead: number
  /** The source frame at the playhead. */
  readonly frame: number
  /** Whether the playhead is parked on that frame. */
  readonly isParked: boolean
  /** 0 to 1 of the quick frames being prepared; null when none are. */
  readonly preparing: number | null
  readonly isSnapping: boolean
  readonly onSnapping: (snapping: boolean) => void
  readonly onResume: () => void
  readonly onSetEnd: (end: 'start' | 'end') => void
  /** Above 1 zooms in. */
  readonly onZoom: (factor: number) => void
  readonly onZoomToCut: () => void
  readonly onShowAll: () => void
}

/** One press of a zoom control. */
export const ZOOM_STEP = 1.5

/** The playhead's position, and the controls of the filmstrip. */
export function StripBar({
  playhead,
  frame,
  isParked,
  preparing,
  isSnapping,
  onSnapping,
  onResume,
  onSetEnd,
  onZoom,
  onZoomToCut,
  onShowAll,
}: Props) {
  return (
    <div className="flex min-h-7 items-center justify-between gap-x-3 text-xs text-muted max-md:flex-wrap">
      <span className="truncate">
        <b className="font-mono font-medium text-ink">
          {playhead.toFixed(3)} s · frame {frame}
        </b>
        <span className="max-lg:hidden">
          {' '}
          · arrow keys step a frame, with Shift ten; [ and ] set start and end here
        </span>
        {preparing !== null && (
          <span role="status"> · preparing quick frames, {Math.round(preparing * 100)} %</span>
        )}
      </span>
      <span className="flex shrink-0 items-center gap-1">
        {isParked && (
          <StripButton label="Resume playback" onClick={onResume}>
            Resume
          </StripButton>
        )}
        <StripButton label={`Set the start here, frame ${frame}`} onClick={() => onSetEnd('start')}>
          [ Start here
        </StripButton>
        <StripButton label={`Set the end here, frame ${frame}`} onClick={() => onSetEnd('end')}>
          End here ]
        </StripButton>
        <StripButton
          label="Snap to findings and loops"
          pressed={isSnapping}
          onClick={() => onSnapping(!isSnapping)}
        >
          <Magnet className="size-3.5" aria-hidden />
          Snap
        </StripButton>
        <StripButton label="Zoom out" onClick={() => onZoom(1 / ZOOM_STEP)}>
          <ZoomOut className="size-3.5" aria-hidden />
        </StripButton>
        <StripButton label="Zoom in" onClick={() => onZoom(ZOOM_STEP)}>
          <ZoomIn className="size-3.5" aria-hidden />
        </StripButton>
        <StripButton label="Zoom to the cut" onClick={onZoomToCut}>
          Cut
        </StripButton>
        <StripButton label="Show the whole clip" onClick={onShowAll}>
          <Maximize2 className="size-3.5" aria-hidden />
        </StripButton>
      </span>
    </div>
  )
}

function StripButton({
  label,
  pressed,
  onClick,
  children,
}: {
  label: string
  pressed?: boolean
  onClick: () => void
  children: React.ReactNode
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      onClick={onClick}
      className="inline-flex h-6 items-center gap-1 rounded border border-line-strong/50 bg-sheet px-1.5 text-[0.72rem] text-ink hover:bg-white aria-pressed:border-curtain aria-pressed:bg-white aria-pressed:text-curtain"
    >
      {children}
    </button>
  )
}
