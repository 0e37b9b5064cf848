import { X } from 'lucide-react'
import type { UnfinishedUpload } from '../../core/api/wire'
import { api, messageOf } from '../api/client'
import { useNotices } from '../state/noticeStore'
import { useUploads, type UploadItem } from '../state/uploadStore'
import { Button, Progress } from '../ui/controls'
import { formatBytes, formatLeft } from '../ui/format'
import { factLines } from './describe'

/** Files on their way to the shelf, and those that stopped on the way. */
export function Uploads({
  items,
  resting,
  onPick,
  onGone,
}: {
  items: readonly UploadItem[]
  resting: readonly UnfinishedUpload[]
  onPick: () => void
  onGone: () => void
}) {
  if (items.length === 0 && resting.length === 0) return null
  return (
    <ul aria-label="Uploads" className="mb-5 flex flex-col gap-2">
      {items.map((item) => (
        <UploadRow key={item.id} item={item} />
      ))}
      {resting.map((upload) => (
        <RestingRow key={upload.id} upload={upload} onPick={onPick} onGone={onGone} />
      ))}
    </ul>
  )
}

function UploadRow({ item }: { item: UploadItem }) {
  const { cancel, retry, dismiss } = useUploads()
  const left = item.rate ? (item.bytes - item.sent) / item.rate : NaN
  const refused = item.state === 'refused' || item.state === 'failed'
  return (
    <li className={`rounded border bg-sheet px-3 py-2 ${refused ? 'border-fix' : 'border-line'}`}>
      <div className="flex flex-wrap items-center justify-between gap-2">
        <span className="font-medium">
          {item.name}{' '}
          <span className="font-normal text-muted">
            {formatBytes(item.bytes)}
            {item.facts ? `, ${factLines({ facts: item.facts })[0]}` : ''}
          </span>
        </span>
        <span className="flex items-center gap-2 text-xs">
          {item.state === 'reading' && 'reading …'}
          {item.state === 'sending' &&
            `${Math.round((item.sent / item.bytes) * 100)} %${item.rate ? `, ${formatBytes(item.rate)} a second, ${formatLeft(left)}` : ''}`}
          {item.state === 'checking' && 'being checked …'}
          {item.state === 'done' && 'on the shelf'}
          {item.state === 'failed' && <Button onClick={() => retry(item.id)}>Go on</Button>}
          {item.state === 'done' || item.state === 'refused' ? (
            <Button
              tone="quiet"
              aria-label={`Dismiss ${item.name}`}
              onClick={() => dismiss(item.id)}
            >
              <X className="size-4" aria-hidden />
            </Button>
          ) : (
            <Button tone="quiet" aria-label={`Cancel ${item.name}`} onClick={() => cancel(item.id)}>
              Cancel
            </Button>
          )}
        </span>
      </div>
      {!refused && (
        <div className="mt-1.5">
          <Progress
            value={item.state === 'done' ? 1 : item.sent / Math.max(1, item.bytes)}
            label={`Upload of ${item.name}`}
          />
        </div>
      )}
      {item.message && (
        <p role="alert" className={`mt-1 text-[0.82rem] ${refused ? 'text-fix' : ''}`}>
          {item.message}
        </p>
      )}
    </li>
  )
}

/**
 * An upload whose tab was closed: the file must be chosen again, and the upload continues where it
 * stopped.
 */
function RestingRow({
  upload,
  onPick,
  onGone,
}: {
  upload: UnfinishedUpload
  onPick: () => void
  onGone: () => void
}) {
  const tell = useNotices((state) => state.tell)
  const discard = async (): Promise<void> => {
    try {
      await api.discardUpload(upload.id)
    } catch (error) {
      tell(messageOf(error))
    }
    onGone()
  }
  return (
    <li className="flex flex-wrap items-center justify-between gap-2 rounded border border-line bg-sheet px-3 py-2">
      <span>
        <b className="font-medium">{upload.filename}</b>{' '}
        <span className="text-muted">
          stopped at {Math.round((upload.received / Math.max(1, upload.bytes)) * 100)} % of{' '}
          {formatBytes(upload.bytes)}. Add the same file again to continue.
        </span>
      </span>
      <span className="flex gap-2">
        <Button onClick={onPick}>Choose the file</Button>
        <Button tone="quiet" onClick={() => void discard()}>
          Discard
        </Button>
      </span>
    </li>
  )
}
