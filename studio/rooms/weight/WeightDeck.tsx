import { rendersClips, picturesOf } from '../../../core/backdrop/delivered'
import { DECK_SHELL, type DeckProps } from '../Room'
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
export function WeightDeck({ document, sources, Visits }: DeckProps) {
  const { view, set, closer } = useWeightView()
  if (!rendersClips(document))
    return <PicturesDeck document={document} sources={sources} Visits={Visits} />
  return (
    <>
      <DeckTabs
        view={view === 'visits' ? 'files' : view}
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
function PicturesDeck({ document, sources, Visits }: Omit<DeckProps, 'backdropId'>) {
  const { view, set } = useWeightView()
  if (!picturesOf(document))
    return (
      <div className={`${DECK_SHELL} text-muted`}>
        There are no files: visitors see it with the style, before any picture could have come.
      </div>
    )
  const views = {
    files: {
      label: 'Files and quality',
      draw: () => <FilesTable document={document} sources={sources} />,
    },
    load: {
      label: 'First load',
      draw: () => <LoadView document={document} sources={sources} />,
    },
  }
  if (!Visits)
    return (
      <DeckTabs
        view={view === 'load' ? 'load' : 'files'}
        onChange={(next) => set({ view: next })}
        views={views}
      />
    )
  const visits = {
    label: 'Visits',
    draw: () => <Visits document={document} sources={sources} />,
  }
  return (
    <DeckTabs
      view={view === 'seconds' ? 'files' : view}
      onChange={(next) => set({ view: next })}
      views={{ ...views, visits }}
    />
  )
}
