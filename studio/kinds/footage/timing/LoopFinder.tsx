import { useState } from 'react'
import type { ClipSource } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { sourceFps } from '../../../../core/media/probe'
import { useBackdrop } from '../../../state/backdropStore'
import { useLoopSearch, type LoopSearch } from '../../../state/loopSearchStore'
import { Button, NumberField, Progress } from '../../../ui/controls'
import { formatLeft } from '../../../ui/format'
import { Picker } from '../../../ui/Picker'
import { useNow } from '../../../ui/useNow'
import type { FoundLoop } from '../../../worker/jobs/findLoopsInClip'
import { seamMeaning } from './seamMeaning'
import { usePlayer } from './usePlayer'

type Region = 'usable' | 'whole' | 'cut'

const PHASES = {
  describing: 'Analysing the clip',
  comparing: 'Comparing moments',
  refining: 'Refining the best matches',
} as const

/** Looks for the best loop points of a clip and offers them as small looping pictures. */
export function LoopFinder({
  document,
  source,
}: {
  document: FootageDocument
  source: ClipSource
}) {
  const { search, find, stop } = useLoopSearch()
  const seconds = source.facts.durationMs / 1000
  const usable = source.analysis?.usable ?? null
  const [min, setMin] = useState(() => Math.min(4, Math.floor(seconds / 2)) || 1)
  const [max, setMax] = useState(() => Math.max(1, Math.min(12, Math.floor(seconds))))
  const [region, setRegion] = useState<Region>(usable ? 'usable' : 'whole')
  const { cut } = document.base.timing
  const bounds =
    region === 'cut'
      ? [cut.start / cut.timescale, cut.end / cut.timescale]
      : region === 'usable' && usable
        ? [usable.startMs / 1000, usable.endMs / 1000]
        : [0, seconds]
  const [from, to] = bounds as [number, number]
  const mine = search?.sourceSha256 === source.sha256 ? search : null
  const tooShort = to - from < min
  return (
    <div className="flex h-full gap-4 overflow-x-auto px-4 py-2">
      <div className="flex w-64 shrink-0 flex-col gap-2 overflow-y-auto">
        <div className="flex gap-2">
          <NumberField
            label="Shortest"
            value={min}
            low={0.5}
            high={120}
            decimals={1}
            suffix="s"
            onChange={(value) => {
              setMin(value)
              setMax(Math.max(max, value))
            }}
          />
          <NumberField
            label="Longest"
            value={max}
            low={0.5}
            high={120}
            decimals={1}
            suffix="s"
            onChange={(value) => {
              setMax(value)
              setMin(Math.min(min, value))
            }}
          />
        </div>
        <div className="flex items-center gap-2">
          <Picker
            label="Where"
            value={region}
            onChange={setRegion}
            options={[
              ...(usable ? [{ value: 'usable' as const, label: 'In the usable part' }] : []),
              { value: 'whole', label: 'In the whole clip' },
              { value: 'cut', label: 'Within the cut' },
            ]}
          />
          <span className="font-mono text-xs text-muted">
            {from.toFixed(1)} to {to.toFixed(1)} s
          </span>
        </div>
        {mine?.state === 'running' ? (
          <Button onClick={stop}>Stop search</Button>
        ) : (
          <Button
            tone="accent"
            disabled={tooShort}
            onClick={() => void find(source, { from, to, min, max })}
          >
            {mine ? 'Search again' : 'Find loops'}
          </Button>
        )}
        {tooShort && (
          <p className="text-xs text-fix">This part is shorter than the shortest loop asked for.</p>
        )}
      </div>
      <Outcome search={mine} document={document} source={source} />
    </div>
  )
}

/** What a search is doing, or what it found. */
function Outcome({
  search,
  document,
  source,
}: {
  search: LoopSearch | null
  document: FootageDocument
  source: ClipSource
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { cut } = document.base.timing
  const { timescale } = source.facts.video
  return (
    <div className="min-w-56 flex-1">
      {search?.state === 'running' && <SearchProgress search={search} />}
      {search?.state === 'failed' && (
        <p role="alert" className="pt-2 text-fix">
          {search.message}
        </p>
      )}
      {search?.state === 'stopped' && (
        <p className="pt-2 text-muted" role="status">
          Stopped. Nothing was changed.
        </p>
      )}
      {search?.state === 'done' && search.loops.length === 0 && (
        <p className="pt-2" role="status">
          No two moments of this part are similar enough. Allow other lengths or a longer part, or
          use a blended seam, which needs no match.
        </p>
      )}
      {!search && (
        <p className="max-w-xl pt-2 text-muted">
          Telon compares every pair of moments in the range by picture and motion, and lists the
          best pairs. Each result plays the second around its loop point. Taking one is one step to
          undo.
        </p>
      )}
      {search?.state === 'done' && search.loops.length > 0 && (
        <ul aria-label="Loops found" className="flex h-full gap-3 overflow-x-auto pb-1">
          {search.loops.map((loop, at) => (
            <Result
              key={`${loop.startTicks} ${loop.endTicks}`}
              loop={loop}
              number={at + 1}
              timescale={timescale}
              fps={Math.min(30, sourceFps(source.facts.video))}
              taken={
                cut.timescale === timescale &&
                cut.start === loop.startTicks &&
                cut.end === loop.endTicks
              }
              onTake={() =>
                dispatch({
                  type: 'timing/found-loop',
                  cut: { timescale, start: loop.startTicks, end: loop.endTicks },
                })
              }
            />
          ))}
        </ul>
      )}
    </div>
  )
}

function SearchProgress({ search }: { search: LoopSearch }) {
  const now = useNow(true)
  const { phase, done } = search.progress
  return (
    <div className="max-w-md pt-2" role="status">
      <p className="mb-1">
        {PHASES[phase]} …{' '}
        {done > 0.05 && (
          <span className="text-muted">
            {formatLeft(((now - search.phaseSince) / 1000) * (1 / done - 1))}
          </span>
        )}
      </p>
      <Progress value={done} label={PHASES[phase]} />
    </div>
  )
}

function Result({
  loop,
  number,
  timescale,
  fps,
  taken,
  onTake,
}: {
  loop: FoundLoop
  number: number
  timescale: number
  fps: number
  taken: boolean
  onTake: () => void
}) {
  const canvas = usePlayer(loop.pictures, fps)
  const { standing } = seamMeaning({ ...loop, worstDeltaE: null })
  return (
    <li
      className={`flex h-full w-44 shrink-0 flex-col rounded border bg-sheet ${taken ? 'border-curtain ring-1 ring-curtain' : 'border-line'}`}
    >
      <div className="min-h-0 flex-1 bg-surround">
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Loop point of loop ${number}`}
          className="size-full object-cover"
        />
      </div>
      <div className="flex items-end justify-between gap-2 px-2 py-1.5">
        <span className="text-xs leading-tight">
          <b className="font-semibold">
            {number} · {loop.seconds.toFixed(2)} s
          </b>
          <span className="block font-mono text-muted">
            {(loop.startTicks / timescale).toFixed(2)}–{(loop.endTicks / timescale).toFixed(2)}
          </span>
          <span className={`block ${standing === 'look' ? 'text-look' : 'text-settled'}`}>
            seam {loop.ratio === null ? 'invisible' : loop.ratio.toFixed(2)}
          </span>
        </span>
        <Button
          className="min-h-7! px-2!"
          disabled={taken}
          onClick={onTake}
          aria-label={taken ? `Loop ${number} is used` : `Use loop ${number}`}
        >
          {taken ? 'Used' : 'Use'}
        </Button>
      </div>
    </li>
  )
}
