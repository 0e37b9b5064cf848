import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react'
import type { ClipSource } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { CloserLook } from './CloserLook'
import { FilesView } from './FilesView'
import { LoadView } from './LoadView'
import { SecondsView } from './SecondsView'
import { useWeightView, WEIGHT_VIEWS } from './weightView'

const LABELS = {
  files: 'Files and quality',
  seconds: 'Bytes over the loop',
  load: 'First load',
} as const

/**
 * The deck of Weight: files beside quality against bytes, where in the loop the bytes are, and what
 * a visitor waits for.
 */
export function WeightDeck({
  document,
  source,
}: {
  document: BackdropDocument
  source: ClipSource
}) {
  const { view, set, closer } = useWeightView()
  const views = {
    files: () => <FilesView document={document} source={source} />,
    seconds: () => <SecondsView document={document} source={source} />,
    load: () => <LoadView document={document} source={source} />,
  }
  return (
    <>
      <TabGroup
        selectedIndex={WEIGHT_VIEWS.indexOf(view)}
        onChange={(index) => set({ view: WEIGHT_VIEWS[index]! })}
        className="flex h-full flex-col"
      >
        <TabList className="flex shrink-0 gap-1 px-3 pt-1" aria-label="Views of the deck">
          {WEIGHT_VIEWS.map((each) => (
            <Tab
              key={each}
              className="rounded-t border-b-2 border-transparent px-2 py-0.5 text-[0.82rem] data-selected:border-curtain data-selected:font-semibold"
            >
              {LABELS[each]}
            </Tab>
          ))}
        </TabList>
        <TabPanels className="min-h-0 flex-1">
          {WEIGHT_VIEWS.map((each) => (
            <TabPanel key={each} tabIndex={-1} className="h-full">
              {view === each && views[each]()}
            </TabPanel>
          ))}
        </TabPanels>
      </TabGroup>
      {closer && (
        <CloserLook
          document={document}
          source={source}
          first={closer}
          onClose={() => set({ closer: null })}
        />
      )}
    </>
  )
}
