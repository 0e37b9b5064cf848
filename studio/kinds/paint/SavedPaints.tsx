import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { MAX_PAINTS, type SettingsChange } from '../../../core/api/settings'
import { paintBackground } from '../../../core/handoff/layers/paintCss'
import type { Paint } from '../../../core/kinds/paint/Paint'
import { messageOf } from '../../api/client'
import { changeSettings, useSettings } from '../../api/queries'
import { useNotices } from '../../state/noticeStore'
import { Button, Group } from '../../ui/controls'
import { usePaint } from './usePaint'

/** The project's paints: this one can be added, and each can be taken. */
export function SavedPaints({ base, projectId }: { base: Paint; projectId: string }) {
  const { set } = usePaint(base)
  const { paints } = useSettings(projectId)
  const tell = useNotices((state) => state.tell)
  const [name, setName] = useState('')
  const change = async (fields: SettingsChange, failure: string): Promise<boolean> => {
    try {
      await changeSettings(projectId, fields)
      return true
    } catch (error) {
      tell(`${failure} ${messageOf(error)}`)
      return false
    }
  }
  const free =
    name.trim() !== '' &&
    (paints.length < MAX_PAINTS || paints.some((each) => each.name === name.trim()))
  return (
    <Group title="Paints of the project" aside={`${paints.length} of ${MAX_PAINTS}`}>
      {paints.length > 0 && (
        <ul className="flex flex-col gap-1.5">
          {paints.map((each) => {
            const { kind: _, ...fields } = each.paint
            return (
              <li key={each.name} className="flex items-center gap-2">
                <button
                  type="button"
                  onClick={() => set(fields)}
                  className="flex min-w-0 flex-1 items-center gap-2.5 rounded border border-line bg-white p-1 text-left hover:border-curtain"
                >
                  <span
                    aria-hidden
                    className="h-8 w-14 shrink-0 rounded-sm"
                    style={{ background: paintBackground(each.paint) }}
                  />
                  <span className="truncate font-medium">{each.name}</span>
                </button>
                <Button
                  tone="quiet"
                  className="px-1.5!"
                  aria-label={`Delete the paint ${each.name}`}
                  title="Delete"
                  onClick={() =>
                    void change({ deletePaint: each.name }, 'The paint could not be deleted.')
                  }
                >
                  <Trash2 className="size-4" aria-hidden />
                </Button>
              </li>
            )
          })}
        </ul>
      )}
      <form
        className="flex gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          if (!free) return
          const savePaint = { name: name.trim(), paint: base }
          void change({ savePaint }, 'The paint could not be saved.').then(
            (isSaved) => isSaved && setName(''),
          )
        }}
      >
        <input
          aria-label="Name of this paint"
          placeholder="Name of this paint"
          maxLength={60}
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="min-w-0 flex-1 rounded border border-line bg-white px-2.5"
        />
        <Button type="submit" disabled={!free}>
          Save in the project
        </Button>
      </form>
    </Group>
  )
}
