import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import { ChevronDown, Lock, Pipette } from 'lucide-react'
import { useState } from 'react'
import type { BrandColor } from '../../core/brand/Brand'
import { isEnough } from '../../core/legibility/worstOf'
import { useStage } from '../state/stageStore'
import { Button, DraftField } from '../ui/controls'
import { useSavedColors } from './savedColors'

/** What a colour gives where it is looked at: its least contrast, and what it needs. */
export interface ToldContrast {
  /** Null where both darker and brighter lies behind it: it may be lost. */
  readonly ratio: number | null
  readonly needed: number
}

interface ColorFieldProps {
  readonly label: string
  readonly value: string
  readonly onChange: (value: string, gesture: string | null) => void
  /** Shown while the list of colours is open: measures, and tells the contrast of each colour. */
  readonly useContrast?: ContrastOf | undefined
}

/**
 * Gives a function that tells the contrast of a colour: null while it is being measured, and where
 * it cannot be; then there is a sentence that says why.
 */
export type ContrastOf = () => {
  readonly of: ((color: string) => ToldContrast | null) | null
  readonly problem: string | null
}

/**
 * A colour: a swatch that opens the browser's picker, its code to type, and a list with the
 * project's colours and the stage's.
 */
export function ColorField({ label, value, onChange, useContrast }: ColorFieldProps) {
  const [gesture, setGesture] = useState('')
  return (
    <div className="flex min-w-0 flex-1 items-center gap-2">
      <input
        type="color"
        aria-label={`${label}, picker`}
        value={value}
        className="size-8 shrink-0"
        onFocus={() => setGesture(crypto.randomUUID())}
        onChange={(event) => onChange(event.target.value, gesture)}
      />
      <DraftField
        label={label}
        value={value}
        onCommit={(text) => {
          const typed = text.trim().startsWith('#') ? text.trim() : `#${text.trim()}`
          if (!/^#[0-9a-f]{6}$/i.test(typed)) return 'Six digits, like #1b2a4c.'
          onChange(typed.toLowerCase(), null)
          return null
        }}
      />
      <Popover className="shrink-0">
        <PopoverButton
          aria-label={`${label}: colours of the project`}
          title="Colours of the project"
          className="grid size-8 place-items-center rounded border border-line-strong/60 bg-white"
        >
          <ChevronDown className="size-3.5 text-muted" aria-hidden />
        </PopoverButton>
        <PopoverPanel
          anchor={{ to: 'bottom end', gap: 4, padding: 8 }}
          className="z-30 flex w-72 flex-col gap-2.5 rounded-md border border-line bg-sheet p-3 shadow-lg outline-none"
        >
          {({ close }) => (
            <ColorList
              label={label}
              value={value}
              onTake={(color) => onChange(color, null)}
              onClose={() => close()}
              useContrast={useContrast}
            />
          )}
        </PopoverPanel>
      </Popover>
    </div>
  )
}

interface ColorListProps extends Pick<ColorFieldProps, 'label' | 'value' | 'useContrast'> {
  readonly onTake: (color: string) => void
  readonly onClose: () => void
}

const useNoContrast: ContrastOf = () => ({ of: null, problem: null })

function ColorList({ label, value, useContrast = useNoContrast, onTake, onClose }: ColorListProps) {
  const saved = useSavedColors()
  const { of: contrastOf, problem } = useContrast()
  const set = useStage((state) => state.set)
  const isMeasured = useContrast !== useNoContrast
  return (
    <>
      {isMeasured && (
        <p className="text-xs" role="status">
          {contrastOf ? (
            <>
              At least, over all frames and screens: <Told told={contrastOf(value)} isWhole />
            </>
          ) : problem ? (
            <span className="text-fix">{problem}</span>
          ) : (
            <span className="text-muted">Measuring the contrast of each colour …</span>
          )}
        </p>
      )}
      {saved && saved.colors.length > 0 && (
        <ul
          aria-label="Colours of the project"
          className="flex max-h-60 flex-col gap-1 overflow-auto"
        >
          {saved.colors.map((each) => (
            <li key={each.name}>
              <Swatch
                {...each}
                isChosen={each.color.toLowerCase() === value.toLowerCase()}
                told={contrastOf?.(each.color) ?? null}
                onTake={() => onTake(each.color.toLowerCase())}
              />
            </li>
          ))}
        </ul>
      )}
      {saved?.colors.length === 0 && (
        <p className="text-xs text-muted">
          The project has no colours yet. Save this one here, or import them: project, Brand.
        </p>
      )}
      <Button
        onClick={() => {
          set({ picking: { label, onPick: onTake } })
          onClose()
        }}
      >
        <Pipette className="size-4" aria-hidden />
        Pick from the stage
      </Button>
      {saved && <SaveColor value={value} onSave={saved.save} />}
    </>
  )
}

/** A contrast in short; in red where it is not enough. */
export function Told({
  told,
  isWhole = false,
}: {
  readonly told: ToldContrast | null
  readonly isWhole?: boolean
}) {
  if (!told) return null
  const { ratio, needed } = told
  const fails = ratio === null || !isEnough(ratio, needed)
  return (
    <span
      title={ratio === null ? 'Both darker and brighter lies behind it.' : undefined}
      className={`font-mono text-xs ${fails ? 'font-semibold text-fix' : 'text-settled'}`}
    >
      {ratio === null ? 'may be lost' : `${ratio.toFixed(2)} : 1`}
      {fails && (isWhole ? `, needs ${needed}` : ratio !== null && ' fails')}
    </span>
  )
}

function Swatch({
  name,
  color,
  isLocked,
  isChosen,
  told,
  onTake,
}: BrandColor & {
  readonly isChosen: boolean
  readonly told: ToldContrast | null
  readonly onTake: () => void
}) {
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      onClick={onTake}
      className="flex w-full items-center gap-2 rounded border border-line bg-white px-1.5 py-1 text-left hover:border-curtain aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
    >
      <span
        aria-hidden
        className="size-5 shrink-0 rounded-sm border border-black/15"
        style={{ background: color }}
      />
      <span className="min-w-0 flex-1 truncate">{name}</span>
      {isLocked && <Lock className="size-3 shrink-0 text-muted" aria-label="locked" />}
      {told ? <Told told={told} /> : <span className="font-mono text-xs text-muted">{color}</span>}
    </button>
  )
}

/** Keeps the present colour in the project. */
function SaveColor({
  value,
  onSave,
}: {
  readonly value: string
  readonly onSave: (name: string, color: string) => Promise<boolean>
}) {
  const [name, setName] = useState('')
  const given = name.trim()
  const save = (): void =>
    void (given && onSave(given, value).then((isSaved) => isSaved && setName('')))
  return (
    <div className="flex gap-2">
      <input
        aria-label="Name of this colour"
        placeholder="Name of this colour"
        maxLength={60}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && save()}
        className="min-w-0 flex-1 rounded border border-line bg-white px-2"
      />
      <Button disabled={!given} onClick={save}>
        Save
      </Button>
    </div>
  )
}
