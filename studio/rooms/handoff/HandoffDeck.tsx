import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { shortId } from '../../../core/handoff/deliveredFiles'
import { emitFragment, textFiles } from '../../../core/handoff/emitHandoff'
import type { LoadedSources } from '../../state/loadedSources'
import { useMarkup } from '../../state/markupStore'
import { useWork } from '../../state/workStore'
import { formatBytes } from '../../ui/format'
import { Table } from '../../ui/Table'
import { deliveredMedia } from './deliveredMedia'

const shell = 'h-full overflow-auto px-4 py-2.5'

/** The folder's files with their bytes, and the markup to paste. */
export function HandoffDeck({
  document,
  sources,
  backdropId,
}: {
  document: BackdropDocument
  sources: LoadedSources
  backdropId: string
}) {
  const made = useWork((state) => state.made)
  const form = useMarkup((state) => state.form)
  const id = shortId(backdropId)
  const { media, files } = deliveredMedia(backdropId, document, sources, made)
  const name = (path: string) => (
    <code key="p" className="font-mono text-xs">
      {path}
    </code>
  )
  return (
    <div className="grid h-full grid-cols-1 md:grid-cols-2">
      <div className={shell} tabIndex={0} role="region" aria-label="Files of the folder">
        <Table
          label="Files of the folder"
          head={['File', 'Bytes or use']}
          rows={[
            ...files.map(({ path, sha256, bytes }) => [
              name(path),
              sha256 === null ? 'not rendered yet' : formatBytes(bytes),
            ]),
            ...textFiles(id, document).map(({ path, use }) => [name(path), use]),
          ]}
        />
      </div>
      <pre
        className={`${shell} bg-sheet font-mono text-[0.72rem] leading-relaxed`}
        tabIndex={0}
        role="region"
        aria-label="Markup to paste"
      >
        {emitFragment(id, document, media, form)}
      </pre>
    </div>
  )
}
