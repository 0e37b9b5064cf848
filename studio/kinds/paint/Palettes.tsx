import { useState } from 'react'
import { colorStop } from '../../../core/kinds/paint/editGradient'
import type { Paint } from '../../../core/kinds/paint/Paint'
import { useClips, useImages, useSettings } from '../../api/queries'
import { Group } from '../../ui/controls'
import { Picker } from '../../ui/Picker'
import { useSelected } from './paintSelection'
import { usePaint } from './usePaint'

const PROJECT = 'project'

/** Colours of the project's paints, or of a source: one click puts one on the open stop. */
export function Palettes({ base, projectId }: { base: Paint; projectId: string }) {
  const { set, setGradient } = usePaint(base)
  const { index, stop } = useSelected(base.gradients)
  const { paints } = useSettings(projectId)
  const { data: clips = [] } = useClips(projectId)
  const { data: images = [] } = useImages(projectId)
  const [from, setFrom] = useState('')
  const sources = [...clips, ...images].filter(({ palette }) => palette.length > 0)
  const ofProject = [
    ...new Set(
      paints.flatMap(({ paint }) => [
        paint.color,
        ...paint.gradients.flatMap(({ stops }) => stops.map(({ color }) => color)),
      ]),
    ),
  ].slice(0, 24)
  const places = [
    ...(ofProject.length > 0 ? [{ value: PROJECT, label: 'Paints of the project' }] : []),
    ...sources.map(({ id, name }) => ({ value: id, label: name })),
  ]
  const chosen = places.find(({ value }) => value === from) ?? places[0]
  if (!chosen) return null
  const colors =
    chosen.value === PROJECT
      ? ofProject
      : sources.find(({ id }) => id === chosen.value)!.palette.map(({ hex }) => hex)
  const gradient = base.gradients[index]
  const take = (color: string): void =>
    gradient ? setGradient(index, colorStop(gradient, stop, color)) : set({ color })
  return (
    <Group
      title="Palette"
      aside={gradient ? `a click colours stop ${stop + 1}` : 'a click sets the colour'}
    >
      <Picker label="Colours of" value={chosen.value} onChange={setFrom} options={places} />
      <div role="group" aria-label="Colours" className="flex flex-wrap gap-1.5">
        {colors.map((color) => (
          <button
            key={color}
            type="button"
            title={color}
            aria-label={`Take ${color}`}
            onClick={() => take(color)}
            className="size-8 rounded border border-ink/25"
            style={{ background: color }}
          />
        ))}
      </div>
    </Group>
  )
}
