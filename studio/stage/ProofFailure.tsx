import { Link } from 'react-router'
import { useBackdrop } from '../state/backdropStore'
import type { Job } from '../state/workStore'
import { Button } from '../ui/controls'

/** Why there is no proof, over the best picture there is, with the way on. */
export function ProofFailure({ proof, onRetry }: { proof: Job; onRetry: () => void }) {
  const backdropId = useBackdrop((state) => state.record?.id)
  return (
    <div
      role="alert"
      className="absolute bottom-3 left-1/2 z-10 flex max-h-[calc(100%-1.5rem)] w-[min(34rem,calc(100%-1.5rem))] -translate-x-1/2 flex-col items-start gap-2.5 overflow-auto rounded border-l-4 border-fix bg-sheet p-3 shadow-xl"
    >
      <p className="max-w-full break-words">
        <b className="font-semibold">The proof could not be rendered.</b> {proof.message}
      </p>
      {proof.cannotDecode ? (
        <Link
          to={`/backdrops/${backdropId}/material`}
          className="inline-flex min-h-8 items-center rounded bg-curtain px-3 py-1 font-medium text-white hover:bg-curtain-deep"
        >
          Choose another clip
        </Link>
      ) : (
        <Button tone="accent" onClick={onRetry}>
          Try again
        </Button>
      )}
    </div>
  )
}
