import { ChevronRight, UploadCloud } from 'lucide-react'
import { Fragment, useEffect, type ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import { useUploads } from '../state/uploadStore'
import { Button } from '../ui/controls'
import { refuseStrayFiles } from '../ui/refuseStrayFiles'
import { Notices } from './Notices'
import { ServerNotices } from './ServerNotices'

/** One step of where you are. */
export interface Crumb {
  readonly label: string
  readonly to?: string
}

/** The header of every view, and the uploads in progress. */
export function Shell({
  crumbs,
  actions,
  children,
}: {
  crumbs: readonly Crumb[]
  actions?: ReactNode
  children: ReactNode
}) {
  useEffect(() => refuseStrayFiles(window), [])
  return (
    <div className="flex h-full flex-col">
      <header
        aria-label="Telon"
        className="flex min-h-11 shrink-0 flex-wrap items-center justify-between gap-x-4 gap-y-1 border-b border-line bg-paper px-3.5 py-1"
      >
        <nav aria-label="Where you are" className="flex min-w-0 items-center gap-1.5">
          <Link to="/" className="flex items-center gap-2 pr-2 text-base font-bold">
            <Mark />
            Telon
          </Link>
          {crumbs.map((crumb, index) => (
            <Fragment key={index}>
              <ChevronRight className="size-3.5 shrink-0 text-muted" aria-hidden />
              {crumb.to ? (
                <Link
                  to={crumb.to}
                  title={crumb.label}
                  className={`text-muted hover:text-ink hover:underline ${fitting(crumb.label)}`}
                >
                  {crumb.label}
                </Link>
              ) : (
                <span
                  title={crumb.label}
                  className={`font-semibold ${fitting(crumb.label)}`}
                  aria-current="page"
                >
                  {crumb.label}
                </span>
              )}
            </Fragment>
          ))}
        </nav>
        <div className="flex items-center gap-2">
          <UploadChip />
          {actions}
        </div>
      </header>
      <ServerNotices />
      {children}
      <Notices />
    </div>
  )
}

function Mark() {
  return (
    <svg viewBox="0 0 32 32" className="size-6" aria-hidden>
      <rect width="32" height="5" rx="1.5" className="fill-curtain" />
      <path
        d="M3 5h8c1 9-1 17-7 23H2c2-8 2-15 1-23zM29 5h-8c-1 9 1 17 7 23h2c-2-8-2-15-1-23z"
        className="fill-curtain"
      />
      <circle cx="16" cy="19" r="4" fill="#e0996a" />
    </svg>
  )
}

/** How the uploads stand, wherever you are; leads to their shelf. */
function UploadChip() {
  const items = useUploads((state) => state.items)
  const navigate = useNavigate()
  const active = items.filter((item) =>
    ['sending', 'waiting', 'reading', 'checking'].includes(item.state),
  )
  const [first] = active
  if (!first) return null
  const total = active.reduce((sum, item) => sum + item.bytes, 0)
  const sent = active.reduce((sum, item) => sum + item.sent, 0)
  return (
    <Button tone="quiet" onClick={() => void navigate(`/projects/${first.projectId}/shelf`)}>
      <UploadCloud className="size-4" aria-hidden />
      {active.length} uploading, {Math.round((sent / Math.max(1, total)) * 100)} %
    </Button>
  )
}

/** Shown if a view could not be loaded. */
export function Problem({ message, onRetry }: { message: string; onRetry?: () => void }) {
  return (
    <div
      role="alert"
      className="mx-auto my-12 flex max-w-md flex-col items-center gap-4 text-center"
    >
      <p className="text-base">{message}</p>
      <div className="flex gap-2">
        {onRetry && <Button onClick={onRetry}>Try again</Button>}
        <Link
          to="/"
          className="inline-flex min-h-8 items-center rounded border border-line-strong/60 bg-sheet px-3 font-medium"
        >
          All projects
        </Link>
      </div>
    </div>
  )
}

/** Shown while a view is loading. */
export function Loading() {
  return (
    <p role="status" className="p-12 text-center text-muted">
      Loading …
    </p>
  )
}

const SHORT_LABEL_CHARS = 16

/** Where there is little room, long names are cut; short ones only on small screens. */
function fitting(label: string): string {
  return label.length <= SHORT_LABEL_CHARS ? 'truncate md:shrink-0' : 'min-w-12 truncate'
}
