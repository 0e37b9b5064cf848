import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from '@headlessui/react'
import { useState, type ReactNode } from 'react'
import { messageOf } from '../api/client'
import { Button } from './controls'

interface AskDialogProps {
  readonly title: string
  readonly children?: ReactNode
  /** What the button that goes ahead says. */
  readonly action: string
  /** What the button that leaves everything unchanged says. */
  readonly leave?: string
  readonly danger?: boolean
  /** Whether it holds more than a sentence or a few fields. */
  readonly wide?: boolean
  /** Whether something is still missing. */
  readonly disabled?: boolean
  /** Whether the next step replaces this dialog: then it does not close by itself. */
  readonly keepOpen?: boolean
  /** Whether there is nothing to cancel: the dialog only informs. */
  readonly tellsOnly?: boolean
  /** Carries it out; what it throws is shown and the dialog stays. */
  readonly onAct: () => Promise<void>
  readonly onClose: () => void
}

/** A question in a dialog: confirm, or leave everything unchanged. */
export function AskDialog({
  title,
  children,
  action,
  leave = 'Cancel',
  danger = false,
  wide = false,
  disabled = false,
  keepOpen = false,
  tellsOnly = false,
  onAct,
  onClose,
}: AskDialogProps) {
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const act = async (): Promise<void> => {
    setBusy(true)
    setProblem(null)
    await onAct().then(keepOpen ? () => undefined : onClose, (error: unknown) =>
      setProblem(messageOf(error)),
    )
    setBusy(false)
  }
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <DialogBackdrop className="fixed inset-0 bg-ink/45" />
      <div className="fixed inset-0 flex items-center justify-center p-4">
        <DialogPanel
          className={`max-h-full w-full ${wide ? 'max-w-2xl' : 'max-w-md'} overflow-y-auto rounded-lg border border-line bg-sheet p-5 shadow-xl`}
        >
          <DialogTitle className="mb-3 text-lg font-semibold">{title}</DialogTitle>
          <form
            className="flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault()
              void act()
            }}
          >
            {children}
            {problem && (
              <p role="alert" className="text-fix">
                {problem}
              </p>
            )}
            <div className="mt-2 flex justify-end gap-2">
              {!tellsOnly && (
                <Button tone="quiet" onClick={onClose}>
                  {leave}
                </Button>
              )}
              <Button tone={danger ? 'danger' : 'accent'} type="submit" disabled={busy || disabled}>
                {action}
              </Button>
            </div>
          </form>
        </DialogPanel>
      </div>
    </Dialog>
  )
}

/** A labelled line to type in, for dialogs. */
export function TextLine({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange: (value: string) => void
}) {
  return (
    <label className="flex flex-col gap-1">
      <span className="text-xs text-muted">{label}</span>
      <input
        className="rounded border border-line-strong/60 bg-white px-2.5 py-1.5"
        value={value}
        maxLength={120}
        required
        onChange={(event) => onChange(event.target.value)}
        data-autofocus
      />
    </label>
  )
}
