import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { baseOnScreen } from '../../../core/backdrop/contrastBase'
import { useOutputFrames } from '../../clip/useOutputFrames'
import type { LoadedSources } from '../../state/loadedSources'
import { useStage } from '../../state/stageStore'
import { usePicture } from '../../ui/usePicture'

/** Pictures along the time of the chart above. */
const PICTURES = 12
const WIDTH = 112

/** What is seen along the loop, below the chart; nothing where it stands still. */
export function ContrastFilm({
  document,
  sources,
  onGo,
}: {
  document: BackdropDocument
  sources: LoadedSources
  /** Takes the stage to a moment by its number. */
  onGo: (moment: number) => void
}) {
  const screen = useStage((state) => state.screen)
  // The frames that were measured, in their order.
  const sequence = baseOnScreen(document, sources.known, screen)?.sequence ?? null
  const frames = sequence?.frames ?? 0
  const numbers =
    frames > 1
      ? Array.from({ length: Math.min(PICTURES, frames) }, (_, index) =>
          Math.round(((index + 0.5) * frames) / Math.min(PICTURES, frames) - 0.5),
        )
      : []
  const { pictures } = useOutputFrames(
    numbers.length > 0 ? sequence : null,
    sources.places,
    numbers,
    WIDTH,
  )
  if (numbers.length === 0) return null
  return (
    <div className="flex h-9 shrink-0 pr-2 pl-[38px]" role="group" aria-label="Frames of the loop">
      {numbers.map((number, index) => (
        <button
          key={number}
          type="button"
          tabIndex={-1}
          aria-label={`Frame ${number + 1}`}
          className="min-w-0 flex-1 overflow-hidden bg-surround/40"
          onClick={() => onGo(number)}
        >
          <Picture picture={pictures?.[index] ?? null} />
        </button>
      ))}
    </div>
  )
}

function Picture({ picture }: { picture: ImageBitmap | null }) {
  const canvas = usePicture(picture)
  return <canvas ref={canvas} aria-hidden className="size-full object-cover" />
}
