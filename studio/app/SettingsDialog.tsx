import { useId, useState } from 'react'
import { settingsChangeSchema, type ProjectSettings } from '../../core/api/settings'
import { SCREENS, SCREEN_CLASSES, type ScreenClass } from '../../core/fit/screens'
import { SUPPORT } from '../../core/weight/support'
import { changeSettings, useSettingsQuery } from '../api/queries'
import { Loading, Problem } from '../shell/Shell'
import { AskDialog } from '../ui/AskDialog'
import { NumberField } from '../ui/controls'

const TITLE = 'Budgets and browsers of this project'

/**
 * What a project decides for all its backdrops: budgets, windows and screens that new ones begin
 * with, and its table of engines.
 */
export function SettingsDialog({ projectId, onClose }: { projectId: string; onClose: () => void }) {
  const { data, error, refetch } = useSettingsQuery(projectId)
  if (data) return <LoadedSettings projectId={projectId} loaded={data} onClose={onClose} />
  return (
    <AskDialog
      title={TITLE}
      action="Keep"
      disabled
      onAct={() => Promise.resolve()}
      onClose={onClose}
    >
      {error ? <Problem message={error.message} onRetry={() => void refetch()} /> : <Loading />}
    </AskDialog>
  )
}

function LoadedSettings({
  projectId,
  loaded,
  onClose,
}: {
  projectId: string
  loaded: ProjectSettings
  onClose: () => void
}) {
  // What it opened with: only what is changed here is sent, whatever others change meanwhile.
  const [settings] = useState(loaded)
  const [draft, setDraft] = useState<Pick<ProjectSettings, 'budgets' | 'breakpoints' | 'screens'>>({
    budgets: settings.budgets,
    breakpoints: settings.breakpoints,
    screens: settings.screens,
  })
  const tableId = useId()
  const [table, setTable] = useState(() => JSON.stringify(settings.support, null, 2))
  const save = async (): Promise<void> => {
    const support = parsed(table)
    const changed = Object.entries({ ...draft, support }).filter(
      ([name, value]) =>
        JSON.stringify(value) !== JSON.stringify(settings[name as keyof ProjectSettings]),
    )
    if (changed.length === 0) return
    const checked = settingsChangeSchema.safeParse(Object.fromEntries(changed))
    if (!checked.success) throw new Error(complaint(checked.error.issues[0]))
    await changeSettings(projectId, checked.data)
  }
  return (
    <AskDialog title={TITLE} action="Keep" onAct={save} onClose={onClose}>
      <p className="text-xs text-muted">
        New backdrops start with these values; existing ones can adopt them under Weight.
      </p>
      {SCREEN_CLASSES.map((each) => (
        <ClassFields
          key={each}
          screenClass={each}
          draft={draft}
          onChange={(change) => setDraft({ ...draft, ...change })}
        />
      ))}
      <div className="flex flex-col gap-1">
        <span className="flex justify-between text-xs text-muted">
          <label htmlFor={tableId}>Formats that browser engines play, with sources (JSON)</label>{' '}
          <button
            type="button"
            className="underline"
            onClick={() => setTable(JSON.stringify(SUPPORT, null, 2))}
          >
            Telon’s own table
          </button>
        </span>
        <textarea
          id={tableId}
          className="h-32 rounded border border-line-strong/60 bg-white px-2.5 py-1.5 font-mono text-xs"
          spellCheck={false}
          value={table}
          onChange={(event) => setTable(event.target.value)}
        />
      </div>
    </AskDialog>
  )
}

type Draft = Pick<ProjectSettings, 'budgets' | 'breakpoints' | 'screens'>

/**
 * One class of screens: what its first visit may take, which windows it is, and what its files are
 * made for.
 */
function ClassFields({
  screenClass,
  draft,
  onChange,
}: {
  screenClass: ScreenClass
  draft: Draft
  onChange: (change: Partial<Draft>) => void
}) {
  const { budgets, breakpoints: limits, screens } = draft
  const { label } = SCREENS[screenClass]
  const made = screens[screenClass]
  const set = (change: Partial<typeof made>): void =>
    onChange({ screens: { ...screens, [screenClass]: { ...made, ...change } } })
  return (
    <fieldset className="flex flex-col gap-1.5 border-t border-line pt-2">
      <legend className="float-left font-medium">{label}</legend>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label={`${label} budget`}
          value={budgets[screenClass] / 1000}
          low={20}
          high={100_000}
          suffix="kB"
          onChange={(kilobytes) =>
            onChange({ budgets: { ...budgets, [screenClass]: kilobytes * 1000 } })
          }
        />
        {screenClass === 'wide' ? (
          <p className="self-end pb-2 text-xs text-muted">All windows wider than laptops’.</p>
        ) : (
          <NumberField
            label={`${label} windows, up to`}
            value={limits[screenClass]}
            low={320}
            high={4000}
            suffix="px"
            onChange={(limit) => onChange({ breakpoints: { ...limits, [screenClass]: limit } })}
          />
        )}
      </div>
      <div
        className="grid grid-cols-3 gap-2"
        role="group"
        aria-label={`${label}: files are made for`}
      >
        <NumberField
          label="Optimise for width"
          value={made.width}
          low={240}
          high={8000}
          suffix="px"
          onChange={(width) => set({ width })}
        />
        <NumberField
          label="Height"
          value={made.height}
          low={240}
          high={8000}
          suffix="px"
          onChange={(height) => set({ height })}
        />
        <NumberField
          label="Density"
          value={made.density}
          low={0.5}
          high={4}
          decimals={2}
          suffix="×"
          onChange={(density) => set({ density })}
        />
      </div>
    </fieldset>
  )
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    throw new Error(
      `The table is not valid JSON: ${error instanceof Error ? error.message : 'check its commas and quotes'}.`,
      { cause: error },
    )
  }
}

function complaint(
  issue: { readonly path: readonly PropertyKey[]; readonly message: string } | undefined,
): string {
  return issue ? `${issue.path.join('.')}: ${issue.message}` : 'A value in it is not valid.'
}
