import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { X } from 'lucide-react'
import { useEffect, useMemo, useRef, useState, type PointerEvent, type RefObject } from 'react'
import type { ClipSource, Rendition } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { clipRecipes, recipeKey, type ClipRecipe } from '../../../core/backdrop/recipe'
import { type Family } from '../../../core/weight/families'
import { SCREENS, type ScreenClass } from '../../../core/fit/screens'
import { toNumber } from '../../../core/loop/Fraction'
import { frameCount } from '../../../core/loop/framePlan'
import { PLAIN_SHAPE } from '../../../core/picture/pictureShape'
import { messageOf } from '../../api/client'
import { placeOf, recipeSource, useWork } from '../../state/workStore'
import { Button } from '../../ui/controls'
import { drawDifference } from '../../ui/drawDifference'
import { FORMAT_NAMES, formatBytes } from '../../ui/format'
import { Picker } from '../../ui/Picker'
import { frameWorker } from '../../worker/frameWorker'
import { placeOfRendition } from './useRenditionIndex'

const ZOOMS = [1, 2] as const
const GAINS = [4, 8, 16] as const
/** How far an arrow key moves the line, as a share of the view. */
const WIPE_STEP = 0.05

interface CloserLookProps {
  readonly document: BackdropDocument
  readonly source: ClipSource
  readonly first: { readonly screenClass: ScreenClass; readonly family: Family }
  readonly onClose: () => void
}

/** A finished file that can be looked at. */
interface Finished {
  readonly key: string
  readonly label: string
  readonly recipe: ClipRecipe
  readonly rendition: Rendition
}

/** Source and rendition, or two renditions, in one place: the same frame, with a line between them, at 100 or 200 %, or their difference. */
export function CloserLook({ document, source, first, onClose }: CloserLookProps) {
  const made = useWork((state) => state.made)
  const finished = useMemo(() => clipRecipes(document, recipeSource(source)).flatMap(({ screenClass, recipe }): Finished[] => {
    const rendition = made[recipeKey(recipe)]
    return rendition ? [{ key: recipeKey(recipe), label: `${SCREENS[screenClass].label}, ${FORMAT_NAMES[recipe.family]}, ${formatBytes(rendition.bytes)}`, recipe, rendition }] : []
  }), [document, source, made])
  const begin = finished.find(({ recipe, label }) => recipe.family === first.family && label.startsWith(SCREENS[first.screenClass].label)) ?? finished[0]
  const [leftKey, setLeft] = useState('source')
  const [rightKey, setRight] = useState(begin?.key ?? 'source')
  const right = finished.find(({ key }) => key === rightKey) ?? begin
  const left = finished.find(({ key }) => key === leftKey) ?? null
  const [k, setK] = useState(() => worstOf(begin) ?? 0)
  const [zoom, setZoom] = useState<number>(1)
  const [wipe, setWipe] = useState(0.5)
  const [gain, setGain] = useState<number | null>(null)
  const frames = right ? frameCount(right.recipe) : 1
  const at = Math.min(frames - 1, Math.max(0, k))
  const pictures = usePair(source, left, right ?? null, at)
  const press = useRef<(event: KeyboardEvent) => void>(() => undefined)
  // Wherever the focus is, the keys are this view's: it covers the whole window.
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => press.current(event)
    window.addEventListener('keydown', listen, true)
    return () => window.removeEventListener('keydown', listen, true)
  }, [])
  if (!right) return null
  const quality = right.rendition.facts.kind === 'clip' ? right.rendition.facts.quality : null
  const swap = (): void => {
    if (!left) return
    setLeft(right.key)
    setRight(left.key)
  }
  const toWorst = (): void => setK(worstOf(right) ?? at)
  press.current = (event) => {
    const acts: Record<string, () => void> = {
      ArrowLeft: () => setK(at - (event.shiftKey ? 10 : 1)), ArrowRight: () => setK(at + (event.shiftKey ? 10 : 1)), Home: () => setK(0), End: () => setK(frames - 1),
      ',': () => setWipe(Math.max(0, wipe - WIPE_STEP)), '.': () => setWipe(Math.min(1, wipe + WIPE_STEP)), 1: () => setZoom(1), 2: () => setZoom(2),
      d: () => setGain(gain === null ? GAINS[1] : null), w: toWorst, x: swap,
    }
    const act = acts[event.key]
    // Lists have arrow keys of their own.
    if (!act || event.ctrlKey || event.metaKey || event.altKey || (event.target as HTMLElement).closest?.('[role=listbox]')) return
    // A range has the same arrow keys: only one of both may step.
    event.preventDefault()
    act()
  }
  const options = finished.map(({ key, label }) => ({ value: key, label }))
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <DialogPanel className="fixed inset-0 flex flex-col bg-paper">
        <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-4 py-2">
          <DialogTitle className="font-semibold">Look closer</DialogTitle>
          <Picker label="Left" value={leftKey} onChange={setLeft} options={[{ value: 'source', label: 'Source, as composed' }, ...options]} />
          <span className="text-muted">against</span>
          <Picker label="Right" value={right.key} onChange={setRight} options={options} />
          <Button onClick={swap} disabled={!left} title="Swap the sides (X)">Swap</Button>
          <span className="flex gap-1" role="group" aria-label="Size">{ZOOMS.map((each) => <Press key={each} on={zoom === each} label={`${each * 100} %`} onClick={() => setZoom(each)} />)}</span>
          <span className="flex gap-1" role="group" aria-label="Difference"><Press on={gain === null} label="Wipe" onClick={() => setGain(null)} />{GAINS.map((each) => <Press key={each} on={gain === each} label={`Difference × ${each}`} onClick={() => setGain(each)} />)}</span>
          <Button onClick={toWorst} title="Jump to the worst frame (W)">Worst frame</Button>
          <span className="ml-auto" />
          <Button tone="quiet" onClick={onClose} aria-label="Close"><X className="size-4" aria-hidden /></Button>
        </header>
        <View pictures={pictures.pair} zoom={zoom} wipe={wipe} gain={gain} onWipe={setWipe} labels={[left ? left.label : 'Source', right.label]} />
        <footer className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-line px-4 py-2 text-[0.82rem]">
          <label className="flex min-w-60 flex-1 items-center gap-2"><span className="shrink-0 font-mono text-xs" role="status">frame {at + 1} of {frames} · {(at / toNumber(right.recipe.frameRate)).toFixed(2)} s</span><input type="range" min={0} max={frames - 1} value={at} aria-label="Frame" onChange={(event) => setK(Number(event.target.value))} /></label>
          {quality && <span className="text-xs text-muted">mean SSIM {quality.ssim.toFixed(3)}, {quality.psnr.toFixed(1)} dB; worst of {quality.compared} frames {quality.worstSsim.toFixed(3)}, frame {quality.worstFrame + 1}</span>}
          {pictures.error ? <span role="alert" className="text-fix">{pictures.error}</span> : <span className="text-xs text-muted max-lg:hidden">← → a frame, with Shift ten · , . the line · 1 2 size · D difference · W worst · X swap</span>}
        </footer>
      </DialogPanel>
    </Dialog>
  )
}

function worstOf(finished: Finished | null | undefined): number | null {
  const facts = finished?.rendition.facts
  return facts?.kind === 'clip' ? (facts.quality?.worstFrame ?? null) : null
}

function Press({ on, label, onClick }: { on: boolean; label: string; onClick: () => void }) {
  return <button type="button" aria-pressed={on} onClick={onClick} className="min-h-8 rounded border border-line-strong/50 px-2 text-xs aria-pressed:border-curtain aria-pressed:bg-white aria-pressed:font-medium aria-pressed:text-curtain">{label}</button>
}

/** Both sides of a comparison, at the size of the right one. */
interface Pair {
  readonly left: ImageBitmap
  readonly right: ImageBitmap
}

/** Frame `k` of the right file, and the same moment of the left one or of the source; the last pair stays until the next is there. */
function usePair(source: ClipSource, left: Finished | null, right: Finished | null, k: number): { pair: Pair | null; error: string | null } {
  const [state, setState] = useState<{ pair: Pair | null; error: string | null }>({ pair: null, error: null })
  const shown = useRef<Pair | null>(null)
  useEffect(() => () => closePair(shown.current), [])
  useEffect(() => {
    if (!right) return
    const abort = new AbortController()
    const { signal } = abort
    const load = async (): Promise<Pair> => {
      const own = await exactFrame(right, k, signal)
      return { right: own, left: left ? await exactFrame(left, sameMoment(k, right.recipe, left.recipe), signal) : await composedFrame(source, right.recipe, k, signal) }
    }
    load().then((pair) => {
      // Whole pictures weigh megabytes: those that are not shown any more are let go at once.
      closePair(signal.aborted ? pair : shown.current)
      if (signal.aborted) return
      shown.current = pair
      setState({ pair, error: null })
    }, (error: unknown) => !signal.aborted && setState((before) => ({ ...before, error: messageOf(error) })))
    return () => abort.abort()
  }, [source, left, right, k])
  return state
}

function closePair(pair: Pair | null): void {
  pair?.left.close()
  pair?.right.close()
}

/** The frame of another file that shows what frame `k` of this one shows. */
function sameMoment(k: number, from: ClipRecipe, to: ClipRecipe): number {
  return Math.min(frameCount(to) - 1, Math.round((k * toNumber(to.frameRate)) / toNumber(from.frameRate)))
}

async function exactFrame({ rendition, recipe }: Finished, number: number, signal: AbortSignal): Promise<ImageBitmap> {
  return (await frameWorker().run({ type: 'exact', place: placeOfRendition(rendition), number, width: recipe.width, quick: false, shape: PLAIN_SHAPE }, { signal })).picture
}

async function composedFrame(source: ClipSource, recipe: ClipRecipe, number: number, signal: AbortSignal): Promise<ImageBitmap> {
  const got: ImageBitmap[] = []
  await frameWorker().run({ type: 'output', place: placeOf(source), recipe, numbers: [number] }, { signal, onStep: ({ picture }) => void got.push(picture) })
  const [picture] = got
  if (!picture) throw new Error('The source has no such frame.')
  return picture
}

function View({ pictures, zoom, wipe, gain, labels, onWipe }: { pictures: Pair | null; zoom: number; wipe: number; gain: number | null; labels: readonly [string, string]; onWipe: (share: number) => void }) {
  const scroller = useRef<HTMLDivElement>(null)
  const canvas = useComparison(pictures, wipe, gain)
  const drag = useRef<{ readonly kind: 'pan' | 'wipe'; readonly x: number; readonly y: number } | null>(null)
  const size = pictures ? { width: pictures.right.width * zoom, height: pictures.right.height * zoom } : null
  const shareAt = (event: PointerEvent): number => {
    const box = canvas.current!.getBoundingClientRect()
    return Math.min(1, Math.max(0, (event.clientX - box.left) / box.width))
  }
  return (
    <div
      ref={scroller} className="relative min-h-0 flex-1 overflow-auto bg-surround" role="region" aria-label="Comparison" tabIndex={0}
      onPointerDown={(event) => {
        if (event.button !== 0 || !canvas.current) return
        const near = gain === null && Math.abs(shareAt(event) - wipe) * canvas.current.getBoundingClientRect().width < 24
        drag.current = { kind: near ? 'wipe' : 'pan', x: event.clientX, y: event.clientY }
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerMove={(event) => {
        const held = drag.current
        if (!held) return
        if (held.kind === 'wipe') onWipe(shareAt(event))
        else {
          scroller.current!.scrollBy(held.x - event.clientX, held.y - event.clientY)
          drag.current = { ...held, x: event.clientX, y: event.clientY }
        }
      }}
      onPointerUp={() => (drag.current = null)}
      onPointerCancel={() => (drag.current = null)}
    >
      {size ? (
        <div className="relative m-auto" style={{ width: size.width, height: size.height }}>
          <canvas ref={canvas} role="img" aria-label={gain === null ? `${labels[0]} left of the line, ${labels[1]} right of it` : `Difference of ${labels[0]} and ${labels[1]}, × ${gain}`} className="block size-full select-none" style={{ imageRendering: zoom > 1 ? 'pixelated' : 'auto' }} />
          {gain === null && <span aria-hidden className="absolute inset-y-0 w-0.5 -translate-x-1/2 cursor-ew-resize bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.5)]" style={{ left: `${wipe * 100}%` }}><span className="sticky top-1/2 block h-8 w-3 -translate-x-[5px] rounded bg-white shadow" /></span>}
        </div>
      ) : <p role="status" className="p-6 text-white">Reading the frame …</p>}
      {pictures && gain === null && (
        <div aria-hidden className="pointer-events-none sticky bottom-0 left-0 flex justify-between px-2 pb-1 text-xs text-white"><span className="rounded bg-black/60 px-1.5">{labels[0]}</span><span className="rounded bg-black/60 px-1.5">{labels[1]}</span></div>
      )}
    </div>
  )
}

/** Draws both sides with the line between them, or how far they lie apart, amplified. */
function useComparison(pair: Pair | null, wipe: number, gain: number | null): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    if (!pair || !canvas.current || pair.right.width === 0) return
    const { left, right } = pair
    const { width, height } = right
    if (canvas.current.width !== width) canvas.current.width = width
    if (canvas.current.height !== height) canvas.current.height = height
    if (gain !== null) {
      drawDifference(canvas.current, left, right, gain)
      return
    }
    const context = canvas.current.getContext('2d', { willReadFrequently: true })!
    context.drawImage(left, 0, 0, width, height)
    const line = Math.round(width * wipe)
    if (line < width) context.drawImage(right, line, 0, width - line, height, line, 0, width - line, height)
  }, [pair, wipe, gain])
  return canvas
}
