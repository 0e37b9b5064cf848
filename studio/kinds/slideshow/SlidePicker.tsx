import { useState } from 'react'
import type { SlidesOrder } from '../../../core/api/wire'
import { SLIDE_COUNT } from '../../../core/kinds/slideshow/Slideshow'
import { useImages, useSets } from '../../api/queries'
import { SourceThumb } from '../../clip/SourceThumb'

/** No image chosen yet. */
export const NO_SLIDES: SlidesOrder = { sourceIds: [], setId: null }

/** A set, or images one by one; up to `most` of them. */
export function SlidePicker({
  projectId,
  picked,
  most = SLIDE_COUNT.max,
  withSets = true,
  onPick,
}: {
  projectId: string
  picked: SlidesOrder
  most?: number
  withSets?: boolean
  onPick: (picked: SlidesOrder) => void
}) {
  const { data: images = [] } = useImages(projectId)
  const { data: sets = [] } = useSets(projectId)
  const [search, setSearch] = useState('')
  const usable = sets.filter(({ sourceIds }) => sourceIds.length >= SLIDE_COUNT.min)
  const shown = images.filter(({ name }) =>
    name.toLowerCase().includes(search.toLowerCase().trim()),
  )
  const { sourceIds } = picked
  const toggle = (id: string): void => {
    const next = sourceIds.includes(id)
      ? sourceIds.filter((each) => each !== id)
      : [...sourceIds, id].slice(0, most)
    onPick({ sourceIds: next, setId: null })
  }
  return (
    <div className="flex flex-col gap-2">
      {withSets && usable.length > 0 && (
        <div role="group" aria-label="Sets of the shelf" className="flex flex-wrap gap-1.5">
          {usable.map((set) => (
            <button
              key={set.id}
              type="button"
              aria-pressed={picked.setId === set.id}
              onClick={() => onPick({ sourceIds: set.sourceIds.slice(0, most), setId: set.id })}
              className="rounded border border-line bg-white px-2.5 py-1 aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
            >
              {set.name} <span className="text-xs text-muted">{set.sourceIds.length} images</span>
            </button>
          ))}
        </div>
      )}
      {images.length > 8 && (
        <input
          type="search"
          aria-label="Search images"
          placeholder="Search by name"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          className="rounded border border-line bg-white px-2.5 py-1.5"
        />
      )}
      <div
        role="group"
        aria-label="Images"
        className="grid max-h-72 grid-cols-[repeat(auto-fill,minmax(8rem,1fr))] gap-2 overflow-auto p-0.5"
      >
        {shown.map((image) => {
          const place = sourceIds.indexOf(image.id)
          return (
            <button
              key={image.id}
              type="button"
              aria-pressed={place >= 0}
              title={image.name}
              onClick={() => toggle(image.id)}
              className="relative overflow-hidden rounded border border-line bg-white text-left aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
            >
              <span className="[container-type:size] block aspect-video">
                <SourceThumb source={image} className="size-full" />
              </span>
              <span className="block truncate px-1.5 py-0.5 text-xs">{image.name}</span>
              {place >= 0 && (
                <span className="absolute top-1 left-1 grid size-5 place-items-center rounded-full bg-curtain font-mono text-[0.7rem] text-white">
                  {place + 1}
                </span>
              )}
            </button>
          )
        })}
      </div>
      <p className="text-xs text-muted" role="status">
        {images.length < SLIDE_COUNT.min
          ? 'A slideshow needs two images at least. Add some on the shelf first.'
          : `${sourceIds.length} chosen, in the order of the numbers; ${SLIDE_COUNT.min} to ${SLIDE_COUNT.max} are possible.`}
      </p>
    </div>
  )
}
