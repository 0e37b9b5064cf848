import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { picturesOf } from '../../../core/backdrop/recipe'
import { hasClips } from '../../../core/kinds'
import type { LoadedSources } from '../../state/loadedSources'
import { DECK_SHELL } from '../Room'
import { DeckTabs } from '../../ui/DeckTabs'
import { CloserLook } from './CloserLook'
import { FilesTable, FilesView } from './FilesView'
import { LoadView } from './LoadView'
import { SecondsView } from './SecondsView'
import { useWeightView } from './weightView'

/**
 * The deck of Weight: files beside quality against bytes, where in the loop the bytes are, and what
 * a visitor waits for.
 */
export function WeightDeck({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const { view, set, closer } = useWeightView()
  if (!hasClips(document.base)) return <PicturesDeck document={document} sources={sources} />
  return (
    <>
      <DeckTabs
        view={view}
        onChange={(next) => set({ view: next })}
        views={{
          files: {
            label: 'Files and quality',
            draw: () => <FilesView document={document} sources={sources} />,
          },
          seconds: {
            label: 'Bytes over the loop',
            draw: () => <SecondsView document={document} sources={sources} />,
          },
          load: {
            label: 'First load',
            draw: () => <LoadView document={document} sources={sources} />,
          },
        }}
      />
      {closer && (
        <CloserLook
          document={document}
          sources={sources}
          first={closer}
          onClose={() => set({ closer: null })}
        />
      )}
    </>
  )
}

/** The deck of a base without clips: its pictures, and what a visitor waits for. */
function PicturesDeck({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const { view, set } = useWeightView()
  if (!picturesOf(document))
    return (
      <div className={`${DECK_SHELL} text-muted`}>
        There are no files: visitors see it with the style, before any picture could have come.
      </div>
    )
  return (
    <DeckTabs
      view={view === 'load' ? 'load' : 'files'}
      onChange={(next) => set({ view: next })}
      views={{
        files: {
          label: 'Files and quality',
          draw: () => <FilesTable document={document} sources={sources} />,
        },
        load: {
          label: 'First load',
          draw: () => <LoadView document={document} sources={sources} />,
        },
      }}
    />
  )
}
