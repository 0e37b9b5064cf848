import { X } from 'lucide-react'
import { messageOf } from '../api/client'
import { useNotices } from '../state/noticeStore'
import { Button } from '../ui/controls'

/** What was just done, at the foot of the window, with undo. */
export function Notices() {
  const { notices, dismiss, tell } = useNotices()
  return (
    <div
      role="status"
      aria-label="Notices"
      className="pointer-events-none fixed inset-x-0 bottom-4 z-50 flex flex-col items-center gap-2"
    >
      {notices.map((notice) => (
        <div
          key={notice.id}
          className="pointer-events-auto flex max-w-xl items-center gap-3 rounded-lg bg-ink py-1.5 pr-1.5 pl-4 text-white shadow-xl"
        >
          <span>{notice.text}</span>
          {notice.undo && (
            <Button
              tone="quiet"
              className="text-[#f5c9b4] underline hover:bg-white/10"
              onClick={() => {
                dismiss(notice.id)
                notice.undo!().catch((error: unknown) => tell(messageOf(error)))
              }}
            >
              Undo
            </Button>
          )}
          <Button
            tone="quiet"
            className="px-1.5! hover:bg-white/10"
            aria-label="Dismiss"
            onClick={() => dismiss(notice.id)}
          >
            <X className="size-4" aria-hidden />
          </Button>
        </div>
      ))}
    </div>
  )
}
