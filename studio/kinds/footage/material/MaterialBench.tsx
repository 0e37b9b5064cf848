import { Link } from 'react-router'
import { describeFinding } from '../../../../core/material/describeFinding'
import { findingsLeftBy, findingsWithin } from '../../../../core/material/findings'
import { cropWithout, type ShareRect } from '../../../../core/picture/pictureShape'
import { useClips } from '../../../api/queries'
import { SourceThumb } from '../../../clip/SourceThumb'
import { useBackdrop } from '../../../state/backdropStore'
import { Button, Group, Note, StandingMark } from '../../../ui/controls'
import { BaseGroup } from '../../BaseGroup'
import type { ClipBenchProps } from '../clipOf'
import { CropGroup } from './CropGroup'
import { MatteField } from './MatteField'

/** The backdrop's clip, and others to replace it. */
export function MaterialBench({ document, source, projectId }: ClipBenchProps) {
  const { data: sources = [] } = useClips(projectId)
  const dispatch = useBackdrop((state) => state.dispatch)
  return (
    <>
      <InCut document={document} source={source} projectId={projectId} />
      <Group
        title="Clip"
        aside={
          <Link className="underline" to={`/projects/${projectId}/shelf`}>
            Add clips on the shelf
          </Link>
        }
      >
        <ul className="flex max-h-72 flex-col gap-1.5 overflow-auto p-0.5">
          {sources.map((each) => (
            <li key={each.id}>
              <button
                type="button"
                aria-pressed={each.id === source.id}
                onClick={() =>
                  dispatch({ type: 'material/swap', sourceId: each.id, facts: each.facts })
                }
                title={each.name}
                className="flex w-full items-center gap-2.5 rounded border border-line bg-white p-1 pr-2.5 text-left aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
              >
                <span className="[container-type:size] h-9 w-16 shrink-0">
                  <SourceThumb source={each} className="size-full rounded-sm" />
                </span>
                <span className="min-w-0 flex-1 truncate font-medium">{each.name}</span>
                <span className="shrink-0 font-mono text-xs text-muted">
                  {each.facts.video.displayWidth} × {each.facts.video.displayHeight},{' '}
                  {(each.facts.durationMs / 1000).toFixed(1)} s
                </span>
              </button>
            </li>
          ))}
        </ul>
        <p className="text-xs text-muted">
          Another clip keeps copy, scrim and, if it is long enough, the cut. Undo restores the
          former clip.
        </p>
      </Group>
      {source.facts.video.alpha && (
        <Group title="Transparency" aside="delivered clips are opaque">
          <MatteField document={document} />
        </Group>
      )}
      <CropGroup document={document} source={source} />
      <BaseGroup document={document} projectId={projectId} />
      {source.facts.audio && (
        <Group title="Sound">
          <Note tone="plain">
            The clip has sound. It is removed from every file, because backgrounds are silent.
          </Note>
        </Group>
      )}
    </>
  )
}

/** What was found within the cut, and one click to take the part that is free of it. */
function InCut({
  document,
  source,
  projectId,
}: Pick<ClipBenchProps, 'document' | 'source' | 'projectId'>) {
  const { cut } = document.base.timing
  const found = findingsWithin(
    findingsLeftBy(source.findings, document.base.picture.crop),
    (cut.start * 1000) / cut.timescale,
    (cut.end * 1000) / cut.timescale,
  ).filter((finding) => finding.weight !== 'note')
  return (
    <Group
      title="Within the cut"
      aside={
        <Link className="underline" to={`/projects/${projectId}/sources/${source.id}`}>
          Open clip
        </Link>
      }
    >
      {found.length === 0 && (
        <p className="flex items-center gap-2">
          <StandingMark standing={source.analysis ? 'settled' : 'busy'} />
          {source.analysis ? 'No problems found' : 'The clip is being measured.'}
        </p>
      )}
      {found.map((finding, at) => {
        const { title, meaning, advice } = describeFinding(finding)
        return (
          <div key={at} className="flex flex-col items-start gap-1.5">
            <Note tone={finding.weight === 'fix' ? 'fix' : 'look'}>
              <b className="font-semibold">{title}.</b> {meaning} {advice}
            </Note>
            {finding.place && (finding.code === 'bars' || finding.code === 'mark') && (
              <CropOffer code={finding.code} place={finding.place} />
            )}
          </div>
        )
      })}
      {found.some((finding) => finding.repair === 'trim') && (
        <TakeUsable document={document} source={source} />
      )}
    </Group>
  )
}

/** Takes at a click what a crop can repair. */
function CropOffer({ code, place }: { code: 'bars' | 'mark'; place: ShareRect }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  return (
    <Button
      onClick={() =>
        dispatch({
          type: 'picture/set',
          picture: { crop: code === 'bars' ? place : cropWithout(place) },
        })
      }
    >
      {code === 'bars' ? 'Crop the black bars' : 'Crop out the mark'}
    </Button>
  )
}

/**
 * Selects the part of the clip without cards, black, held frames and cuts, with the cut's present
 * length if there is room.
 */
export function TakeUsable({ document, source }: Pick<ClipBenchProps, 'document' | 'source'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const usable = source.analysis?.usable
  if (!usable) return null
  const { cut } = document.base.timing
  const ticks = (ms: number): number => Math.round((ms * cut.timescale) / 1000)
  const start = Math.min(
    Math.max(cut.start, ticks(usable.startMs)),
    Math.max(ticks(usable.startMs), ticks(usable.endMs) - (cut.end - cut.start)),
  )
  const end = Math.min(ticks(usable.endMs), start + (cut.end - cut.start))
  return (
    <Button onClick={() => dispatch({ type: 'timing/cut', cut: { ...cut, start, end } })}>
      Take {(start / cut.timescale).toFixed(2)} to {(end / cut.timescale).toFixed(2)} s
    </Button>
  )
}
