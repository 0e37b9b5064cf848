import { useEffect } from 'react'
import type { ClipSource } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { useStage } from '../../../state/stageStore'
import { DeckTabs } from '../../../ui/DeckTabs'
import { useDeckView } from './deckView'
import { Filmstrip } from './Filmstrip'
import { LoopFinder } from './LoopFinder'
import { PosterView } from './PosterView'
import { SeamView } from './SeamView'

interface Props {
  readonly document: FootageDocument
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
  return (
    <DeckTabs
      view={view}
      onChange={open}
      views={{
        filmstrip: {
          label: 'Filmstrip',
          draw: () => <Filmstrip document={document} source={source} />,
        },
        seam: { label: 'Seam', draw: () => <SeamView document={document} source={source} /> },
        loops: {
          label: 'Find loop',
          draw: () => <LoopFinder document={document} source={source} />,
        },
        poster: { label: 'Poster', draw: () => <PosterView document={document} source={source} /> },
      }}
    />
  )
}
