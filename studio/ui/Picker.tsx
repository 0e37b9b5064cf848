import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react'
import { Check, ChevronDown } from 'lucide-react'

interface PickerProps<T extends string> {
  readonly label: string
  readonly value: T
  readonly options: readonly { readonly value: T; readonly label: string }[]
  readonly onChange: (value: T) => void
  /** The value that means no filter: any other is shown as an active filter. */
  readonly resting?: T
}

/** One of several, folded up until it is needed. */
export function Picker<T extends string>({
  label,
  value,
  options,
  onChange,
  resting,
}: PickerProps<T>) {
  const chosen = options.find((option) => option.value === value)
  const on = resting !== undefined && value !== resting
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton
        aria-label={`${label}: ${chosen?.label ?? ''}`}
        className={`inline-flex min-h-8 items-center gap-1.5 rounded border px-2.5 whitespace-nowrap ${on ? 'border-curtain bg-white font-medium' : 'border-line-strong/60 bg-sheet'}`}
      >
        {resting !== undefined && !on ? label : chosen?.label}
        <ChevronDown className="size-3.5 text-muted" aria-hidden />
      </ListboxButton>
      <ListboxOptions
        anchor="bottom start"
        className="z-30 mt-1 min-w-40 rounded-md border border-line bg-sheet p-1 shadow-lg outline-none"
      >
        {options.map((option) => (
          <ListboxOption
            key={option.value}
            value={option.value}
            className="flex cursor-pointer items-center gap-2 rounded px-2 py-1.5 data-focus:bg-ink/8"
          >
            <Check
              className={`size-3.5 text-curtain ${option.value === value ? '' : 'invisible'}`}
              aria-hidden
            />
            {option.label}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  )
}
