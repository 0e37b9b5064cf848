import { useState } from 'react'
import type { ClipSource, RepairRequest } from '../../core/api/wire'
import { parseTime } from '../../core/loop/parseTime'
import { isRepairable } from '../../core/material/findings'
import { sourceFps } from '../../core/media/probe'
import { messageOf } from '../api/client'
import { useClipIndex } from '../clip/useClipFrames'
import { Button, DraftField, Group } from '../ui/controls'
import { runRepair, repairOffers } from './repairOffers'

interface RepairsProps {
  readonly source: ClipSource
  readonly onChange: () => Promise<void>
  readonly onAdded: (id: string) => void
}

/** Repairs without encoding anything again, one click each. */
export function Repairs({ source, onChange, onAdded }: RepairsProps) {
  const [busy, setBusy] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  if (!isRepairable(source.facts)) return null
  const offers = repairOffers(source)
  const carryOut = async (request: RepairRequest, label: string): Promise<void> => {
    setBusy(label)
    setProblem(null)
    try {
      const { source: repaired, added } = await runRepair(source, request, label, onChange)
      if (added) onAdded(repaired.id)
    } catch (error) {
      setProblem(messageOf(error))
    }
    setBusy(null)
  }
  return (
    <Group title="Repairs" aside="lossless: frames are copied">
      {offers.map(({ request, label, note }) => (
        <div key={label} className="flex items-center justify-between gap-3">
          <span className="text-[0.82rem]">
            <span className="block font-medium">{label}</span>
            <span className="text-muted">{note}</span>
          </span>
          <Button
            disabled={busy !== null}
            aria-label={label}
            onClick={() => void carryOut(request, label)}
          >
            {busy === label ? 'Working …' : 'Repair'}
          </Button>
        </div>
      ))}
      <CutOut
        source={source}
        ruled={offers.length > 0}
        busy={busy !== null}
        onCut={(request) => void carryOut(request, 'Cut')}
      />
      {problem && (
        <p role="alert" className="text-fix">
          {problem}
        </p>
      )}
    </Group>
  )
}

/**
 * A part of the clip as a source of its own. It can only start at a key frame: where that is, is
 * said before.
 */
function CutOut({
  source,
  ruled,
  busy,
  onCut,
}: {
  source: ClipSource
  ruled: boolean
  busy: boolean
  onCut: (request: RepairRequest) => void
}) {
  const { index } = useClipIndex(source)
  const length = source.facts.durationMs / 1000
  const usable = source.analysis?.usable
  const [start, setStart] = useState(usable ? usable.startMs / 1000 : 0)
  const [end, setEnd] = useState(usable ? usable.endMs / 1000 : length)
  const typed =
    (set: (value: number) => void) =>
    (text: string): string | null => {
      const time = parseTime(text)
      if (!time) return 'Type 2.5, 2.5 s, 75f or 1:02.5.'
      const seconds = 'frames' in time ? time.frames / sourceFps(source.facts.video) : time.seconds
      if (seconds < 0 || seconds > length) return `The clip ends at ${length.toFixed(2)} s.`
      set(seconds)
      return null
    }
  const keys = index?.keys.map((ticks) => ticks / index.timescale) ?? []
  const from = keys.filter((key) => key <= start + 0.001).pop() ?? 0
  return (
    <div className={ruled ? 'border-t border-line pt-2.5' : ''}>
      <p className="mb-1.5 text-[0.82rem]">
        <span className="block font-medium">Copy a part as a new source</span>
        <span className="text-muted">
          A copy can only start at a key frame: it starts at {from.toFixed(2)} s
          {keys.length < 2 ? ', the clip’s only key frame' : ''}.
        </span>
      </p>
      <div className="flex items-end gap-2">
        <DraftField label="From" value={start.toFixed(2)} suffix="s" onCommit={typed(setStart)} />
        <DraftField label="To" value={end.toFixed(2)} suffix="s" onCommit={typed(setEnd)} />
        <Button
          disabled={busy || end <= start}
          aria-label="Copy this part"
          onClick={() => onCut({ operation: 'cut', startMs: start * 1000, endMs: end * 1000 })}
        >
          Cut
        </Button>
      </div>
    </div>
  )
}
