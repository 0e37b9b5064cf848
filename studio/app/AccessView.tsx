import { useQuery } from '@tanstack/react-query'
import { LogOut } from 'lucide-react'
import { Link } from 'react-router'
import { api, messageOf } from '../api/client'
import { keys } from '../api/queries'
import { Shell } from '../shell/Shell'
import { useNotices } from '../state/noticeStore'
import { useServer } from '../state/serverStore'
import { Button } from '../ui/controls'
import { Tokens } from './Tokens'

/** Who may come in: the password, and tokens for programs. */
export function AccessView() {
  const session = useQuery({ queryKey: keys.session, queryFn: api.readSession })
  return (
    <Shell crumbs={[{ label: 'Projects', to: '/' }, { label: 'Access' }]}>
      <main className="min-h-0 flex-1 overflow-auto px-6 py-5">
        <h1 className="mb-4 text-2xl figure-face">Access</h1>
        <section
          aria-labelledby="sign-in"
          className="mb-5 max-w-3xl rounded-lg border border-line bg-sheet p-4"
        >
          <h2 id="sign-in" className="mb-1 text-base font-semibold">
            Sign-in
          </h2>
          {session.data && <SignInState required={session.data.required} />}
        </section>
        <div className="max-w-3xl">
          <Tokens use="program" title="API tokens" action="Create token">
            Programs, such as Telon’s command line, need a token to upload or change anything. A
            token can do everything that you can. Revoke those you no longer use. Machines that
            render have tokens of their own, under{' '}
            <Link to="/work" className="underline">
              Work
            </Link>
            .
          </Tokens>
        </div>
      </main>
    </Shell>
  )
}

function SignInState({ required }: { required: boolean }) {
  const tell = useNotices((state) => state.tell)
  const onSignInNeeded = useServer((state) => state.onSignInNeeded)
  if (!required) {
    return (
      <p className="text-muted">
        No password is set: everyone who reaches this machine’s loopback address can use Telon. Set
        TELON_PASSWORD before you serve it to a network.
      </p>
    )
  }
  const signOut = (): void =>
    void api.signOut().then(onSignInNeeded, (error: unknown) => tell(messageOf(error)))
  return (
    <div className="flex items-center justify-between gap-3">
      <p className="text-muted">A password is set, and you are signed in on this browser.</p>
      <Button onClick={signOut}>
        <LogOut className="size-4" aria-hidden />
        Sign out
      </Button>
    </div>
  )
}
