import { useEffect, useRef, useState } from 'react'
import type { ClipSource, SourceCard } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { posterRecipes, proofKey, recipeKey, posterClasses } from '../../../../core/backdrop/recipe'
import { SCREENS } from '../../../../core/fit/screens'
import { nearestRate, toNumber } from '../../../../core/Fraction'
import { footageSequence, loopOf } from '../../../../core/kinds/footage/footageSequence'
import { chooseOverlap } from '../../../../core/loop/chooseOverlap'
import { frameCount, loopSeconds, overlapFrames } from '../../../../core/loop/framePlan'
import { parseTime } from '../../../../core/loop/parseTime'
import { findingsWithin } from '../../../../core/material/findings'
import { mimeOf } from '../../../../core/media/image/mimeOf'
import { sourceFps } from '../../../../core/media/probe'
import { VISIBLE_SWAP } from '../../../../core/picture/swapDifference'
import { messageOf } from '../../../api/client'
import { useBackdrop } from '../../../state/backdropStore'
import { frameWorker } from '../../../state/frameWorker'
import { useStage } from '../../../state/stageStore'
import { useShelfImages } from '../../../shelf/useShelfImages'
import { useWork } from '../../../state/workStore'
import {
  Button,
  Choice,
  DraftField,
  Group,
  Note,
  NumberField,
  Slider,
  Toggle,
} from '../../../ui/controls'
import { formatBytes, formatFps } from '../../../ui/format'
import { Picker } from '../../../ui/Picker'
import { placesOf, sourcesOf, type ClipBenchProps } from '../clipOf'
import { TakeUsable } from '../material/MaterialBench'
import { MatteField } from '../material/MatteField'
import { useDeckView } from './deckView'
import { lengthCosts } from './lengthCosts'
import { SeamFigure } from './SeamFigure'

interface PartProps {
  readonly document: FootageDocument
  readonly source: ClipSource
}

/** Cut, seam, speed, length and the poster. */
export function TimingBench({ document, source, projectId }: ClipBenchProps) {
  return (
    <>
      <CutGroup document={document} source={source} />
      <SeamGroup document={document} source={source} />
      <LengthGroup document={document} source={source} />
      <SpeedGroup document={document} source={source} />
      <PosterGroup document={document} source={source} projectId={projectId} />
    </>
  )
}

function CutGroup({ document, source }: PartProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { cut } = document.base.timing
  const fps = sourceFps(source.facts.video)
  const seconds = (ticks: number): string => (ticks / cut.timescale).toFixed(3).replace(/0$/, '')
  const frames = (ticks: number): number => Math.round((ticks / cut.timescale) * fps)
  const typed =
    (end: 'start' | 'end') =>
    (text: string): string | null => {
      const time = parseTime(text, fps)
      if (!time) return 'Type 2.5, 2.5 s, 75f or 00:02:15.'
      const at = 'frames' in time ? time.frames / fps : time.seconds
      const ticks = Math.round(at * cut.timescale)
      const length =
        (source.facts.video.durationTicks * cut.timescale) / source.facts.video.timescale
      if (ticks > length + 1) return `The clip ends at ${(length / cut.timescale).toFixed(2)} s.`
      const next = { ...cut, [end]: Math.min(length, onFrame(ticks, cut.timescale, fps)) }
      if (next.end - next.start < cut.timescale / fps)
        return end === 'start'
          ? 'The start must be before the end.'
          : 'The end must be after the start.'
      dispatch({ type: 'timing/cut', cut: next })
      return null
    }
  const flawed = findingsWithin(
    source.findings,
    (cut.start * 1000) / cut.timescale,
    (cut.end * 1000) / cut.timescale,
  ).some((finding) => finding.repair === 'trim')
  return (
    <Group
      title="Cut"
      aside={`${((cut.end - cut.start) / cut.timescale).toFixed(2)} s of the clip`}
    >
      <div className="flex gap-2">
        <DraftField
          label={`Start, frame ${frames(cut.start)}`}
          value={`${seconds(cut.start)} s`}
          onCommit={typed('start')}
        />
        <DraftField
          label={`End, frame ${frames(cut.end)}`}
          value={`${seconds(cut.end)} s`}
          onCommit={typed('end')}
        />
      </div>
      {flawed && (
        <>
          <Note tone="look">The cut contains a title card, black, held frames or a jump.</Note>
          <TakeUsable document={document} source={source} />
        </>
      )}
    </Group>
  )
}

/**
 * The tick of the nearest frame, for clips of a steady rate; the deck's handles use the clip's own
 * times.
 */
function onFrame(ticks: number, timescale: number, fps: number): number {
  return Math.round((Math.round((ticks / timescale) * fps) * timescale) / fps)
}

function SeamGroup({ document, source }: PartProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const openView = useDeckView((state) => state.open)
  const { repeat, atEnd, seam, frameRate } = document.base.timing
  const loop = loopOf(document.base)
  const rendition = useWork((state) => state.made[proofKey(document, sourcesOf(source))])
  const measuring = useWork((state) => state.proof?.state === 'running')
  const figure = rendition?.facts.kind === 'clip' ? rendition.facts.seam : null
  return (
    <Group title="Seam" aside="where the end meets the start">
      <Choice
        label="Playback"
        hideLabel
        value={repeat}
        onChange={(value) => dispatch({ type: 'timing/repeat', repeat: value })}
        options={[
          { value: 'loop', label: 'Loop' },
          { value: 'once', label: 'Play once' },
        ]}
      />
      {repeat === 'once' && (
        <Choice
          label="At the end"
          value={atEnd}
          onChange={(value) => dispatch({ type: 'timing/at-end', atEnd: value })}
          options={[
            { value: 'hold', label: 'Hold last frame' },
            { value: 'fade', label: 'Fade to poster' },
          ]}
        />
      )}
      {repeat === 'loop' && (
        <>
          <SeamFigure figure={figure} measuring={measuring} />
          <Choice
            label="Seam"
            hideLabel
            value={seam.kind}
            onChange={(kind) => dispatch({ type: 'timing/seam', seam: { kind } })}
            options={[
              { value: 'straight', label: 'Straight', note: 'hard cut' },
              { value: 'blended', label: 'Blended', note: 'crossfade' },
              { value: 'ping-pong', label: 'Ping-pong', note: 'forward, then backward' },
            ]}
          />
          {seam.kind === 'blended' && (
            <>
              <Slider
                label="Overlap"
                value={seam.overlapSeconds}
                low={0.1}
                high={3}
                step={0.05}
                shown={`${(overlapFrames(loop) / toNumber(frameRate)).toFixed(2)} s, ${overlapFrames(loop)} frames`}
                onChange={(overlapSeconds, gesture) =>
                  dispatch({ type: 'timing/seam', seam: { overlapSeconds } }, gesture)
                }
              />
              <SuggestOverlap document={document} source={source} />
              {figure?.straightRatio != null && (
                <p className="text-xs text-muted">
                  Straight seam of this cut: {figure.straightRatio.toFixed(1)}.
                </p>
              )}
            </>
          )}
          {seam.kind === 'ping-pong' && (
            <p className="text-xs text-muted">
              Plays forward, then backward. Good for drifting and swaying motion; people, rain and
              traffic look wrong backward.
            </p>
          )}
          <div className="flex gap-1.5">
            <Button onClick={() => openView('seam')}>Preview seam</Button>
            <Button onClick={() => openView('loops')}>Find loop</Button>
          </div>
        </>
      )}
    </Group>
  )
}

/** Measures the cut's motion and takes the overlap that suits it. */
function SuggestOverlap({ document, source }: PartProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const [measuring, setMeasuring] = useState<number | null>(null)
  const [error, setError] = useState<string | null>(null)
  const abort = useRef<AbortController | null>(null)
  useEffect(() => () => abort.current?.abort(), [])
  const suggest = (): void => {
    const own = new AbortController()
    abort.current = own
    setMeasuring(0)
    setError(null)
    frameWorker()
      .run(
        {
          type: 'cut-motion',
          places: placesOf(source),
          sequence: footageSequence(document.base, sourcesOf(source))!,
        },
        { signal: own.signal, onStep: ({ done }) => !own.signal.aborted && setMeasuring(done) },
      )
      .then(
        (motion) =>
          !own.signal.aborted &&
          dispatch({
            type: 'timing/seam',
            seam: {
              overlapSeconds: chooseOverlap(motion, toNumber(document.base.timing.frameRate)),
            },
          }),
        (problem: unknown) => !own.signal.aborted && setError(messageOf(problem)),
      )
      .finally(() => setMeasuring(null))
  }
  return (
    <>
      {measuring === null ? (
        <Button
          onClick={suggest}
          title="Sets the length so that the blend changes no faster than the picture moves and the loop ends at a calm moment"
        >
          Suggest overlap
        </Button>
      ) : (
        <Button onClick={() => abort.current?.abort()}>
          Measuring the motion, {Math.round(measuring * 100)} %: stop
        </Button>
      )}
      {error && (
        <p role="alert" className="text-xs text-fix">
          {error}
        </p>
      )}
    </>
  )
}

/** Motion that starts by itself and lasts longer must be pausable. Source: WCAG 2.2, 2.2.2. */
const PAUSE_AFTER_SECONDS = 5

function LengthGroup({ document, source }: PartProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const made = useWork((state) => state.made)
  const loop = loopOf(document.base)
  const seconds = loopSeconds(loop)
  const costs = lengthCosts(document, source, made)
  const { pauseControl } = document.behaviour
  const mustPause = document.base.timing.repeat === 'loop' || seconds > PAUSE_AFTER_SECONDS
  return (
    <Group title="Length" aside={`${seconds.toFixed(2)} s, ${frameCount(loop)} frames`}>
      {costs.length > 0 ? (
        costs.map((cost) => (
          <p key={cost.label} className="text-[0.82rem]">
            <b className="font-semibold">{cost.label}</b>: {formatBytes(cost.bytesPerSecond)} for
            each second at the quality of the files last made; this length takes about{' '}
            <b className="font-mono font-medium">{formatBytes(cost.bytesPerSecond * seconds)}</b> of{' '}
            {formatBytes(cost.budgetBytes)}.
          </p>
        ))
      ) : (
        <p className="text-xs text-muted">Render files under Weight to see bytes per second.</p>
      )}
      {mustPause && pauseControl && (
        <p className="text-xs text-muted">
          Motion that lasts longer than 5 s needs a pause control (WCAG 2.2.2): it is on.
        </p>
      )}
      {mustPause && !pauseControl && (
        <>
          <Note tone="fix">
            Motion that lasts longer than 5 s needs a pause control (WCAG 2.2.2), and it is off.
          </Note>
          <Button
            onClick={() => dispatch({ type: 'behaviour/set', behaviour: { pauseControl: true } })}
          >
            Turn on pause control
          </Button>
        </>
      )}
    </Group>
  )
}

const RATES = [24, 25, 30, 50, 60]

function SpeedGroup({ document, source }: PartProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { speed, frameRate, blendFrames } = document.base.timing
  const clipFps = sourceFps(source.facts.video)
  const options = [
    ...new Map(
      [nearestRate(clipFps), ...RATES.map((num) => ({ num, den: 1 })), frameRate].map((rate) => [
        `${rate.num}/${rate.den}`,
        rate,
      ]),
    ).entries(),
  ]
  const repeats = toNumber(frameRate) > clipFps * speed + 0.01
  return (
    <Group
      title="Speed"
      aside={`${speed} ×, ${loopSeconds(loopOf(document.base)).toFixed(2)} s at ${formatFps(toNumber(frameRate))} fps`}
    >
      <Slider
        label="Slower or faster than the clip"
        value={Math.log2(speed)}
        low={-2}
        high={2}
        step={0.05}
        shown={`${speed} ×`}
        onChange={(value, gesture) =>
          dispatch({ type: 'timing/speed', speed: Math.round(2 ** value * 100) / 100 }, gesture)
        }
      />
      <div className="flex gap-2">
        <NumberField
          label="Speed, 0.25 to 4"
          value={speed}
          low={0.25}
          high={4}
          decimals={2}
          suffix="×"
          onChange={(value) => dispatch({ type: 'timing/speed', speed: value })}
        />
        <label className="flex min-w-0 flex-1 flex-col rounded border border-line bg-white px-2.5 py-1">
          <span className="text-xs text-muted">Frame rate</span>
          <select
            className="bg-transparent font-mono text-[0.82rem] outline-none"
            value={`${frameRate.num}/${frameRate.den}`}
            onChange={(event) => {
              const rate = options.find(([key]) => key === event.target.value)?.[1]
              if (rate) dispatch({ type: 'timing/frame-rate', frameRate: rate })
            }}
          >
            {options.map(([key, rate]) => (
              <option key={key} value={key}>
                {formatFps(toNumber(rate))} fps
                {Math.abs(toNumber(rate) - clipFps) < 0.01 ? ' (clip’s)' : ''}
              </option>
            ))}
          </select>
        </label>
      </div>
      {repeats && !blendFrames && (
        <Note tone="look">
          At this speed the clip gives only {formatFps(clipFps * speed)} frames per second, so some
          are shown twice. A lower frame rate looks the same with fewer bytes; blending looks
          smoother.
        </Note>
      )}
      {(repeats || blendFrames) && (
        <Toggle
          label="Blend frames"
          note="Mixes neighbouring frames in slow motion instead of repeating them. Blurs quick motion."
          enabled={blendFrames}
          onChange={(on) => dispatch({ type: 'timing/blend-frames', enabled: on })}
        />
      )}
    </Group>
  )
}

function PosterGroup({ document, source, projectId }: PartProps & { projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const openView = useDeckView((state) => state.open)
  const made = useWork((state) => state.made)
  // Of drawings no poster can be made.
  const images = useShelfImages(projectId).filter(
    ({ facts }) => facts.kind === 'image' && facts.format !== 'svg',
  )
  const { poster } = document
  const swaps = posterRecipes(document, sourcesOf(source)).flatMap(({ recipe }) => {
    const rendition = made[recipeKey(recipe)]
    return rendition?.facts.kind === 'poster' ? [rendition.facts.swapDeltaE] : []
  })
  const swap = swaps.length > 0 ? swaps.reduce((max, value) => Math.max(max, value), 0) : null
  const { picture } = poster
  const fromShelf =
    picture.kind === 'source' ? images.find((each) => each.id === picture.sourceId) : undefined
  return (
    <Group
      title="Poster"
      aside={swap === null ? 'poster swap not measured yet' : `swap ΔE ${swap.toFixed(2)}`}
    >
      <PosterPicture picture={picture} images={images} timescale={source.facts.video.timescale} />
      <p className="text-xs text-muted">
        {picture.kind === 'first'
          ? 'Identical to the first frame.'
          : 'Differs from the first frame; the poster swap is measured.'}
      </p>
      {fromShelf?.facts.kind === 'image' && fromShelf.facts.alpha && (
        <MatteField document={document} />
      )}
      {swap !== null && swap > VISIBLE_SWAP && (
        <Note tone="look">
          The poster swap is visible: ΔE {swap.toFixed(1)} (up to 2 is hardly noticeable).
        </Note>
      )}
      <Button onClick={() => openView('poster')}>Compare poster and first frame</Button>
      <div className="flex gap-2">
        {posterClasses(document, sourcesOf(source)).map((screenClass) => (
          <NumberField
            key={screenClass}
            label={SCREENS[screenClass].label}
            value={poster.maxBytes[screenClass] / 1000}
            low={2}
            high={5000}
            suffix="kB"
            onChange={(kilobytes) =>
              dispatch({ type: 'poster/max-bytes', screenClass, bytes: kilobytes * 1000 })
            }
          />
        ))}
      </div>
      <p className="text-xs text-muted">
        Maximum size of one poster. Telon uses fewer bytes where the difference is invisible.
      </p>
      <Toggle
        label="AVIF"
        note="About half the size in browsers that support it; WebP and JPEG are always included."
        enabled={poster.avif}
        onChange={(on) => dispatch({ type: 'poster/avif', enabled: on })}
      />
    </Group>
  )
}

/** What the poster shows: the first frame, another one, or an image from the shelf. */
function PosterPicture({
  picture,
  images,
  timescale,
}: {
  picture: FootageDocument['poster']['picture']
  images: readonly SourceCard[]
  timescale: number
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { held, parkedTicks } = useStage()
  const set = (next: FootageDocument['poster']['picture']): void =>
    dispatch({ type: 'poster/picture', picture: next })
  const take = (value: string): void => {
    if (value === 'first') set({ kind: 'first' })
    const from = images.find((each) => each.id === value)
    if (from?.facts.kind === 'image')
      set({
        kind: 'source',
        sourceId: from.id,
        sha256: from.sha256,
        mime: mimeOf(from.facts.format),
        bytes: from.facts.bytes,
      })
  }
  // The present choice is listed even where it is none of those that can be taken.
  const present =
    picture.kind === 'frame'
      ? [
          {
            value: 'frame',
            label: `The frame at ${(picture.ticks / picture.timescale).toFixed(2)} s`,
          },
        ]
      : picture.kind === 'source' && !images.some((each) => each.id === picture.sourceId)
        ? [{ value: picture.sourceId, label: 'an image that is no longer on the shelf' }]
        : []
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Picker
        label="Poster shows"
        value={picture.kind === 'source' ? picture.sourceId : picture.kind}
        onChange={take}
        options={[
          { value: 'first', label: 'The first frame' },
          ...present,
          ...images.map((each) => ({ value: each.id, label: each.name })),
        ]}
      />
      {held !== null && (
        <Button onClick={() => set({ kind: 'frame', ticks: parkedTicks, timescale })}>
          Use frame at playhead
        </Button>
      )}
    </div>
  )
}
