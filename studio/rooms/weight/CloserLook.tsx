import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { X } from 'lucide-react'
import { useEffect, useEffectEvent, useMemo, useState } from 'react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { clipRecipes, recipeKey } from '../../../core/backdrop/recipe'
import { SCREENS, type ScreenClass } from '../../../core/fit/screens'
import { toNumber } from '../../../core/Fraction'
import type { Family } from '../../../core/weight/families'
import type { LoadedSources } from '../../state/loadedSources'
import { useWork } from '../../state/workStore'
import { Button } from '../../ui/controls'
import { FORMAT_NAMES, formatBytes } from '../../ui/format'
import { Picker } from '../../ui/Picker'
import { usePictureQuality, usePair, type Finished } from './comparedPair'
import { Comparison } from './Comparison'

const ZOOMS = [1, 2] as const
const GAINS = [4, 8, 16] as const
/** How far an arrow key moves the line, as a share of the view. */
const WIPE_STEP = 0.05

interface CloserLookProps {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
  readonly first: { readonly screenClass: ScreenClass; readonly family: Family }
  readonly onClose: () => void
}

/**
 * Source and rendition, or two renditions, in one place: the same frame, with a line between them,
 * at 100 or 200 %, or their difference.
 */
export function CloserLook({ document, sources, first, onClose }: CloserLookProps) {
  const finished = useFinished(document, sources)
  const begin =
    finished.find(
      ({ recipe, label }) =>
        recipe.family === first.family && label.startsWith(SCREENS[first.screenClass].label),
    ) ?? finished[0]
  const [leftKey, setLeft] = useState('source')
  const [rightKey, setRight] = useState(begin?.key ?? 'source')
  const right = finished.find(({ key }) => key === rightKey) ?? begin
  const left = finished.find(({ key }) => key === leftKey) ?? null
  const [k, setK] = useState(() => worstOf(begin) ?? 0)
  const [zoom, setZoom] = useState<number>(1)
  const [wipe, setWipe] = useState(0.5)
  const [gain, setGain] = useState<number | null>(null)
  const frames = right ? right.recipe.sequence.frames : 1
  const at = Math.min(frames - 1, Math.max(0, k))
  const pictures = usePair(sources, left, right ?? null, at)
  const likeness = usePictureQuality(pictures.pair)
  const toWorst = (): void => setK(worstOf(right) ?? at)
  const swap = (): void => {
    if (!left || !right) return
    setLeft(right.key)
    setRight(left.key)
  }
  const press = useEffectEvent((event: KeyboardEvent): void => {
    const acts: Record<string, () => void> = {
      ArrowLeft: () => setK(at - (event.shiftKey ? 10 : 1)),
      ArrowRight: () => setK(at + (event.shiftKey ? 10 : 1)),
      Home: () => setK(0),
      End: () => setK(frames - 1),
      ',': () => setWipe(Math.max(0, wipe - WIPE_STEP)),
      '.': () => setWipe(Math.min(1, wipe + WIPE_STEP)),
      1: () => setZoom(1),
      2: () => setZoom(2),
      d: () => setGain(gain === null ? GAINS[1] : null),
      w: toWorst,
      x: swap,
    }
    const act = acts[event.key]
    // Lists have arrow keys of their own.
    if (
      !act ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      (event.target as HTMLElement).closest?.('[role=listbox]')
    )
      return
    // A range has the same arrow keys: only one of both may step.
    event.preventDefault()
    act()
  })
  // Wherever the focus is, the keys are this view's: it covers the whole window.
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => press(event)
    window.addEventListener('keydown', listen, true)
    return () => window.removeEventListener('keydown', listen, true)
  }, [])
  if (!right) return null
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <DialogPanel className="fixed inset-0 flex flex-col bg-paper">
        <CloserHeader
          sides={{ left: leftKey, right: right.key, canSwap: left !== null }}
          options={finished.map(({ key, label }) => ({ value: key, label }))}
          zoom={zoom}
          gain={gain}
          onLeft={setLeft}
          onRight={setRight}
          onSwap={swap}
          onZoom={setZoom}
          onGain={setGain}
          onWorst={toWorst}
          onClose={onClose}
        />
        <Comparison
          pictures={pictures.pair}
          zoom={zoom}
          wipe={wipe}
          gain={gain}
          onWipe={setWipe}
          labels={[left ? left.label : 'Source', right.label]}
        />
        <CloserFooter
          right={right}
          frames={frames}
          at={at}
          quality={likeness}
          problem={pictures.error}
          onFrame={setK}
        />
      </DialogPanel>
    </Dialog>
  )
}

/** The finished files of a document, in the order of the markup. */
function useFinished(document: BackdropDocument, sources: LoadedSources): Finished[] {
  const made = useWork((state) => state.made)
  return useMemo(
    () =>
      clipRecipes(document, sources.known).flatMap(({ screenClass, recipe }): Finished[] => {
        const rendition = made[recipeKey(recipe)]
        return rendition
          ? [
              {
                key: recipeKey(recipe),
                label: `${SCREENS[screenClass].label}, ${FORMAT_NAMES[recipe.family]}, ${formatBytes(rendition.bytes)}`,
                recipe,
                rendition,
              },
            ]
          : []
      }),
    [document, sources, made],
  )
}

interface HeaderProps {
  readonly sides: { readonly left: string; readonly right: string; readonly canSwap: boolean }
  readonly options: readonly { readonly value: string; readonly label: string }[]
  readonly zoom: number
  readonly gain: number | null
  readonly onLeft: (key: string) => void
  readonly onRight: (key: string) => void
  readonly onSwap: () => void
  readonly onZoom: (zoom: number) => void
  readonly onGain: (gain: number | null) => void
  readonly onWorst: () => void
  readonly onClose: () => void
}

/** What is compared, and how it is shown. */
function CloserHeader({
  sides,
  options,
  zoom,
  gain,
  onLeft,
  onRight,
  onSwap,
  onZoom,
  onGain,
  onWorst,
  onClose,
}: HeaderProps) {
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-2">
      <DialogTitle className="font-semibold">Look closer</DialogTitle>
      <Picker
        label="Left"
        value={sides.left}
        onChange={onLeft}
        options={[{ value: 'source', label: 'Source, as composed' }, ...options]}
      />
      <span className="text-muted">against</span>
      <Picker label="Right" value={sides.right} onChange={onRight} options={options} />
      <Button onClick={onSwap} disabled={!sides.canSwap} title="Swap the sides (X)">
        Swap
      </Button>
      <span className="flex gap-1" role="group" aria-label="Size">
        {ZOOMS.map((each) => (
          <Press
            key={each}
            enabled={zoom === each}
            label={`${each * 100} %`}
            onClick={() => onZoom(each)}
          />
        ))}
      </span>
      <span className="flex gap-1" role="group" aria-label="Difference">
        <Press enabled={gain === null} label="Wipe" onClick={() => onGain(null)} />
        {GAINS.map((each) => (
          <Press
            key={each}
            enabled={gain === each}
            label={`Difference × ${each}`}
            onClick={() => onGain(each)}
          />
        ))}
      </span>
      <Button onClick={onWorst} title="Jump to the worst frame (W)">
        Worst frame
      </Button>
      <span className="ml-auto" />
      <Button tone="quiet" onClick={onClose} aria-label="Close">
        <X className="size-4" aria-hidden />
      </Button>
    </header>
  )
}

/** The frame that is compared, and its quality beside the file's. */
function CloserFooter({
  right,
  frames,
  at,
  quality,
  problem,
  onFrame,
}: {
  right: Finished
  frames: number
  at: number
  quality: { readonly ssim: number; readonly psnr: number } | null
  problem: string | null
  onFrame: (frame: number) => void
}) {
  const { facts } = right.rendition
  const file = facts.kind === 'clip' ? facts.quality : null
  return (
    <footer className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-line px-4 py-2 text-[0.82rem]">
      <label className="flex min-w-60 flex-1 items-center gap-2">
        <span className="shrink-0 font-mono text-xs" role="status">
          frame {at + 1} of {frames} · {(at / toNumber(right.recipe.sequence.frameRate)).toFixed(2)}{' '}
          s
        </span>
        <input
          type="range"
          min={0}
          max={frames - 1}
          value={at}
          aria-label="Frame"
          onChange={(event) => onFrame(Number(event.target.value))}
        />
      </label>
      {quality && (
        <span className="text-xs">
          this frame <b className="font-mono font-medium">SSIM {quality.ssim.toFixed(3)}</b>,{' '}
          {quality.psnr.toFixed(1)} dB
        </span>
      )}
      {file && (
        <span className="text-xs text-muted">
          file: mean SSIM {file.ssim.toFixed(3)}, {file.psnr.toFixed(1)} dB; worst of{' '}
          {file.compared} {file.worstSsim.toFixed(3)}, frame {file.worstFrame + 1}
        </span>
      )}
      {problem ? (
        <span role="alert" className="text-fix">
          {problem}
        </span>
      ) : (
        <span className="text-xs text-muted max-lg:hidden">
          ← → frames (Shift: ten) · , . line · 1 2 size · D difference · W worst · X swap
        </span>
      )}
    </footer>
  )
}

function worstOf(finished: Finished | null | undefined): number | null {
  const facts = finished?.rendition.facts
  return facts?.kind === 'clip' ? (facts.quality?.worstFrame ?? null) : null
}

function Press({
  enabled: on,
  label,
  onClick,
}: {
  enabled: boolean
  label: string
  onClick: () => void
}) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className="min-h-8 rounded border border-line-strong/50 px-2 text-xs aria-pressed:border-curtain aria-pressed:bg-white aria-pressed:font-medium aria-pressed:text-curtain"
    >
      {label}
    </button>
  )
}
