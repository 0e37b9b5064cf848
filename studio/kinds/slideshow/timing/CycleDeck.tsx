import { ZoomIn, ZoomOut } from 'lucide-react'
import { useEffect, useRef, useState, type RefObject } from 'react'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { cycleWords } from '../../../../core/kinds/slideshow/cycle'
import { slideCycle, timingsOf } from '../../../../core/kinds/slideshow/Slideshow'
import type { DeckProps } from '../../../rooms/Room'
import { useStage } from '../../../state/stageStore'
import { Button } from '../../../ui/controls'
import { DeckTabs } from '../../../ui/DeckTabs'
import { slidesOf } from '../slidesOf'
import { useSlideView, type SlidesView } from '../slideView'
import { LegibilityView } from './LegibilityView'
import { LiveOrClip } from './LiveOrClip'
import { rulerMarks } from './deckGeometry'
import { LightnessRow } from './LightnessRow'
import { Playhead } from './Playhead'
import { SlideCells } from './SlideCells'
import { SlideWeights } from './SlideWeights'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** Slides in time, and what is measured of each. */
export function CycleDeck(props: Props) {
  const view = useSlideView((state) => state.view)
  const set = useSlideView((state) => state.set)
  return (
    <DeckTabs<SlidesView>
      view={view}
      onChange={(next) => set({ view: next })}
      views={{
        slides: { label: 'Slides', draw: () => <Slides {...props} /> },
        legibility: { label: 'Legibility per slide', draw: () => <LegibilityView {...props} /> },
        weight: { label: 'Weight per slide', draw: () => <SlideWeights {...props} /> },
        live: { label: 'Live or clip', draw: () => <LiveOrClip {...props} /> },
      }}
    />
  )
}

/** The width of an element, followed as it changes. */
function useWidth(): { element: RefObject<HTMLDivElement | null>; width: number } {
  const element = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(900)
  useEffect(() => {
    const observed = element.current!
    const observer = new ResizeObserver(() => setWidth(observed.clientWidth))
    observer.observe(observed)
    return () => observer.disconnect()
  }, [])
  return { element, width }
}

const MAX_ZOOM = 8

/** Cells whose width is their time, ramps where two overlap, the playhead, and lightness. */
function Slides({ document, sources }: Props) {
  const { base } = document
  const { element, width } = useWidth()
  const zoom = useSlideView((state) => state.zoom)
  const set = useSlideView((state) => state.set)
  const cycle = slideCycle(base)
  const whole = Math.max(320, width * zoom)
  const pxPerSecond = whole / cycle.seconds
  const slides = slidesOf(document, sources)
  return (
    <div className="flex h-full flex-col px-4 pb-2">
      <div className="flex shrink-0 items-center gap-2 py-0.5 text-xs text-muted">
        <span className="font-mono">{cycleWords(timingsOf(base))}</span>
        <span className="max-lg:hidden">
          Drag an edge for the hold, a ramp for the transition, a cell to reorder.
        </span>
        <span className="ml-auto flex">
          <Button
            tone="quiet"
            className="min-h-6! px-1.5!"
            aria-label="Zoom out"
            disabled={zoom <= 1}
            onClick={() => set({ zoom: zoom / 2 })}
          >
            <ZoomOut className="size-4" aria-hidden />
          </Button>
          <Button
            tone="quiet"
            className="min-h-6! px-1.5!"
            aria-label="Zoom in"
            disabled={zoom >= MAX_ZOOM}
            onClick={() => set({ zoom: zoom * 2 })}
          >
            <ZoomIn className="size-4" aria-hidden />
          </Button>
        </span>
      </div>
      <div ref={element} className="min-h-0 flex-1 overflow-x-auto overflow-y-hidden">
        <div className="relative h-full select-none" style={{ width: whole }}>
          <Ruler seconds={cycle.seconds} width={whole} />
          <SlideCells base={base} slides={slides} cycle={cycle} pxPerSecond={pxPerSecond} />
          <LightnessRow slides={slides} cycle={cycle} width={whole} />
          <Playhead cycle={cycle} pxPerSecond={pxPerSecond} count={base.slides.length} />
        </div>
      </div>
    </div>
  )
}

/** The times of the cycle; a press on it takes the stage there. */
function Ruler({ seconds, width }: { seconds: number; width: number }) {
  const set = useStage((state) => state.set)
  return (
    <div
      className="relative h-5 cursor-pointer font-mono text-[0.7rem] text-muted"
      onPointerDown={(event) => {
        const box = event.currentTarget.getBoundingClientRect()
        set({ parkedSeconds: ((event.clientX - box.left) / box.width) * seconds })
      }}
    >
      {rulerMarks(seconds, width).map((mark) => (
        <span
          key={mark}
          aria-hidden
          className="absolute top-0 border-l border-line-strong/60 pl-1"
          style={{ left: (mark / seconds) * width }}
        >
          {mark} s
        </span>
      ))}
    </div>
  )
}
