import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from '@headlessui/react'
import { useState, type FormEvent } from 'react'
import { queries } from '../api/queries'
import { api, messageOf } from '../api/client'
import { useServer } from '../state/serverStore'
import { Button } from '../ui/controls'

/** Asks for the password over whatever is open; interrupted work continues after sign-in. */
export function SignInDialog() {
  const needed = useServer((state) => state.signInNeeded)
  return needed ? <SignInForm /> : null
}

function SignInForm() {
  const onSignedIn = useServer((state) => state.onSignedIn)
  const [password, setPassword] = useState('')
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<string | null>(null)
  const signIn = async (event: FormEvent): Promise<void> => {
    event.preventDefault()
    setBusy(true)
    setProblem(null)
    try {
      await api.signIn(password)
      onSignedIn()
      await queries.invalidateQueries()
    } catch (error) {
      setProblem(messageOf(error))
    }
    setBusy(false)
  }
  return (
    <Dialog open onClose={() => undefined} className="relative z-[60]">
      <DialogBackdrop className="fixed inset-0 bg-ink/60" />
      <div className="fixed inset-0 flex items-center justify-center p-4">
        <DialogPanel className="w-full max-w-sm rounded-lg border border-line bg-sheet p-5 shadow-xl">
          <DialogTitle className="mb-1 text-lg font-semibold">Sign in to Telon</DialogTitle>
          <p className="mb-3 text-muted">
            Uploads and unsaved changes wait and continue after you sign in.
          </p>
          <form className="flex flex-col gap-3" onSubmit={(event) => void signIn(event)}>
            {/* Password managers want to know whose password it is. */}
            <input
              type="text"
              name="username"
              value="owner"
              readOnly
              hidden
              autoComplete="username"
            />
            <label className="flex flex-col gap-1">
              <span className="text-xs text-muted">Password</span>
              <input
                type="password"
                autoComplete="current-password"
                className="rounded border border-line-strong/60 bg-white px-2.5 py-1.5"
                value={password}
                required
                data-autofocus
                onChange={(event) => setPassword(event.target.value)}
              />
            </label>
            {problem && (
              <p role="alert" className="text-fix">
                {problem}
              </p>
            )}
            <Button tone="accent" type="submit" disabled={busy}>
              Sign in
            </Button>
          </form>
        </DialogPanel>
      </div>
    </Dialog>
  )
}
