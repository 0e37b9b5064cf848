import { Lock, LockOpen, Trash2 } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import type { SettingsChange } from '../../core/api/settings'
import { BRAND_LIMITS, familyCss, type Brand } from '../../core/brand/Brand'
import { writeCustomProperties } from '../../core/brand/customProperties'
import { writeDesignTokens } from '../../core/brand/designTokens'
import { readBrand } from '../../core/brand/readBrand'
import { messageOf } from '../api/client'
import { changeSettings, useSettingsQuery } from '../api/queries'
import { Loading, Problem } from '../shell/Shell'
import { AskDialog } from '../ui/AskDialog'
import { Button } from '../ui/controls'

/** The project's colours and typefaces: import, lock, delete, export. Changes are kept at once. */
export function BrandDialog({
  projectId,
  name,
  onClose,
}: {
  readonly projectId: string
  readonly name: string
  readonly onClose: () => void
}) {
  const { data, error, refetch } = useSettingsQuery(projectId)
  return (
    <AskDialog
      title="Brand of this project"
      action="Close"
      wide
      tellsOnly
      onAct={() => Promise.resolve()}
      onClose={onClose}
    >
      {data ? (
        <Kept projectId={projectId} name={name} brand={data} />
      ) : error ? (
        <Problem message={error.message} onRetry={() => void refetch()} />
      ) : (
        <Loading />
      )}
    </AskDialog>
  )
}

function Kept({
  projectId,
  name,
  brand,
}: {
  readonly projectId: string
  readonly name: string
  readonly brand: Brand
}) {
  const [problem, setProblem] = useState<string | null>(null)
  const change = async (fields: SettingsChange): Promise<boolean> => {
    setProblem(null)
    try {
      await changeSettings(projectId, fields)
      return true
    } catch (error) {
      setProblem(messageOf(error))
      return false
    }
  }
  const { colors, typefaces } = brand
  const isEmpty = colors.length + typefaces.length === 0
  return (
    <>
      <p className="text-xs text-muted">
        These colours are offered wherever a colour is chosen in this project, and button colours
        are suggested from them. A locked colour is never replaced by a remedy or a suggestion.
      </p>
      <KeptColors colors={colors} onChange={change} />
      <KeptTypefaces typefaces={typefaces} onChange={change} />
      <Import onImport={(saveBrand) => change({ saveBrand })} />
      <section aria-label="Export" className="flex flex-wrap items-center gap-2">
        <h3 className="mr-2 font-medium">Export</h3>
        <Button
          disabled={isEmpty}
          onClick={() => download(`${name} tokens.json`, writeDesignTokens(brand))}
        >
          Design Tokens
        </Button>
        <Button
          disabled={isEmpty}
          onClick={() => download(`${name} colours.css`, writeCustomProperties(brand))}
        >
          Custom properties
        </Button>
      </section>
      {problem && (
        <p role="alert" className="text-fix">
          {problem}
        </p>
      )}
    </>
  )
}

type Change = (fields: SettingsChange) => Promise<boolean>

function KeptColors({ colors, onChange }: Pick<Brand, 'colors'> & { readonly onChange: Change }) {
  return (
    <section aria-label="Colours" className="flex flex-col gap-1">
      <h3 className="font-medium">
        Colours <Count of={colors.length} most={BRAND_LIMITS.colors} />
      </h3>
      {colors.length === 0 && <p className="text-xs text-muted">None yet. Import some below.</p>}
      <ul className="grid grid-cols-2 gap-x-4 gap-y-1 max-sm:grid-cols-1">
        {colors.map(({ name: own, color, isLocked }) => (
          <Row
            key={own}
            name={own}
            value={color}
            onDelete={() => void onChange({ deleteColor: own })}
            swatch={
              <span
                aria-hidden
                className="size-6 shrink-0 rounded-sm border border-black/15"
                style={{ background: color }}
              />
            }
          >
            <Button
              tone="quiet"
              className="px-1.5!"
              aria-pressed={isLocked}
              aria-label={`Lock ${own}`}
              title={isLocked ? 'Locked: press to unlock' : 'Not locked: press to lock'}
              onClick={() => void onChange({ lockColor: { name: own, isLocked: !isLocked } })}
            >
              {isLocked ? (
                <Lock className="size-4" aria-hidden />
              ) : (
                <LockOpen className="size-4 text-muted" aria-hidden />
              )}
            </Button>
          </Row>
        ))}
      </ul>
    </section>
  )
}

function KeptTypefaces({
  typefaces,
  onChange,
}: Pick<Brand, 'typefaces'> & { readonly onChange: Change }) {
  return (
    <section aria-label="Typefaces" className="flex flex-col gap-1">
      <h3 className="font-medium">
        Typefaces <Count of={typefaces.length} most={BRAND_LIMITS.typefaces} />
      </h3>
      {typefaces.length === 0 && <p className="text-xs text-muted">None yet.</p>}
      <ul className="flex flex-col gap-1">
        {typefaces.map(({ name: own, family, weight }) => (
          <Row
            key={own}
            name={own}
            value={weight === null ? family : `${family}, ${weight}`}
            onDelete={() => void onChange({ deleteTypeface: own })}
            swatch={
              <span
                aria-hidden
                className="w-8 shrink-0 text-center text-lg leading-none"
                style={{ fontFamily: familyCss(family), fontWeight: weight ?? undefined }}
              >
                Aa
              </span>
            }
          />
        ))}
      </ul>
    </section>
  )
}

const Count = ({ of, most }: { readonly of: number; readonly most: number }) => (
  <span className="text-xs font-normal text-muted">
    {of} of {most}
  </span>
)

function Row({
  name,
  value,
  swatch,
  onDelete,
  children,
}: {
  readonly name: string
  readonly value: string
  readonly swatch: ReactNode
  readonly onDelete: () => void
  readonly children?: ReactNode
}) {
  return (
    <li className="flex min-w-0 items-center gap-2">
      {swatch}
      <span className="flex min-w-0 flex-1 flex-col leading-tight">
        <span className="truncate">{name}</span>
        <span className="truncate font-mono text-xs text-muted">{value}</span>
      </span>
      {children}
      <Button
        tone="quiet"
        className="px-1.5!"
        aria-label={`Delete ${name}`}
        title="Delete"
        onClick={onDelete}
      >
        <Trash2 className="size-4" aria-hidden />
      </Button>
    </li>
  )
}

/** Takes colours and typefaces from a pasted text or a file. */
function Import({ onImport }: { readonly onImport: (brand: ImportedBrand) => Promise<boolean> }) {
  const [text, setText] = useState('')
  const [told, setTold] = useState<{ readonly text: string; readonly isBad: boolean } | null>(null)
  const take = async (): Promise<void> => {
    try {
      const { colors, typefaces, skipped } = readBrand(text)
      const brand = { colors: [...colors], typefaces: [...typefaces] }
      if (!(await onImport(brand))) return setTold(null)
      setText('')
      setTold({ text: takenText(brand, skipped), isBad: false })
    } catch (error) {
      setTold({ text: messageOf(error), isBad: true })
    }
  }
  return (
    <section aria-label="Import" className="flex flex-col gap-1.5">
      <div className="flex items-baseline justify-between gap-2">
        <h3 className="font-medium">Import</h3>
        <label className="cursor-pointer text-xs underline focus-within:outline-2">
          Open a file
          <input
            type="file"
            accept=".css,.json,.tokens,text/css,application/json"
            className="sr-only"
            onChange={(event) => {
              const [file] = event.target.files ?? []
              event.target.value = ''
              void file?.text().then(setText, () => setTold({ text: UNREADABLE, isBad: true }))
            }}
          />
        </label>
      </div>
      <textarea
        aria-label="A style sheet’s custom properties, or a Design Tokens file"
        placeholder={'--night: #14101c;\n--font-heading: "Fen Sans", sans-serif;'}
        className="h-24 rounded border border-line-strong/60 bg-white px-2.5 py-1.5 font-mono text-xs"
        spellCheck={false}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <div className="flex items-start gap-3">
        <Button disabled={text.trim() === ''} onClick={() => void take()}>
          Import
        </Button>
        {told && (
          <p
            role={told.isBad ? 'alert' : 'status'}
            className={`min-w-0 flex-1 text-xs break-words ${told.isBad ? 'text-fix' : ''}`}
          >
            {told.text}
          </p>
        )}
      </div>
    </section>
  )
}

type ImportedBrand = NonNullable<SettingsChange['saveBrand']>

const UNREADABLE = 'This file cannot be read. Open it in an editor, and paste its text.'

/** Names of what was not taken that are told; the others are counted. */
const MOST_TOLD = 5

function takenText(
  { colors, typefaces }: ImportedBrand,
  skipped: readonly { readonly name: string; readonly why: string }[],
): string {
  const told = skipped.slice(0, MOST_TOLD).map(({ name, why }) => `${name} ${why}`)
  const more = skipped.length - told.length
  const left =
    told.length > 0 ? ` Left out: ${told.join(', ')}${more > 0 ? `, ${more} more` : ''}.` : ''
  return `Imported ${colors.length} ${colors.length === 1 ? 'colour' : 'colours'} and ${typefaces.length} ${typefaces.length === 1 ? 'typeface' : 'typefaces'}.${left}`
}

function download(name: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text]))
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
