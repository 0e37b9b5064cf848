import type { Project, Source } from '../../core/api/wire'
import { api } from '../api/client'
import { nameFromFile } from './describe'
import { SpotDialog } from './SpotDialog'

/**
 * Makes a backdrop of a clip or an image in a spot; a clip begins with the part that is free of
 * cards, black and cuts.
 */
export function UseDialog({
  project,
  source,
  onClose,
  onMade,
}: {
  project: Project
  source: Source
  onClose: () => void
  onMade: (id: string) => void
}) {
  const usable = source.analysis?.usable
  return (
    <SpotDialog
      project={project}
      title={`Make a backdrop of ${source.name}`}
      firstName={nameFromFile(source.name)}
      onClose={onClose}
      onMake={async (spot, name) =>
        onMade((await api.createBackdrop(spot, { name, sourceId: source.id })).id)
      }
      note={
        usable && (
          <p className="text-muted">
            It starts with {(usable.startMs / 1000).toFixed(2)} to{' '}
            {(usable.endMs / 1000).toFixed(2)} s, at most ten seconds: the part without title cards,
            black and cuts.
          </p>
        )
      }
    />
  )
}
