import { useState, type ReactNode } from 'react'

interface WipeProps {
  readonly label: string
  /** What shows left of the line. */
  readonly left: ReactNode
  readonly right: ReactNode
  readonly leftLabel: string
  readonly rightLabel: string
  readonly onChange?: (share: number) => void
}

/**
 * Two pictures in one place with a line between them that is dragged, or moved by the arrow keys.
 */
export function Wipe({ label, left, right, leftLabel, rightLabel, onChange }: WipeProps) {
  const [share, setShare] = useState(0.5)
  return (
    <div className="relative h-full overflow-hidden bg-surround select-none">
      <div className="absolute inset-0">{right}</div>
      <div className="absolute inset-0" style={{ clipPath: `inset(0 ${(1 - share) * 100}% 0 0)` }}>
        {left}
      </div>
      <span
        aria-hidden
        className="absolute inset-y-0 w-0.5 -translate-x-1/2 bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.5)]"
        style={{ left: `${share * 100}%` }}
      />
      <span
        aria-hidden
        className="absolute bottom-1 left-1 rounded bg-black/60 px-1.5 text-xs text-white"
      >
        {leftLabel}
      </span>
      <span
        aria-hidden
        className="absolute right-1 bottom-1 rounded bg-black/60 px-1.5 text-xs text-white"
      >
        {rightLabel}
      </span>
      <input
        type="range"
        min={0}
        max={1}
        step={0.01}
        value={share}
        aria-label={label}
        aria-valuetext={`${Math.round(share * 100)} % ${leftLabel}`}
        className="absolute inset-0 m-0! h-full! w-full cursor-ew-resize opacity-0 focus-visible:opacity-30"
        onChange={(event) => {
          const next = Number(event.target.value)
          setShare(next)
          onChange?.(next)
        }}
      />
    </div>
  )
}
