import { useId, useState } from 'react'
import { settingsSchema, type ProjectSettings } from '../../core/api/settings'
import { SCREENS, SCREEN_CLASSES } from '../../core/fit/screens'
import { SUPPORT } from '../../core/weight/support'
import { useSettings, useSettingsStore } from '../state/settingsStore'
import { AskDialog } from '../ui/AskDialog'
import { NumberField } from '../ui/controls'

/** What a project decides for all its backdrops: budgets and windows that new ones begin with, and its table of engines. */
export function SettingsDialog({ projectId, onClose }: { projectId: string; onClose: () => void }) {
  const settings = useSettings(projectId)
  const write = useSettingsStore((state) => state.write)
  const [draft, setDraft] = useState<Pick<ProjectSettings, 'budgets' | 'limits'>>({ budgets: settings.budgets, limits: settings.limits })
  const tableId = useId()
  const [table, setTable] = useState(() => JSON.stringify(settings.support, null, 2))
  const save = async (): Promise<void> => {
    const support = parsed(table)
    const checked = settingsSchema.safeParse({ ...draft, support })
    if (!checked.success) throw new Error(complaint(checked.error.issues[0]))
    await write(projectId, checked.data)
  }
  return (
    <AskDialog title="Weight in this project" action="Keep" onAct={save} onClose={onClose}>
      <p className="text-xs text-muted">New backdrops begin with these budgets and windows; those that are there already can take them under Weight.</p>
      <div className="flex gap-2" role="group" aria-label="Budgets of a first visit">
        {SCREEN_CLASSES.map((each) => (
          <NumberField key={each} label={`${SCREENS[each].label} budget`} value={draft.budgets[each] / 1000} low={20} high={100_000} suffix="kB" onChange={(kilobytes) => setDraft({ ...draft, budgets: { ...draft.budgets, [each]: kilobytes * 1000 } })} />
        ))}
      </div>
      <div className="flex gap-2" role="group" aria-label="Windows">
        <NumberField label="Phone windows, up to" value={draft.limits.phone} low={320} high={3000} suffix="px" onChange={(phone) => setDraft({ ...draft, limits: { ...draft.limits, phone } })} />
        <NumberField label="Laptop windows, up to" value={draft.limits.laptop} low={400} high={4000} suffix="px" onChange={(laptop) => setDraft({ ...draft, limits: { ...draft.limits, laptop } })} />
      </div>
      <div className="flex flex-col gap-1">
        <span className="flex justify-between text-xs text-muted"><label htmlFor={tableId}>Which engines play what, with its sources (JSON)</label> <button type="button" className="underline" onClick={() => setTable(JSON.stringify(SUPPORT, null, 2))}>Telon’s own table</button></span>
        <textarea id={tableId} className="h-48 rounded border border-line-strong/60 bg-white px-2.5 py-1.5 font-mono text-xs" spellCheck={false} value={table} onChange={(event) => setTable(event.target.value)} />
      </div>
    </AskDialog>
  )
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    throw new Error(`The table is no JSON: ${error instanceof Error ? error.message : 'check its commas and quotes'}.`, { cause: error })
  }
}

function complaint(issue: { readonly path: readonly PropertyKey[]; readonly message: string } | undefined): string {
  return issue ? `${issue.path.join('.')}: ${issue.message}` : 'Something in it cannot be used.'
}
