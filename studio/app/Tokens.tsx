import { useQuery } from '@tanstack/react-query'
import { Copy, Plus } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import type { ApiToken, TokenUse } from '../../core/api/access'
import { api } from '../api/client'
import { keys, queries } from '../api/queries'
import { Loading, Problem } from '../shell/Shell'
import { useNotices } from '../state/noticeStore'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button } from '../ui/controls'
import { formatDate } from '../ui/format'
import { Panel } from './Panel'

const reload = (): Promise<void> => queries.invalidateQueries({ queryKey: keys.tokens })

/** The tokens of one use: listed, made and revoked. */
export function Tokens({
  use,
  title,
  action,
  children,
}: {
  use: TokenUse
  title: string
  action: string
  children: ReactNode
}) {
  const tokens = useQuery({ queryKey: keys.tokens, queryFn: api.listTokens })
  const [adding, setAdding] = useState(false)
  const [revoking, setRevoking] = useState<ApiToken | null>(null)
  const own = tokens.data?.filter((token) => token.use === use)
  return (
    <Panel
      id="tokens"
      title={title}
      aside={
        <Button onClick={() => setAdding(true)}>
          <Plus className="size-4" aria-hidden />
          {action}
        </Button>
      }
    >
      <p className="mb-3 text-muted">{children}</p>
      {tokens.isPending && <Loading />}
      {tokens.error && (
        <Problem message={tokens.error.message} onRetry={() => void tokens.refetch()} />
      )}
      {own && <TokenTable tokens={own} onRevoke={setRevoking} />}
      {adding && <CreateToken use={use} onClose={() => setAdding(false)} onCreated={reload} />}
      {revoking && (
        <AskDialog
          title={`Revoke ${revoking.name}?`}
          action="Revoke token"
          danger
          onClose={() => setRevoking(null)}
          onAct={() => api.revokeToken(revoking.id).then(reload)}
        >
          <p>
            {use === 'worker'
              ? 'Render workers that use it end, and what they render goes to others.'
              : 'Programs that use it are refused from now on.'}{' '}
            This cannot be undone; a new token can be created.
          </p>
        </AskDialog>
      )}
    </Panel>
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
          <th className="font-normal">Created</th>
          <th className="font-normal">Last used</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {tokens.map((token) => (
          <tr key={token.id} className="border-t border-line">
            <td className="py-1.5 pr-3 font-medium wrap-anywhere">{token.name}</td>
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

/** Names a token, then shows its secret once. */
function CreateToken({
  use,
  onClose,
  onCreated,
}: {
  use: TokenUse
  onClose: () => void
  onCreated: () => Promise<void>
}) {
  const [name, setName] = useState('')
  const [secret, setSecret] = useState<string | null>(null)
  const tell = useNotices((state) => state.tell)
  if (secret === null) {
    return (
      <AskDialog
        title={use === 'worker' ? 'Add a machine' : 'Create an API token'}
        action="Create token"
        keepOpen
        onClose={onClose}
        onAct={async () => {
          setSecret((await api.createToken(name, use)).secret)
          await onCreated()
        }}
      >
        <TextLine
          label={use === 'worker' ? 'Name of the machine' : 'What it is for'}
          value={name}
          onChange={setName}
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
      title={isWorker ? 'Run this on the machine' : 'Your new token'}
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
