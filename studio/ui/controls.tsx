import { Radio, RadioGroup, Switch } from '@headlessui/react'
import { useId, useState, type ButtonHTMLAttributes, type ReactNode } from 'react'

type Tone = 'plain' | 'accent' | 'quiet' | 'danger'

const TONES: Record<Tone, string> = {
  plain: 'border border-line-strong/60 bg-sheet hover:bg-white',
  accent: 'border border-curtain bg-curtain text-white hover:bg-curtain-deep',
  quiet: 'border border-transparent hover:bg-ink/8',
  danger: 'border border-fix bg-sheet text-fix hover:bg-fix hover:text-white',
}

/** A button; `tone` says how much it matters. */
export function Button({
  tone = 'plain',
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { tone?: Tone }) {
  return (
    <button
      type="button"
      {...rest}
      className={`inline-flex min-h-8 items-center justify-center gap-1.5 rounded px-3 py-1 font-medium whitespace-nowrap disabled:opacity-45 ${TONES[tone]} ${className}`}
    />
  )
}

/** A group of controls under one heading; `aside` is shown at its right. */
export function Group({
  title,
  aside,
  children,
}: {
  title: string
  aside?: ReactNode
  children: ReactNode
}) {
  return (
    <section className="border-b border-line px-4 py-3.5 last:border-0">
      <div className="mb-2 flex items-baseline justify-between gap-3">
        <h2 className="font-semibold">{title}</h2>
        {aside && <span className="text-xs text-muted">{aside}</span>}
      </div>
      <div className="flex flex-col gap-2.5">{children}</div>
    </section>
  )
}

/** A box around a labelled field. */
const BOX =
  'flex flex-col rounded border border-line bg-white px-2.5 py-1 focus-within:border-curtain'

interface DraftFieldProps {
  readonly label: string
  readonly value: string
  /** Takes what was typed; returns a sentence where it cannot be used. */
  readonly onCommit: (text: string) => string | null
  readonly suffix?: string
  readonly placeholder?: string
}

/** A text field that is committed by Enter or by leaving it, and put back by Escape. */
export function DraftField({ label, value, onCommit, suffix, placeholder }: DraftFieldProps) {
  const [draft, setDraft] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const id = useId()
  const commit = (): void => {
    if (draft === null) return
    const complaint = draft === value ? null : onCommit(draft)
    setProblem(complaint)
    if (complaint === null) setDraft(null)
  }
  return (
    <div className="min-w-0 flex-1">
      <div className={`${BOX} ${problem ? 'border-fix' : ''}`}>
        <label htmlFor={id} className="text-xs text-muted">
          {label}
        </label>
        <span className="flex items-baseline gap-1">
          <input
            id={id}
            className="w-full min-w-0 bg-transparent font-mono text-[0.82rem] outline-none"
            value={draft ?? value}
            placeholder={placeholder}
            aria-invalid={problem !== null}
            aria-describedby={problem ? `${id}-problem` : undefined}
            onChange={(event) => setDraft(event.target.value)}
            onBlur={commit}
            onKeyDown={(event) => {
              if (event.key === 'Enter') commit()
              if (event.key === 'Escape') {
                setDraft(null)
                setProblem(null)
              }
            }}
          />
          {suffix && <span className="font-mono text-xs text-muted">{suffix}</span>}
        </span>
      </div>
      {problem && (
        <p id={`${id}-problem`} className="mt-1 text-xs text-fix" role="alert">
          {problem}
        </p>
      )}
    </div>
  )
}

interface NumberFieldProps {
  readonly label: string
  readonly value: number
  readonly low: number
  readonly high: number
  readonly suffix?: string
  readonly onChange: (value: number) => void
  readonly decimals?: number
}

/** A field for a number between two bounds. */
export function NumberField({
  label,
  value,
  low,
  high,
  suffix,
  onChange,
  decimals = 0,
}: NumberFieldProps) {
  return (
    <DraftField
      label={label}
      value={String(Math.round(value * 10 ** decimals) / 10 ** decimals)}
      suffix={suffix ?? ''}
      onCommit={(text) => {
        const typed = Number(text.replace(',', '.'))
        if (text.trim() === '' || !Number.isFinite(typed) || typed < low || typed > high)
          return `A number from ${low} to ${high}.`
        onChange(decimals === 0 ? Math.round(typed) : typed)
        return null
      }}
    />
  )
}

interface SliderProps {
  readonly label: string
  readonly value: number
  readonly low: number
  readonly high: number
  readonly step: number
  readonly shown: string
  /** `gesture` is the same during one drag. */
  readonly onChange: (value: number, gesture: string) => void
}

/** A slider with its value beside its label. */
export function Slider({ label, value, low, high, step, shown, onChange }: SliderProps) {
  const [gesture, setGesture] = useState(() => crypto.randomUUID())
  const renew = (): void => setGesture(crypto.randomUUID())
  const id = useId()
  return (
    <div>
      <div className="flex items-baseline justify-between">
        <label htmlFor={id} className="text-xs text-muted">
          {label}
        </label>
        <output htmlFor={id} className="font-mono text-xs">
          {shown}
        </output>
      </div>
      <input
        id={id}
        type="range"
        min={low}
        max={high}
        step={step}
        value={value}
        aria-valuetext={shown}
        onPointerDown={renew}
        onFocus={renew}
        onChange={(event) => onChange(Number(event.target.value), gesture)}
      />
    </div>
  )
}

interface ChoiceProps<T extends string> {
  readonly label: string
  readonly value: T
  readonly options: readonly {
    readonly value: T
    readonly label: string
    readonly note?: string
    readonly disabled?: boolean
  }[]
  readonly onChange: (value: T) => void
  readonly hideLabel?: boolean
}

/** One of a few, side by side. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  hideLabel = false,
}: ChoiceProps<T>) {
  return (
    <RadioGroup value={value} onChange={onChange} aria-label={label}>
      {!hideLabel && <div className="mb-1 text-xs text-muted">{label}</div>}
      <div className="flex gap-1.5">
        {options.map((option) => (
          <Radio
            key={option.value}
            value={option.value}
            disabled={option.disabled ?? false}
            className="flex-1 cursor-pointer rounded border border-line bg-white px-2.5 py-1.5 data-checked:border-curtain data-checked:ring-1 data-checked:ring-curtain data-disabled:cursor-default data-disabled:opacity-60 data-focus:outline-2 data-focus:outline-offset-2 data-focus:outline-curtain"
          >
            <span className="block leading-tight font-medium">{option.label}</span>
            {option.note && <span className="block text-xs text-muted">{option.note}</span>}
          </Radio>
        ))}
      </div>
    </RadioGroup>
  )
}

/** A switch with a sentence on what it does. */
export function Toggle({
  label,
  note,
  enabled: on,
  disabled = false,
  onChange,
}: {
  label: string
  note?: string
  enabled: boolean
  disabled?: boolean
  onChange: (on: boolean) => void
}) {
  return (
    <div className="flex items-start gap-3">
      <Switch
        checked={on && !disabled}
        disabled={disabled}
        onChange={onChange}
        aria-label={label}
        className="group mt-0.5 inline-flex h-5 w-9 shrink-0 items-center rounded-full bg-line-strong data-checked:bg-curtain data-disabled:opacity-45"
      >
        <span className="size-4 translate-x-0.5 rounded-full bg-white transition group-data-checked:translate-x-4.5" />
      </Switch>
      <span>
        <span className="block font-medium">{label}</span>
        {note && <span className="block text-xs text-muted">{note}</span>}
      </span>
    </div>
  )
}

/** Progress from 0 to 1, with a name for assistive technology. */
export function Progress({ value, label }: { value: number; label: string }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(value * 100)}
      className="h-1.5 w-full overflow-hidden rounded-full bg-line"
    >
      <div
        className="h-full rounded-full bg-curtain transition-[width]"
        style={{ width: `${value * 100}%` }}
      />
    </div>
  )
}

/** The state of a readout. */
export type Standing = 'settled' | 'look' | 'fix' | 'busy'

const STANDINGS: Record<Standing, string> = {
  settled: 'settled',
  look: 'look here',
  fix: 'must fix',
  busy: 'being measured',
}

/** A state by shape and colour: disc, diamond, triangle, ring. */
export function StandingMark({ standing }: { standing: Standing }) {
  return (
    <svg
      viewBox="0 0 12 12"
      className="size-3 shrink-0"
      role="img"
      aria-label={STANDINGS[standing]}
    >
      {standing === 'settled' && <circle cx="6" cy="6" r="5" className="fill-settled" />}
      {standing === 'look' && (
        <rect
          x="2.2"
          y="2.2"
          width="7.6"
          height="7.6"
          transform="rotate(45 6 6)"
          className="fill-look"
        />
      )}
      {standing === 'fix' && <path d="M6 .8 11.6 11H.4z" className="fill-fix" />}
      {standing === 'busy' && (
        <circle
          cx="6"
          cy="6"
          r="4.2"
          fill="none"
          strokeWidth="2"
          strokeDasharray="6 3"
          className="stroke-muted"
        />
      )}
    </svg>
  )
}

/** A sentence that asks for attention. */
export function Note({ tone, children }: { tone: 'look' | 'fix' | 'plain'; children: ReactNode }) {
  const bar = { look: 'border-look', fix: 'border-fix', plain: 'border-line-strong' }[tone]
  return <p className={`border-l-3 ${bar} pl-3 text-[0.82rem]`}>{children}</p>
}
