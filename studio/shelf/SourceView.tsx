import { ChevronLeft, ChevronRight, Pause, Play } from 'lucide-react'
import {
  useCallback,
  useEffect,
  useEffectEvent,
  useRef,
  useState,
  type KeyboardEvent,
  type RefObject,
} from 'react'
import { useNavigate, useParams } from 'react-router'
import { isClip, type ClipSource, type Source } from '../../core/api/wire'
import { livelinessOf } from '../../core/material/Analysis'
import { describeFinding } from '../../core/material/describeFinding'
import { widestScreen, type Finding } from '../../core/material/findings'
import { mimeOf } from '../../core/media/image/mimeOf'
import { frameAt } from '../../core/media/presentation'
import { sourceFps } from '../../core/media/probe'
import { api, mediaUrl } from '../api/client'
import { shelfChanged, useProject, useSource } from '../api/queries'
import { useClipIndex, type ClipIndex } from '../clip/useClipFrames'
import { Loading, Problem, Shell } from '../shell/Shell'
import { isMeasurable, useAnalysis } from '../state/analysisStore'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button, Group, Progress, StandingMark } from '../ui/controls'
import { formatBytes, formatFps, formatLeft } from '../ui/format'
import { useNow } from '../ui/useNow'
import { Curves } from './Curves'
import { personalWords } from './describe'
import { ExactPictures } from './ExactPictures'
import { Repairs } from './Repairs'
import { ReplaceDialog } from './ReplaceDialog'
import { UseDialog } from './UseDialog'

/** One source: looked at frame by frame, with what was found and what can be repaired. */
export function SourceView() {
  const { projectId = '', sourceId = '' } = useParams()
  const found = useSource(sourceId)
  const { data: project } = useProject(projectId)
  const source = found.data
  const reload = (): Promise<void> => shelfChanged(projectId)
  const navigate = useNavigate()
  const [asking, setAsking] = useState<'rename' | 'replace' | 'use' | null>(null)
  const [name, setName] = useState('')
  useEffect(() => {
    if (source?.analysis === null) useAnalysis.getState().ensure([source])
  }, [source])
  if (found.error && !source)
    return (
      <Shell crumbs={[{ label: 'Source' }]}>
        <Problem message={found.error.message} onRetry={() => void found.refetch()} />
      </Shell>
    )
  if (!source || !project)
    return (
      <Shell crumbs={[{ label: 'Source' }]}>
        <Loading />
      </Shell>
    )
  return (
    <Shell
      crumbs={[
        { label: 'Projects', to: '/' },
        { label: project.name, to: `/projects/${project.id}` },
        { label: 'Shelf', to: `/projects/${project.id}/shelf` },
        { label: source.name },
      ]}
      actions={
        <>
          <Button
            tone="quiet"
            onClick={() => {
              setName(source.name)
              setAsking('rename')
            }}
          >
            Rename
          </Button>
          <Button tone="quiet" onClick={() => setAsking('replace')}>
            Replace
          </Button>
          <Button tone="accent" onClick={() => setAsking('use')}>
            Make a backdrop
          </Button>
        </>
      }
    >
      <main className="flex min-h-0 flex-1 max-md:flex-col max-md:overflow-auto">
        <h1 className="sr-only">{source.name}</h1>
        {isClip(source) ? <ClipPlayer source={source} /> : <ImagePlayer source={source} />}
        <div
          role="region"
          aria-label="Quality"
          className="w-[23rem] shrink-0 overflow-auto border-l border-line bg-sheet max-md:w-full max-md:overflow-visible"
          tabIndex={0}
        >
          <Quality
            source={source}
            onUse={() => setAsking('use')}
            onChange={reload}
            onAdded={(id) => void navigate(`/projects/${project.id}/sources/${id}`)}
          />
        </div>
      </main>
      {asking === 'rename' && (
        <AskDialog
          title="Rename source"
          action="Rename"
          onClose={() => setAsking(null)}
          onAct={() => api.renameSource(source.id, name).then(reload)}
        >
          <TextLine label="Name" value={name} onChange={setName} />
        </AskDialog>
      )}
      {asking === 'replace' && (
        <ReplaceDialog source={source} onClose={() => setAsking(null)} onDone={reload} />
      )}
      {asking === 'use' && (
        <UseDialog
          project={project}
          source={source}
          onClose={() => setAsking(null)}
          onMade={(id) => void navigate(`/backdrops/${id}`)}
        />
      )}
    </Shell>
  )
}

const VIDEO_TYPES = {
  mp4: 'video/mp4',
  mov: 'video/mp4',
  webm: 'video/webm',
  mkv: 'video/webm',
} as const

/** The clip, played by the browser and stepped through by exact frames, over its curves. */
function ClipPlayer({ source }: { source: ClipSource }) {
  const { index, error } = useClipIndex(source)
  const video = useRef<HTMLVideoElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const [playing, setPlaying] = useState(false)
  const [frame, setFrame] = useState(0)
  const [exact, setExact] = useState(false)
  const { facts } = source
  const count = index?.times.length ?? facts.video.frameCount
  const playable = isPlayable(source)
  const [frames] = useState(() => new ExactPictures(() => setExact(true)))
  useEffect(() => frames.open(source, canvas.current), [frames, source])
  const seconds = index ? (index.times[frame] ?? 0) / index.timescale : 0

  const goTo = useCallback(
    (number: number): void => {
      const next = Math.min(count - 1, Math.max(0, number))
      video.current?.pause()
      setPlaying(false)
      setFrame(next)
      frames.show(next)
    },
    [count, frames],
  )
  const showFirst = useEffectEvent((): void => frames.show(frame))
  useEffect(() => {
    if (index) showFirst()
  }, [index])
  useFollowing(playing, index, video, setFrame)
  const toggle = (): void => {
    if (playing) {
      goTo(frame)
      return
    }
    // Sequences of pictures play by themselves, from their start.
    if (!playable) {
      setPlaying(true)
      return
    }
    const element = video.current
    if (!element || !index) return
    // The middle of a frame: at its start half the browsers show the one before.
    element.currentTime = seconds + 0.5 / facts.video.averageFps
    setExact(false)
    setPlaying(true)
    element.play().catch(() => setPlaying(false))
  }
  return (
    <section
      aria-label="Player"
      className="flex min-w-0 flex-1 flex-col"
      onKeyDown={(event) => stepByKey(event, (by) => goTo(frame + by), toggle)}
    >
      <div className="[container-type:size] relative grid min-h-48 flex-1 place-items-center surround-grid p-4">
        <div
          className="relative"
          style={{
            width: `min(100cqw - 2rem, (100cqh - 2rem) * ${facts.video.displayWidth / facts.video.displayHeight})`,
            aspectRatio: `${facts.video.displayWidth} / ${facts.video.displayHeight}`,
          }}
        >
          <ClipMedia source={source} video={video} playing={playing} />
          <canvas
            ref={canvas}
            role="img"
            aria-label={`Frame ${frame + 1} of ${count}`}
            className={`absolute inset-0 size-full ${exact && !playing ? '' : 'invisible'}`}
          />
          <FindingPlaces findings={source.findings} />
        </div>
        {error && (
          <p role="alert" className="absolute inset-x-8 top-8 rounded bg-sheet p-4 text-fix">
            {error}
          </p>
        )}
      </div>
      <PlayerBar
        playing={playing}
        seconds={seconds}
        frame={frame}
        count={count}
        onGo={goTo}
        onToggle={toggle}
      />
      <Curves
        source={source}
        seconds={seconds}
        onSeek={(at) => index && goTo(frameAt(index, at * index.timescale))}
      />
    </section>
  )
}

/** Arrow keys step by a frame, with Shift by ten; Space plays and pauses. */
function stepByKey(
  event: KeyboardEvent,
  onStep: (frames: number) => void,
  onToggle: () => void,
): void {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (step && !(event.target instanceof HTMLInputElement)) {
    event.preventDefault()
    onStep(step * (event.shiftKey ? 10 : 1))
  }
  if (event.key === ' ' && !(event.target instanceof HTMLButtonElement)) {
    event.preventDefault()
    onToggle()
  }
}

function isPlayable({ facts }: ClipSource): boolean {
  return facts.container in VIDEO_TYPES
}

/** Reports the frame that a playing clip shows. */
function useFollowing(
  playing: boolean,
  index: ClipIndex | null,
  video: RefObject<HTMLVideoElement | null>,
  onFrame: (frame: number) => void,
): void {
  useEffect(() => {
    if (!playing || !index || !video.current) return
    let handle = 0
    const follow = (): void => {
      onFrame(frameAt(index, video.current!.currentTime * index.timescale + 1e-6))
      handle = requestAnimationFrame(follow)
    }
    handle = requestAnimationFrame(follow)
    return () => cancelAnimationFrame(handle)
  }, [playing, index, video, onFrame])
}

/** What plays: the clip, or a sequence of pictures, which plays by itself. */
function ClipMedia({
  source,
  video,
  playing,
}: {
  source: ClipSource
  video: RefObject<HTMLVideoElement | null>
  playing: boolean
}) {
  const { facts } = source
  return (
    <>
      {isPlayable(source) && (
        <video
          ref={video}
          muted
          playsInline
          loop
          preload="metadata"
          src={mediaUrl(source.sha256, VIDEO_TYPES[facts.container as keyof typeof VIDEO_TYPES])}
          className="size-full bg-ink"
          aria-label={source.name}
        />
      )}
      {!isPlayable(source) && playing && (
        <img
          src={mediaUrl(source.sha256, `image/${facts.container}`)}
          alt={source.name}
          className="size-full"
        />
      )}
    </>
  )
}

/** Where findings are in the picture. */
function FindingPlaces({ findings }: Pick<ClipSource, 'findings'>) {
  return (
    <>
      {findings.map(
        (finding, at) =>
          finding.place && (
            <div
              key={at}
              aria-hidden
              className="pointer-events-none absolute border-2 border-dashed border-[#ffd38a] shadow-[0_0_0_1px_rgb(0_0_0/0.6)]"
              style={{
                left: `${finding.place.x * 100 - 1}%`,
                top: `${finding.place.y * 100 - 1}%`,
                width: `${finding.place.width * 100 + 2}%`,
                height: `${finding.place.height * 100 + 2}%`,
              }}
            />
          ),
      )}
    </>
  )
}

function PlayerBar({
  playing,
  seconds,
  frame,
  count,
  onGo,
  onToggle,
}: {
  playing: boolean
  seconds: number
  frame: number
  count: number
  onGo: (frame: number) => void
  onToggle: () => void
}) {
  return (
    <div className="flex min-h-10 items-center justify-center gap-3 bg-[#55544f] px-4 font-mono text-xs text-white">
      <button
        type="button"
        aria-label="One frame back"
        title="One frame back (left arrow)"
        onClick={() => onGo(frame - 1)}
        className="grid size-8 place-items-center rounded hover:bg-black/30"
      >
        <ChevronLeft className="size-4" aria-hidden />
      </button>
      <button
        type="button"
        aria-label={playing ? 'Pause' : 'Play'}
        onClick={onToggle}
        className="grid size-8 place-items-center rounded hover:bg-black/30"
      >
        {playing ? (
          <Pause className="size-4" aria-hidden />
        ) : (
          <Play className="size-4" aria-hidden />
        )}
      </button>
      <button
        type="button"
        aria-label="One frame on"
        title="One frame on (right arrow)"
        onClick={() => onGo(frame + 1)}
        className="grid size-8 place-items-center rounded hover:bg-black/30"
      >
        <ChevronRight className="size-4" aria-hidden />
      </button>
      <span>{seconds.toFixed(3)} s</span>
      <span>
        frame {frame + 1} of {count}
      </span>
      <span className="text-white/80 max-lg:hidden">arrow keys step, with Shift by ten</span>
    </div>
  )
}

function ImagePlayer({ source }: { source: Source }) {
  const type = source.facts.kind === 'image' ? mimeOf(source.facts.format) : 'image/jpeg'
  return (
    <section
      aria-label="Picture"
      className="grid min-h-60 min-w-0 flex-1 place-items-center surround-grid p-6"
    >
      <img
        src={mediaUrl(source.sha256, type)}
        alt={source.name}
        className="max-h-full max-w-full object-contain shadow-2xl"
      />
    </section>
  )
}

/** Findings, repairs, facts and colours. */
function Quality({
  source,
  onUse,
  onChange,
  onAdded,
}: {
  source: Source
  onUse: () => void
  onChange: () => Promise<void>
  onAdded: (id: string) => void
}) {
  const { findings, analysis, facts } = source
  const widest = widestScreen(facts, analysis)
  return (
    <>
      <Measuring source={source} />
      <Group
        title="Findings"
        aside={
          analysis || !isMeasurable(source)
            ? findings.length === 0
              ? 'nothing to repair'
              : `${findings.length}`
            : 'from the index only'
        }
      >
        {findings.length === 0 && (
          <p className="flex items-center gap-2">
            <StandingMark standing="settled" />
            No problems found
          </p>
        )}
        <ul className="flex flex-col gap-3">
          {findings.map((finding, at) => (
            <FindingRow key={at} finding={finding} source={source} onUse={onUse} />
          ))}
        </ul>
      </Group>
      {isClip(source) && <Repairs source={source} onChange={onChange} onAdded={onAdded} />}
      <Group title="Quality">
        <Facts
          rows={[
            [
              'Sharp up to',
              facts.kind === 'image' && facts.format === 'svg'
                ? 'any width'
                : `${widest.good} px wide, soft to ${widest.soft}`,
            ],
            ...(analysis && facts.kind === 'clip'
              ? [
                  [
                    'Motion',
                    `${livelinessOf(analysis)}, ${analysis.motionMedian.toFixed(1)} ΔE a second, peak ${analysis.motionPeak.toFixed(1)}`,
                  ] as const,
                ]
              : []),
            ...(analysis?.asVideoBytes
              ? [
                  [
                    'As a clip',
                    `${formatBytes(facts.bytes)} ${facts.kind === 'clip' ? facts.video.codecName : ''} → ${formatBytes(analysis.asVideoBytes)} H.264`,
                  ] as const,
                ]
              : []),
            ['Used by', source.usedBy.length > 0 ? source.usedBy.join(', ') : 'nothing yet'],
          ]}
        />
        {analysis && analysis.palette.length > 0 && <Palette colours={analysis.palette} />}
      </Group>
      <Group title="Facts">
        <Facts rows={factRows(source)} />
      </Group>
    </>
  )
}

/** The measurement of a source under way, or how it ended. */
function Measuring({ source }: { source: Source }) {
  const job = useAnalysis((state) => state.jobs[source.id])
  const { stop, again } = useAnalysis.getState()
  const now = useNow(job?.state === 'running')
  const left =
    job?.startedAt && job.done > 0.05
      ? ((now - job.startedAt) / 1000 / job.done) * (1 - job.done)
      : NaN
  if (!job) return null
  return (
    <Group title="Being measured" aside={job.state === 'running' ? formatLeft(left) : undefined}>
      {job.state === 'failed' || job.state === 'stopped' ? (
        <p role="alert" className="flex items-center gap-2">
          {job.message ?? 'Stopped before its end.'}
          <Button onClick={() => again(source)}>Measure</Button>
        </p>
      ) : (
        <div className="flex items-center gap-3">
          <Progress value={job.done} label={`Measuring ${source.name}`} />
          <Button tone="quiet" onClick={() => stop(source.id)}>
            Stop
          </Button>
        </div>
      )}
    </Group>
  )
}

function Palette({ colours }: { colours: NonNullable<Source['analysis']>['palette'] }) {
  return (
    <div>
      <p className="mb-1 text-xs text-muted">Dominant colours, by their share</p>
      <ul className="flex h-9 overflow-hidden rounded border border-line">
        {colours.map(({ hex, share }) => (
          <li
            key={hex}
            title={`${hex}, ${Math.round(share * 100)} %`}
            style={{ background: hex, flexGrow: Math.max(0.08, share) }}
          >
            <span className="sr-only">
              {hex}, {Math.round(share * 100)} %
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-1 truncate font-mono text-xs text-muted">
        {colours.map(({ hex }) => hex).join(' ')}
      </p>
    </div>
  )
}

function FindingRow({
  finding,
  source,
  onUse,
}: {
  finding: Finding
  source: Source
  onUse: () => void
}) {
  const { title, meaning, advice } = describeFinding(finding)
  const usable = source.analysis?.usable
  return (
    <li className="flex gap-2.5">
      <span className="mt-1">
        {finding.weight === 'note' ? (
          <span
            role="img"
            aria-label="good to know"
            className="block size-3 rounded-full border-2 border-line-strong"
          />
        ) : (
          <StandingMark standing={finding.weight} />
        )}
      </span>
      <div>
        <p className="font-medium">{title}</p>
        <p className="text-[0.82rem] text-muted">
          {meaning}
          {finding.code === 'personal' ? ` It says ${personalWords(source)}.` : ''} {advice}
        </p>
        {finding.repair === 'trim' && usable && (
          <button
            type="button"
            className="mt-0.5 font-medium text-curtain underline"
            onClick={onUse}
          >
            Take {(usable.startMs / 1000).toFixed(2)} to {(usable.endMs / 1000).toFixed(2)} s
          </button>
        )}
      </div>
    </li>
  )
}

function Facts({ rows }: { rows: readonly (readonly [string, string])[] }) {
  return (
    <dl className="grid grid-cols-[7.5rem_1fr] gap-x-3 gap-y-1 text-[0.82rem]">
      {rows.map(([term, text]) => (
        <div key={term} className="contents">
          <dt className="text-muted">{term}</dt>
          <dd>{text}</dd>
        </div>
      ))}
    </dl>
  )
}

function factRows({ facts, sha256 }: Source): [string, string][] {
  if (facts.kind === 'image') {
    return [
      [
        'Format',
        `${facts.format.toUpperCase()}${facts.progressive ? ', progressive' : ''}${facts.animated ? ', animated' : ''}`,
      ],
      [
        'Size',
        `${facts.displayWidth} × ${facts.displayHeight}${facts.orientation === 1 ? '' : ', stored turned or mirrored'}`,
      ],
      ['Weight', formatBytes(facts.bytes)],
      [
        'Depth',
        facts.bitDepth === 0
          ? 'vector'
          : `${facts.bitDepth} bit${facts.alpha ? ', with alpha' : ''}`,
      ],
      ['Colour profile', facts.profile ?? 'none, which means sRGB'],
      ['Content', sha256.slice(0, 12)],
    ]
  }
  const { video } = facts
  const { stream, colour, pixelAspect } = video
  return [
    ['Container', facts.container.toUpperCase()],
    [
      'Size shown',
      `${video.displayWidth} × ${video.displayHeight}${video.rotationDeg ? `, turned by ${video.rotationDeg}°` : ''}`,
    ],
    ...(pixelAspect.horizontal === pixelAspect.vertical
      ? []
      : [
          ['Pixel shape', `${pixelAspect.horizontal} : ${pixelAspect.vertical}`] as [
            string,
            string,
          ],
        ]),
    ['Duration', `${(facts.durationMs / 1000).toFixed(3)} s, ${video.frameCount} frames`],
    ['Frame rate', `${formatFps(sourceFps(video))} fps`],
    [
      'Codec',
      `${video.codecName}${stream ? `, ${stream.profile}${stream.level ? ` ${stream.level}` : ''}, ${stream.bitDepth} bit ${stream.chroma}` : ''} (${video.codec})`,
    ],
    [
      'Colour',
      colour
        ? `matrix ${colour.matrix}, ${colour.fullRange ? 'full' : 'limited'} range`
        : 'not declared: BT.709 is assumed',
    ],
    [
      'Weight',
      `${formatBytes(facts.bytes)}, ${formatBytes(video.bytesPerSecond)} a second, peak ${formatBytes(video.peakBytesPerSecond)}`,
    ],
    ['Key frames', `${(video.keyEveryMs / 1000).toFixed(1)} s apart at most`],
    ['Sound', facts.audio ? `present, ${formatBytes(facts.audioBytes)}` : 'none'],
    ['Content', sha256.slice(0, 12)],
  ]
}
