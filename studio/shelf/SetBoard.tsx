import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  arrayMove,
  rectSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { GalleryHorizontal, GripVertical, Pencil, Trash2, X } from 'lucide-react'
import { Link } from 'react-router'
import type { SourceCard, ImageSet } from '../../core/api/wire'
import { SLIDE_COUNT } from '../../core/kinds/slideshow/Slideshow'
import { SourceThumb } from '../clip/SourceThumb'
import { Button } from '../ui/controls'

interface SetBoardProps {
  readonly set: ImageSet
  readonly sources: readonly SourceCard[]
  readonly onChange: (sourceIds: readonly string[]) => void
  readonly onRename: () => void
  readonly onSlideshow: () => void
  readonly onDelete: () => void
}

/** A set of images in its order, which dragging changes, by pointer or by keyboard. */
export function SetBoard({
  set,
  sources,
  onChange,
  onRename,
  onSlideshow,
  onDelete,
}: SetBoardProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const members = set.sourceIds.flatMap((id) => sources.find((source) => source.id === id) ?? [])
  const nameOf = (id: unknown): string =>
    members.find((source) => source.id === id)?.name ?? 'an image'
  const placeOf = (id: unknown): number => set.sourceIds.indexOf(String(id)) + 1
  return (
    <section aria-label={`Set ${set.name}`}>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <h2 className="text-lg font-semibold">{set.name}</h2>
        <span className="text-muted">
          {members.length} images, in this order. Drag to reorder; with the keyboard, press Space to
          pick up an image and arrow keys to move it.
        </span>
        <span className="ml-auto flex gap-1">
          <Button disabled={members.length < SLIDE_COUNT.min} onClick={onSlideshow}>
            <GalleryHorizontal className="size-3.5" aria-hidden />
            Make a slideshow
          </Button>
          <Button tone="quiet" onClick={onRename}>
            <Pencil className="size-3.5" aria-hidden />
            Rename set
          </Button>
          <Button tone="quiet" onClick={onDelete}>
            <Trash2 className="size-3.5" aria-hidden />
            Delete set
          </Button>
        </span>
      </div>
      {members.length === 0 && (
        <p className="rounded border border-dashed border-line-strong p-8 text-center text-muted">
          The set is empty. Select images on the shelf, then put them in this set.
        </p>
      )}
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        accessibility={{
          announcements: {
            onDragStart: ({ active }) =>
              `${nameOf(active.id)} picked up, position ${placeOf(active.id)} of ${members.length}.`,
            onDragOver: ({ active, over }) =>
              over
                ? `${nameOf(active.id)} over position ${placeOf(over.id)}.`
                : `${nameOf(active.id)} outside of the set.`,
            onDragEnd: ({ active, over }) =>
              over
                ? `${nameOf(active.id)} dropped at position ${placeOf(over.id)}.`
                : `${nameOf(active.id)} returned to its position.`,
            onDragCancel: ({ active }) => `${nameOf(active.id)} returned to its position.`,
          },
        }}
        onDragEnd={({ active, over }) => {
          if (!over || active.id === over.id) return
          onChange(
            arrayMove(
              [...set.sourceIds],
              set.sourceIds.indexOf(String(active.id)),
              set.sourceIds.indexOf(String(over.id)),
            ),
          )
        }}
      >
        <SortableContext items={members.map((source) => source.id)} strategy={rectSortingStrategy}>
          <ol className="grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-3">
            {members.map((source, place) => (
              <Member
                key={source.id}
                source={source}
                place={place + 1}
                onOut={() => onChange(set.sourceIds.filter((id) => id !== source.id))}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
    </section>
  )
}

function Member({
  source,
  place,
  onOut,
}: {
  source: SourceCard
  place: number
  onOut: () => void
}) {
  const {
    attributes,
    listeners,
    setNodeRef,
    setActivatorNodeRef,
    transform,
    transition,
    isDragging,
  } = useSortable({ id: source.id })
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Transform.toString(transform), transition }}
      className={`overflow-hidden rounded-lg border border-line bg-sheet ${isDragging ? 'z-10 shadow-xl' : ''}`}
    >
      <div className="[container-type:size]" style={{ aspectRatio: '16 / 9' }}>
        <SourceThumb source={source} className="size-full" />
      </div>
      <div className="flex items-center gap-1 py-1 pr-1 pl-0.5">
        <button
          ref={setActivatorNodeRef}
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Move ${source.name}, place ${place}`}
          className="grid size-7 cursor-grab touch-none place-items-center rounded hover:bg-ink/8"
        >
          <GripVertical className="size-4 text-muted" aria-hidden />
        </button>
        <span className="font-mono text-xs text-muted">{place}</span>
        <Link
          to={`../sources/${source.id}`}
          relative="path"
          className="min-w-0 flex-1 truncate font-medium hover:underline"
        >
          {source.name}
        </Link>
        <Button
          tone="quiet"
          className="px-1.5!"
          aria-label={`Remove ${source.name} from the set`}
          title="Remove from the set"
          onClick={onOut}
        >
          <X className="size-3.5" aria-hidden />
        </Button>
      </div>
    </li>
  )
}
