import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react'
import { useEffect } from 'react'
import type { ClipSource } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { useStage } from '../../state/stageStore'
import { DECK_VIEWS, useDeckView, type DeckView } from './deckView'
import { Filmstrip } from './Filmstrip'
import { LoopFinder } from './LoopFinder'
import { SeamView } from './SeamView'
import { PosterView } from './PosterView'

const LABELS: Record<DeckView, string> = {
  filmstrip: 'Filmstrip',
  seam: 'Seam',
  loops: 'Find loop',
  poster: 'Poster',
}

interface Props {
  readonly document: BackdropDocument
  readonly source: ClipSource
}

/**
 * The deck of Timing: the filmstrip with the cut, the loop point in close-up, loops that were
 * found, and the poster beside the first frame.
 */
export function TimingDeck({ document, source }: Props) {
  const { view, open } = useDeckView()
  // A parked frame belongs to this deck: whoever leaves it gets the playing stage back.
  useEffect(() => () => useStage.getState().set({ scrub: null, scrubbing: false, held: null }), [])
  const views: Record<DeckView, () => React.JSX.Element> = {
    filmstrip: () => <Filmstrip document={document} source={source} />,
    seam: () => <SeamView document={document} source={source} />,
    loops: () => <LoopFinder document={document} source={source} />,
    poster: () => <PosterView document={document} source={source} />,
  }
  return (
    <TabGroup
      selectedIndex={DECK_VIEWS.indexOf(view)}
      onChange={(index) => open(DECK_VIEWS[index]!)}
      className="flex h-full flex-col"
    >
      <TabList className="flex shrink-0 gap-1 px-3 pt-1" aria-label="Views of the deck">
        {DECK_VIEWS.map((each) => (
          <Tab
            key={each}
            className="rounded-t border-b-2 border-transparent px-2 py-0.5 text-[0.82rem] data-selected:border-curtain data-selected:font-semibold"
          >
            {LABELS[each]}
          </Tab>
        ))}
      </TabList>
      <TabPanels className="min-h-0 flex-1">
        {DECK_VIEWS.map((each) => (
          <TabPanel key={each} tabIndex={-1} className="h-full">
            {view === each && views[each]()}
          </TabPanel>
        ))}
      </TabPanels>
    </TabGroup>
  )
}
