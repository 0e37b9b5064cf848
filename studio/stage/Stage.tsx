import { Pause, Play } from 'lucide-react'
import {
  useEffect,
  useEffectEvent,
  useMemo,
  useLayoutEffect,
  useRef,
  useState,
  useSyncExternalStore,
  type ReactNode,
  type RefObject,
} from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { proofKey } from '../../core/backdrop/recipe'
import { regionHeightPx } from '../../core/fit/cover'
import { SCREEN_NAMES, SCREENS } from '../../core/fit/screens'
import { toNumber } from '../../core/Fraction'
import type { DeliveredMedia } from '../../core/kinds/DeliveredMedia'
import {
  drawnLive,
  isMoving,
  motionOf,
  rendersClips,
  picturesOf,
  sequenceOf,
} from '../../core/backdrop/delivered'
import { hasClips, kindOf } from '../../core/kinds'
import { kindView } from '../kinds'
import type { HandlesProps } from '../kinds/KindView'
import { ParticleHandles } from '../particles/ParticleHandles'
import { useParticleView } from '../particles/particleView'
import { FocalHandle } from '../rooms/fit/FocalHandle'
import { ButtonTarget } from '../rooms/legibility/ButtonTarget'
import { CopyHandle } from '../rooms/legibility/CopyHandle'
import { FailingOverlay } from '../rooms/legibility/FailingOverlay'
import { ScrimHandles } from '../rooms/legibility/ScrimHandles'
import { useBackdrop } from '../state/backdropStore'
import type { LoadedSources } from '../state/loadedSources'
import { useStage, type HeadingPlace } from '../state/stageStore'
import { useWork } from '../state/workStore'
import { Button } from '../ui/controls'
import { PickColor } from './PickColor'
import { ProofFailure } from './ProofFailure'
import type { Editing } from './StageCopy'
import { StageFrame } from './StageFrame'
import { useFirstFrame } from './useFirstFrame'
import { useStageMedia, type StageMedia } from './useStageMedia'
import { useTried } from '../state/useTried'

const MEASURE_EVERY_MS = 400
const MARGIN = 24

/** The stage: the backdrop as it ships, in a screen of choice, with its copy open for writing. */
export function Stage({
  document: given,
  sources,
  room: roomName,
}: {
  document: BackdropDocument
  sources: LoadedSources
  /** The open room, whose handles are shown; null while nothing can be changed. */
  room: string | null
}) {
  const screenName = useStage((state) => state.screen)
  const screen = SCREENS[screenName]
  const { surround, room } = useRoom()
  const frameElement = useRef<HTMLIFrameElement>(null)
  const frame = useRef<StageFrame | null>(null)
  const [ready, setReady] = useState(false)
  const { editing, target, onEditing, leave } = useEditing()
  const dispatch = useBackdrop((state) => state.dispatch)
  const scrub = useStage((state) => state.scrub)
  const grown = useStage((state) => state.regionHeight)
  const isDrawn = useParticleView(({ tab }) => tab === 'particles') && roomName === 'material'
  // While they are changed, particles are drawn: what the clip shows of them is the same.
  const { document, shown, shows } = useShownMedia(isDrawn ? drawnLive(given) : given, sources)
  useShowing(frame, ready, document, shown, shows === 'stand-in')
  const bare = shows === 'nothing' && shown.clips.length === 0 && shown.posters.length === 0
  const standIn = useFirstFrame(document, sources, bare)
  const proof = useWork((state) => state.proof)
  // Another backdrop's may still be there.
  const isOwn = proof?.key === proofKey(document, sources.known)
  const makeProof = useWork((state) => state.makeProof)
  useEffect(() => {
    if (ready) frame.current?.showFrame(scrub?.picture ?? standIn, scrub?.number)
  }, [scrub, standIn, ready, shown])
  const handling = useStage((state) => state.handling)
  useEffect(() => {
    if (ready) frame.current?.hold(handling)
  }, [handling, ready])
  useMeasuring(frame, ready)
  useParking(frame, ready, document, shown)
  usePlayFromPlayhead(frame, document, sources)

  const scale = Math.min(
    (room.width - 2 * MARGIN - 44) / screen.width,
    (room.height - MARGIN) / screen.height,
    1,
  )
  const area = {
    width: screen.width * scale,
    height: shownHeight(document, screen.height, grown) * scale,
  }
  return (
    <section aria-label="Stage" className="relative flex min-h-0 flex-1 flex-col surround-grid">
      <ScreenChoice />
      <div ref={surround} className="relative min-h-0 flex-1 overflow-hidden">
        <div
          className="absolute top-1/2 left-1/2 overflow-hidden bg-surround shadow-2xl"
          style={{
            width: screen.width * scale,
            height: screen.height * scale,
            transform: 'translate(-50%, -50%)',
          }}
        >
          <iframe
            ref={frameElement}
            title={`The backdrop on a ${screen.label.toLowerCase()} screen`}
            src="/stage.html"
            className="origin-top-left border-0"
            style={{ width: screen.width, height: screen.height, transform: `scale(${scale})` }}
            onLoad={() => {
              frame.current = new StageFrame(frameElement.current!, dispatch, onEditing)
              offerSnapshots(frame.current)
              setReady(true)
            }}
          />
          <PickColor {...area} />
          <Handles room={roomName} document={document} sources={sources} {...area} />
        </div>
        {proof?.state === 'failed' && isOwn && (
          <ProofFailure proof={proof} onRetry={() => void makeProof(document, sources)} />
        )}
        {editing?.place === 'Button' && (
          <div
            ref={target}
            className="absolute bottom-2 left-1/2 w-72 -translate-x-1/2"
            onBlur={leave}
          >
            <ButtonTarget document={document} words={editing.words} />
          </div>
        )}
      </div>
      <Caption
        document={document}
        sources={sources}
        shows={shows}
        onToggle={() => toggleStage(frame.current)}
      />
    </section>
  )
}

/**
 * How high what is behind the copy is on a screen: the region as it is drawn (it grows where its
 * copy needs more room), or the window, where it stands behind the whole page.
 */
function shownHeight(
  document: BackdropDocument,
  screenHeight: number,
  drawn: number | null,
): number {
  if (document.fit.scope === 'page' || picturesOf(document)?.fills === 'window') return screenHeight
  return drawn ?? regionHeightPx(document.fit.height, screenHeight)
}

/** Lets others draw the base as the stage shows it. */
function offerSnapshots(frame: StageFrame): void {
  useStage.getState().set({
    snapshot: (width) => {
      const { document } = useBackdrop.getState()
      return document && frame.snapshot(document, width)
    },
  })
}

/** What the open room lets be dragged on the stage. */
function Handles({
  room,
  sources,
  ...props
}: HandlesProps & { room: string | null; sources: LoadedSources }) {
  const { base } = props.document
  const { tab } = useParticleView()
  if (room === 'fit') return picturesOf(props.document)?.placed ? <FocalHandle {...props} /> : null
  if (room === 'legibility')
    return (
      <>
        <FailingOverlay {...props} sources={sources} />
        <Mark />
        <ScrimHandles {...props} />
        <CopyHandle {...props} />
      </>
    )
  if (room === 'material' && tab === 'particles') return <ParticleHandles {...props} />
  if (room !== 'material' && room !== 'timing') return null
  const Own = kindView(base.kind).handles[room]
  return Own ? (
    <Handling>
      <Own {...props} />
    </Handling>
  ) : null
}

/** Outlines a place that is pointed at. */
function Mark() {
  const mark = useStage((state) => state.mark)
  return (
    mark && (
      <span
        aria-hidden
        data-mark
        className="pointer-events-none absolute size-9 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-white outline-2 outline-[#9c1c35]"
        style={{ left: `${mark.x * 100}%`, top: `${mark.y * 100}%` }}
      />
    )
  )
}

/** Says while handles are used, so that what they belong to holds still beneath them. */
function Handling({ children }: { children: ReactNode }) {
  const set = useStage((state) => state.set)
  const say = (handling: boolean) => (): void => set({ handling })
  useEffect(() => () => set({ handling: false }), [set])
  return (
    <div
      onFocus={say(true)}
      onBlur={say(false)}
      onPointerDown={say(true)}
      // A pressed handle keeps the focus; its corner has none.
      onPointerUp={({ currentTarget }) =>
        set({ handling: currentTarget.contains(window.document.activeElement) })
      }
    >
      {children}
    </div>
  )
}

/** The place of the copy that is being written in, and the field beside the frame for a target. */
function useEditing() {
  const [editing, setEditing] = useState<Editing | null>(null)
  const target = useRef<HTMLDivElement>(null)
  const leaving = useRef<ReturnType<typeof setTimeout>>(undefined)
  // Focus moves from the button in the frame to the field beside it: only when it has settled
  // elsewhere is the writing over.
  const leave = (): void => {
    clearTimeout(leaving.current)
    leaving.current = setTimeout(
      () => target.current?.contains(window.document.activeElement) || setEditing(null),
      150,
    )
  }
  const onEditing = (next: Editing | null): void => {
    if (!next) return leave()
    clearTimeout(leaving.current)
    setEditing(next)
  }
  return { editing, target, leave, onEditing }
}

/** An element and the room in it, followed as it changes. */
function useRoom(): {
  surround: RefObject<HTMLDivElement | null>
  room: { readonly width: number; readonly height: number }
} {
  const surround = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState({ width: 800, height: 450 })
  useLayoutEffect(() => {
    const element = surround.current!
    const observer = new ResizeObserver(() =>
      setRoom({ width: element.clientWidth, height: element.clientHeight }),
    )
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  return { surround, room }
}

function ScreenChoice() {
  const screen = useStage((state) => state.screen)
  const setScreen = useStage((state) => state.setScreen)
  return (
    <div
      role="group"
      aria-label="Screen"
      className="absolute top-1/2 left-2 z-10 flex -translate-y-1/2 flex-col gap-1"
    >
      {SCREEN_NAMES.map((name) => {
        const { label, width, height } = SCREENS[name]
        return (
          <button
            key={name}
            type="button"
            aria-pressed={screen === name}
            title={`${label}, ${width} × ${height}`}
            aria-label={`${label}, ${width} by ${height}`}
            onClick={() => setScreen(name)}
            className="grid size-9 place-items-center rounded text-white hover:bg-black/30 aria-pressed:bg-sheet aria-pressed:text-ink"
          >
            <span
              aria-hidden
              className="rounded-[2px] border-[1.5px] border-current"
              style={{ width: Math.max(9, width / 75), height: height / 75 }}
            />
          </button>
        )
      })}
    </div>
  )
}

/**
 * The media of a document, with the document as it is shown with them: until a clip is rendered
 * with them, particles are drawn. While a new proof is rendered the last one stays: dark says less.
 */
function useShownMedia(
  document: BackdropDocument,
  sources: LoadedSources,
): StageMedia & { readonly document: BackdropDocument; readonly shown: DeliveredMedia } {
  const drawn = useMemo(() => drawnLive(document), [document])
  const { media, shows } = useStageMedia(document, sources)
  const { kind } = document.base
  const [kept, setKept] = useState({ kind, media })
  if (shows !== 'nothing' && kept.media !== media) setKept({ kind, media })
  // Of another base nothing stays: an image would stand under the words of a clip.
  return {
    document: shows === 'finals' ? document : drawn,
    shown: shows === 'nothing' && kept.kind === kind ? kept.media : media,
    media,
    shows,
  }
}

/** Shows a document on the stage; anew where the screen is another one. */
function useShowing(
  frame: React.RefObject<StageFrame | null>,
  ready: boolean,
  document: BackdropDocument,
  media: DeliveredMedia,
  isStandIn: boolean,
): void {
  const screen = useStage((state) => state.screen)
  const screenShown = useRef(screen)
  const tried = useTried(document)
  const isTrial = tried !== document
  useEffect(() => {
    if (!ready) return
    if (screenShown.current === screen) frame.current?.show(tried, media, isStandIn, isTrial)
    else frame.current?.showAnew(tried, media, isStandIn, isTrial)
    screenShown.current = screen
  }, [frame, tried, media, isStandIn, isTrial, ready, screen])
}

/** Stands for the rate of frames that cannot be made here. */
const USUAL_RATE = { num: 30, den: 1 }

function Caption({
  document,
  sources,
  shows,
  onToggle,
}: {
  document: BackdropDocument
  sources: LoadedSources
  shows: StageMedia['shows']
  onToggle: () => void
}) {
  const { time, playing, screen, held, scrub } = useStage()
  const scrubbing = held !== null || scrub !== null
  const proof = useWork((state) => state.proof)
  const cancelProof = useWork((state) => state.cancelProof)
  const makeProof = useWork((state) => state.makeProof)
  const current = useWork((state) => state.made[proofKey(document, sources.known)])
  const reduced =
    useMedia('(prefers-reduced-motion: reduce)') && document.behaviour.reducedMotion === 'poster'
  const { frames = 1, frameRate = USUAL_RATE } = sequenceOf(document, sources.known) ?? {}
  const frame = Math.min(frames, Math.floor(time * toNumber(frameRate) + 0.001) + 1)
  const { label, width, height } = SCREENS[screen]
  const kind = kindOf(document.base)
  const clips = rendersClips(document)
  const moves = isMoving(document)
  const hasFiles = clips || kind.pictures(document.base) !== null
  return (
    <div className="flex min-h-9 w-full min-w-0 shrink-0 items-center justify-center gap-4 bg-[#55544f] px-4 py-1 font-mono text-xs text-white *:shrink-0">
      {moves && (
        <button
          type="button"
          onClick={onToggle}
          aria-label={playing ? 'Pause the stage' : 'Play the stage'}
          className="grid size-7 place-items-center rounded hover:bg-black/30"
        >
          {playing ? (
            <Pause className="size-4" aria-hidden />
          ) : (
            <Play className="size-4" aria-hidden />
          )}
        </button>
      )}
      {moves && <span>{time.toFixed(2)} s</span>}
      {clips && (
        <span>
          frame {frame} of {frames}
        </span>
      )}
      <span className="max-md:hidden">
        {label.toLowerCase()} {width} × {height}
      </span>
      <span role="status" className="min-w-44 shrink! break-words max-md:min-w-0">
        {held !== null
          ? `exact source frame ${held}`
          : scrub
            ? 'poster and first frame'
            : proof?.state === 'running'
              ? `rendering the proof, ${Math.round(proof.done * 100)} %`
              : proof?.state === 'failed'
                ? 'no proof'
                : shows === 'finals'
                  ? hasFiles
                    ? 'final files'
                    : 'as delivered'
                  : shows === 'proof'
                    ? 'proof'
                    : shows === 'stand-in'
                      ? 'original image (files not rendered yet)'
                      : 'first frame (no proof yet)'}
        {reduced &&
          moves &&
          ` · ${clips ? 'poster' : 'still'}, because this device prefers reduced motion`}
      </span>
      {proof?.state === 'running' && !scrubbing && (
        <Button
          tone="quiet"
          className="min-h-6! px-2! text-white hover:bg-black/30"
          onClick={cancelProof}
        >
          Stop
        </Button>
      )}
      {hasClips(document.base) && !proof && !current && !scrubbing && (
        <Button
          tone="quiet"
          className="min-h-6! px-2! text-white hover:bg-black/30"
          onClick={() => void makeProof(document, sources)}
        >
          Render proof
        </Button>
      )}
    </div>
  )
}

/** When the parked playhead is released, the clip continues from there. */
function usePlayFromPlayhead(
  frame: React.RefObject<StageFrame | null>,
  document: BackdropDocument,
  sources: LoadedSources,
): void {
  const held = useStage((state) => state.held)
  const parked = useRef<number | null>(null)
  // Only the release counts, not changes while nothing is parked.
  const move = useEffectEvent((isHeld: boolean): void => {
    if (isHeld) {
      parked.current = useStage.getState().parkedTicks
      return
    }
    const moment =
      parked.current === null
        ? null
        : kindView(document.base.kind).momentOf(document, sources, parked.current)
    parked.current = null
    const { frameRate = USUAL_RATE } = sequenceOf(document, sources.known) ?? {}
    // Into the middle of the frame: at its very edge browsers may show the one before.
    if (moment !== null) frame.current?.seek(moment + 0.5 / toNumber(frameRate))
  })
  useEffect(() => move(held !== null), [held])
}

/** Plays or pauses; a frame that is parked over the clip goes away first, and the clip plays on. */
function toggleStage(frame: StageFrame | null): void {
  const { held, scrub, playing, parkedSeconds, set } = useStage.getState()
  set({ held: null, scrub: null, scrubbing: false, parkedSeconds: null })
  if (parkedSeconds !== null) return
  if ((held === null && scrub === null) || !playing) frame?.toggle()
}

/** Whether a media query holds, followed live. */
function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (onChange) => {
      const list = matchMedia(query)
      list.addEventListener('change', onChange)
      return () => list.removeEventListener('change', onChange)
    },
    () => matchMedia(query).matches,
  )
}

const samePlaces = (one: readonly HeadingPlace[], other: readonly HeadingPlace[]): boolean =>
  JSON.stringify(one) === JSON.stringify(other)

/** Holds slides where the deck's playhead is parked. */
function useParking(
  frame: RefObject<StageFrame | null>,
  ready: boolean,
  document: BackdropDocument,
  media: DeliveredMedia,
): void {
  const parked = useStage((state) => state.parkedSeconds)
  const wasParked = useRef(false)
  useEffect(() => {
    if (!ready || (parked === null && !wasParked.current)) return
    wasParked.current = parked !== null
    frame.current?.park(parked)
    // What is built anew begins anew: it is held again.
  }, [frame, parked, ready, document, media])
}

/** Follows the stage's clip and measures the heading's contrast on what it shows. */
function useMeasuring(frame: React.RefObject<StageFrame | null>, ready: boolean): void {
  useEffect(() => {
    if (!ready) return
    let last = 0
    let handle = 0
    const look = (now: number): void => {
      handle = requestAnimationFrame(look)
      const { set, time, playing } = useStage.getState()
      const clock = frame.current?.clock()
      // The file repeats its loop: only the position within one turn is reported.
      const shown = useBackdrop.getState().document
      const turn = shown && motionOf(shown)?.turnSeconds
      const within = clock && turn ? clock.seconds % turn : 0
      if (clock && (Math.abs(within - time) > 0.04 || playing !== clock.playing))
        set({ time: within, playing: clock.playing })
      if (now - last < MEASURE_EVERY_MS) return
      last = now
      const { document } = useBackdrop.getState()
      const regionHeight = frame.current?.regionHeight() ?? null
      if (regionHeight !== useStage.getState().regionHeight) set({ regionHeight })
      const layout = frame.current?.layout() ?? null
      if (JSON.stringify(layout) !== JSON.stringify(useStage.getState().layout)) set({ layout })
      const particleCost = frame.current?.particleCost() ?? null
      if (particleCost || useStage.getState().particleCost) set({ particleCost })
      const { failsBelow } = useStage.getState()
      const reading = document ? frame.current?.measure(document, failsBelow) : null
      if (reading)
        set({
          contrast: reading.ratio,
          needed: reading.needed,
          failing: reading.failing,
          ...(samePlaces(reading.places, useStage.getState().headingPlaces)
            ? {}
            : { headingPlaces: reading.places }),
          copyPlace: document ? (frame.current?.copyPlace(document) ?? null) : null,
        })
      else if (useStage.getState().contrast !== null) set({ contrast: null })
    }
    handle = requestAnimationFrame(look)
    return () => cancelAnimationFrame(handle)
  }, [frame, ready])
}
