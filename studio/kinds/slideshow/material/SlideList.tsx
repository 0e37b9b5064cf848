import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { GripVertical, X } from 'lucide-react'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { SLIDE_COUNT, slideCycle } from '../../../../core/kinds/slideshow/Slideshow'
import { SourceThumb } from '../../../clip/SourceThumb'
import { useBackdrop } from '../../../state/backdropStore'
import { useStage } from '../../../state/stageStore'
import type { LoadedSources } from '../../../state/loadedSources'
import { Button } from '../../../ui/controls'
import { slidesOf, type ShownSlide } from '../slidesOf'
import { useSlideView } from '../slideView'

/** The slides in their order, which dragging changes, by pointer or by keyboard. */
export function SlideList({
  document,
  sources,
}: {
  document: DocumentOf<'slideshow'>
  sources: LoadedSources
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const slides = slidesOf(document, sources)
  const { spans } = slideCycle(document.base)
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const placeOf = (id: unknown): number => slides.findIndex(({ slide }) => slide.id === id) + 1
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      accessibility={{
        announcements: {
          onDragStart: ({ active }) => `Slide ${placeOf(active.id)} of ${slides.length} picked up.`,
          onDragOver: ({ over }) =>
            over ? `Over place ${placeOf(over.id)}.` : 'Outside the list.',
          onDragEnd: ({ over }) => (over ? `Dropped at place ${placeOf(over.id)}.` : 'Put back.'),
          onDragCancel: () => 'Put back.',
        },
      }}
      onDragEnd={({ active, over }) => {
        if (over && active.id !== over.id)
          dispatch({ type: 'slides/move', id: Number(active.id), to: placeOf(over.id) - 1 })
      }}
    >
      <SortableContext
        items={slides.map(({ slide }) => slide.id)}
        strategy={verticalListSortingStrategy}
      >
        <ol aria-label="Slides" className="flex max-h-80 flex-col gap-1 overflow-auto p-0.5">
          {slides.map((shown) => (
            <Row
              key={shown.slide.id}
              shown={shown}
              shownFrom={spans[shown.number - 1]!.fullFrom}
              mayRemove={slides.length > SLIDE_COUNT.min}
              onRemove={() => dispatch({ type: 'slides/remove', id: shown.slide.id })}
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  )
}

function Row({
  shown: { slide, number, source },
  shownFrom,
  mayRemove,
  onRemove,
}: {
  shown: ShownSlide
  /** When it is fully shown, in seconds of the cycle. */
  shownFrom: number
  mayRemove: boolean
  onRemove: () => void
}) {
  const selected = useSlideView((state) => state.selected)
  const seek = useStage((state) => state.set)
  const set = useSlideView((state) => state.set)
  const {
    attributes,
    listeners,
    setNodeRef,
    setActivatorNodeRef,
    transform,
    transition,
    isDragging,
  } = useSortable({ id: slide.id })
  const name = source?.name ?? 'an image that is gone'
  const isSelected = selected === slide.id
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Transform.toString(transform), transition }}
      className={`flex items-center gap-1.5 rounded border bg-white p-1 ${isSelected ? 'border-curtain ring-1 ring-curtain' : 'border-line'} ${isDragging ? 'z-10 shadow-xl' : ''}`}
    >
      <button
        ref={setActivatorNodeRef}
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Move slide ${number}, ${name}`}
        className="grid size-7 cursor-grab touch-none place-items-center rounded hover:bg-ink/8"
      >
        <GripVertical className="size-4 text-muted" aria-hidden />
      </button>
      <button
        type="button"
        aria-pressed={isSelected}
        aria-label={`Slide ${number}, ${name}`}
        onClick={() => {
          set({ selected: isSelected ? null : slide.id })
          seek({ parkedSeconds: shownFrom })
        }}
        className="flex min-w-0 flex-1 items-center gap-2.5 text-left"
      >
        <span className="w-4 text-right font-mono text-xs text-muted">{number}</span>
        <span className="[container-type:size] h-9 w-16 shrink-0">
          {source && <SourceThumb source={source} className="size-full" />}
        </span>
        <span className="min-w-0">
          <span className="block truncate">{name}</span>
          {source && (
            <span className="block text-xs text-muted">
              {source.facts.displayWidth} × {source.facts.displayHeight}
            </span>
          )}
        </span>
      </button>
      <Button
        tone="quiet"
        className="px-1.5!"
        disabled={!mayRemove}
        aria-label={`Remove slide ${number}`}
        title={mayRemove ? 'Remove the slide' : 'Two slides stay at least'}
        onClick={onRemove}
      >
        <X className="size-3.5" aria-hidden />
      </Button>
    </li>
  )
}
