import { useServer } from '../state/serverStore'
import { Button } from '../ui/controls'

/** What the designer should know of server and browser before anything else is done. */
export function ServerNotices() {
  const outdated = useServer((state) => state.outdated)
  return (
    <>
      {outdated && (
        <p role="alert" className="flex flex-wrap items-center gap-3 bg-ink px-4 py-1.5 text-white">
          Telon was updated on the server. Reload this page to continue with the new version; your
          changes are kept.
          <Button
            className="min-h-7! border-white/60 bg-transparent! text-white"
            onClick={() => location.reload()}
          >
            Reload page
          </Button>
        </p>
      )}
      {!window.isSecureContext && (
        <p role="alert" className="bg-look px-4 py-1.5 text-white">
          This address is not secure, so the browser gives no access to video decoding and encoding.
          Open Telon over https, or on localhost, to measure clips and render files.
        </p>
      )}
    </>
  )
}
