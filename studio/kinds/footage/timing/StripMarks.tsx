import { useMemo } from 'react'
import type { ClipSource } from '../../../../core/api/wire'
import { describeFinding } from '../../../../core/material/describeFinding'
import type { ClipIndex } from '../../../clip/useClipFrames'
import { useLoopSearch } from '../../../state/loopSearchStore'
import type { SnapPoint } from './view'

const MARK_WORDS: Partial<Record<string, string>> = {
  'title-card': 'title card',
  'hard-cut': 'cut',
  'black-start': 'black',
  'black-end': 'black',
  'held-start': 'held',
  'held-end': 'held',
  'fade-in': 'fade',
  'fade-out': 'fade',
  flashes: 'flashes',
  'missing-frames': 'missing',
}

/** Findings at the times where they occur, and the ends of the loops that were found. */
export function StripMarks({
  source,
  share,
}: {
  source: ClipSource
  share: (seconds: number) => number
}) {
  const search = useLoopSearch((state) => state.search)
  const moments = source.findings.filter((finding) => finding.fromMs !== null)
  const { timescale } = source.facts.video
  const loops = search?.sourceSha256 === source.sha256 ? search.loops : []
  return (
    <div className="pointer-events-none relative h-4 text-[0.66rem] leading-4">
      {moments.map((finding, at) => {
        const [from, to] = [
          share(finding.fromMs! / 1000),
          share((finding.toMs ?? finding.fromMs!) / 1000),
        ]
        return (
          <span
            key={at}
            title={describeFinding(finding).title}
            className={`absolute top-0 h-full overflow-hidden border-l-2 px-1 whitespace-nowrap ${finding.weight === 'fix' ? 'border-fix bg-fix/20 text-fix' : 'border-look bg-look/15 text-look'}`}
            style={{ left: `${from * 100}%`, width: to > from ? `${(to - from) * 100}%` : 'auto' }}
          >
            {MARK_WORDS[finding.code] ?? finding.code}
          </span>
        )
      })}
      {loops.map((loop, at) =>
        [loop.startTicks, loop.endTicks].map((ticks, end) => (
          <span
            key={`${at} ${end}`}
            className="absolute top-0.5 grid size-3 -translate-x-1/2 rotate-45 place-items-center border border-curtain bg-sheet text-[0.55rem] leading-none text-curtain"
            style={{ left: `${share(ticks / timescale) * 100}%` }}
          >
            <span className="-rotate-45">{at + 1}</span>
          </span>
        )),
      )}
    </div>
  )
}

/**
 * The moments to which handles of the cut snap: ends of the clip, of findings and of found loops,
 * and the playhead while it is parked (`parked`, in seconds).
 */
export function useSnapPoints(
  source: ClipSource,
  index: ClipIndex,
  parked: number | null,
): readonly SnapPoint[] {
  const search = useLoopSearch((state) => state.search)
  return useMemo(() => {
    const { timescale } = source.facts.video
    const loops = search?.sourceSha256 === source.sha256 ? search.loops : []
    return [
      { seconds: 0, label: 'start of the clip' },
      { seconds: index.length / index.timescale, label: 'end of the clip' },
      ...source.findings.flatMap(({ code, fromMs, toMs }): SnapPoint[] => {
        const word = MARK_WORDS[code] ?? code
        if (fromMs === null) return []
        return toMs === null || toMs === fromMs
          ? [{ seconds: fromMs / 1000, label: word }]
          : [
              { seconds: fromMs / 1000, label: `${word} begins` },
              { seconds: toMs / 1000, label: `${word} ends` },
            ]
      }),
      ...loops.flatMap((loop, at): SnapPoint[] => [
        { seconds: loop.startTicks / timescale, label: `loop ${at + 1} starts` },
        { seconds: loop.endTicks / timescale, label: `loop ${at + 1} ends` },
      ]),
      ...(parked === null ? [] : [{ seconds: parked, label: 'playhead' }]),
    ]
  }, [source, index, search, parked])
}
