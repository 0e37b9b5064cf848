import { useQuery } from '@tanstack/react-query'
import { Copy, LogOut, Plus } from 'lucide-react'
import { useState } from 'react'
import type { ApiToken, TokenUse } from '../../core/api/access'
import { api, messageOf } from '../api/client'
import { keys, queries } from '../api/queries'
import { Loading, Problem, Shell } from '../shell/Shell'
import { useNotices } from '../state/noticeStore'
import { useServer } from '../state/serverStore'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button, Choice } from '../ui/controls'
import { formatDate } from '../ui/format'

/** Who may come in: the password, and tokens for programs. */
export function AccessView() {
  const session = useQuery({ queryKey: keys.session, queryFn: api.readSession })
  const tokens = useQuery({ queryKey: keys.tokens, queryFn: api.listTokens })
  const [adding, setAdding] = useState(false)
  const [revoking, setRevoking] = useState<ApiToken | null>(null)
  const reload = (): Promise<void> => queries.invalidateQueries({ queryKey: keys.tokens })
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
        <section
          aria-labelledby="tokens"
          className="max-w-3xl rounded-lg border border-line bg-sheet p-4"
        >
          <div className="mb-2 flex items-baseline justify-between gap-3">
            <h2 id="tokens" className="text-base font-semibold">
              API tokens
            </h2>
            <Button onClick={() => setAdding(true)}>
              <Plus className="size-4" aria-hidden />
              Create token
            </Button>
          </div>
          <p className="mb-3 text-muted">
            Programs, such as Telon’s command line, need a token to upload or change anything. A
            token can do everything that you can; one for a render worker renders, and no more.
            Revoke those you no longer use.
          </p>
          {tokens.isPending && <Loading />}
          {tokens.error && (
            <Problem message={tokens.error.message} onRetry={() => void tokens.refetch()} />
          )}
          {tokens.data && <TokenTable tokens={tokens.data} onRevoke={setRevoking} />}
        </section>
      </main>
      {adding && <CreateToken onClose={() => setAdding(false)} onCreated={reload} />}
      {revoking && (
        <AskDialog
          title={`Revoke ${revoking.name}?`}
          action="Revoke token"
          danger
          onClose={() => setRevoking(null)}
          onAct={() => api.revokeToken(revoking.id).then(reload)}
        >
          <p>
            Programs that use it are refused from now on. This cannot be undone; a new token can be
            created.
          </p>
        </AskDialog>
      )}
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

function TokenTable({
  tokens,
  onRevoke,
}: {
  tokens: readonly ApiToken[]
  onRevoke: (token: ApiToken) => void
}) {
  if (tokens.length === 0)
    return (
      <p className="rounded border border-dashed border-line-strong p-4 text-center">
        No tokens yet.
      </p>
    )
  return (
    <table className="w-full text-left">
      <thead className="text-xs text-muted">
        <tr>
          <th className="py-1 font-normal">Name</th>
          <th className="font-normal">For</th>
          <th className="font-normal">Created</th>
          <th className="font-normal">Last used</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {tokens.map((token) => (
          <tr key={token.id} className="border-t border-line">
            <td className="py-1.5 pr-3 font-medium wrap-anywhere">{token.name}</td>
            <td className="pr-3">{USES[token.use]}</td>
            <td className="pr-3">{formatDate(token.createdAt)}</td>
            <td>{token.usedAt ? formatDate(token.usedAt) : 'never'}</td>
            <td className="text-right">
              <Button
                tone="quiet"
                aria-label={`Revoke ${token.name}`}
                onClick={() => onRevoke(token)}
              >
                Revoke
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** What each kind of token is called in the list. */
const USES: Readonly<Record<TokenUse, string>> = {
  program: 'programs',
  worker: 'a render worker',
}

/** Names a token, then shows its secret once. */
function CreateToken({
  onClose,
  onCreated,
}: {
  onClose: () => void
  onCreated: () => Promise<void>
}) {
  const [name, setName] = useState('')
  const [use, setUse] = useState<TokenUse>('program')
  const [secret, setSecret] = useState<string | null>(null)
  const tell = useNotices((state) => state.tell)
  if (secret === null) {
    return (
      <AskDialog
        title="Create an API token"
        action="Create token"
        keepOpen
        onClose={onClose}
        onAct={async () => {
          setSecret((await api.createToken(name, use)).secret)
          await onCreated()
        }}
      >
        <TextLine label="What it is for" value={name} onChange={setName} />
        <Choice
          label="What it may do"
          value={use}
          onChange={setUse}
          options={[
            { value: 'program', label: 'Everything', note: 'programs, such as the command line' },
            { value: 'worker', label: 'Render', note: 'a render worker on another machine' },
          ]}
        />
      </AskDialog>
    )
  }
  const isWorker = use === 'worker'
  const shown = isWorker
    ? `npm run render-worker -- --server ${window.location.origin} --token ${secret}`
    : secret
  const copy = (): void =>
    void navigator.clipboard.writeText(shown).then(
      () => tell(isWorker ? 'Command copied.' : 'Token copied.'),
      () => tell('The browser does not allow copying here. Select the text and copy it.'),
    )
  return (
    <AskDialog
      title="Your new token"
      action="Done"
      tellsOnly
      onClose={onClose}
      onAct={async () => undefined}
    >
      <p>
        {isWorker
          ? 'Run this where Telon of the same version is, on any machine that reaches this server. Copy it now: it is not shown again.'
          : 'Copy it now: it is not shown again.'}
      </p>
      <div className="flex items-center gap-2">
        <code className="min-w-0 flex-1 rounded border border-line bg-white px-2.5 py-1.5 text-xs break-all select-all">
          {shown}
        </code>
        <Button onClick={copy}>
          <Copy className="size-4" aria-hidden />
          Copy
        </Button>
      </div>
    </AskDialog>
  )
}
