import { useState } from 'react'
import { isMeasured } from '../../../core/backdrop/contrastBase'
import { DeckTabs } from '../../ui/DeckTabs'
import { Table } from '../../ui/Table'
import { DECK_SHELL, type DeckProps } from '../Room'
import { ContrastOverTime } from './ContrastOverTime'
import { ContrastTable } from './ContrastTable'

/** The contrast of all copy over all frames, and how it is measured. */
export function LegibilityDeck(props: DeckProps) {
  const [view, setView] = useState<'time' | 'table' | 'how'>('time')
  const { document } = props
  // What the style moves or places itself is no sequence of frames.
  if (!isMeasured(document.base))
    return (
      <HowMeasured
        document={document}
        what="The heading’s words over what the stage shows now, under the scrim. It follows what moves; other moments are not included."
      />
    )
  return (
    <DeckTabs
      view={view}
      onChange={setView}
      views={{
        time: { label: 'Over time', draw: () => <ContrastOverTime {...props} /> },
        table: { label: 'Text × screen', draw: () => <ContrastTable {...props} /> },
        how: {
          label: 'How it is measured',
          draw: () => (
            <HowMeasured
              document={document}
              what="Every text and control over every frame, laid out as on each screen: the base, particles that are drawn live, then the scrim. The worst times of each are checked at full size."
            />
          ),
        },
      }}
    />
  )
}

function HowMeasured({ document, what }: Pick<DeckProps, 'document'> & { what: string }) {
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="How contrast is measured">
      <Table
        label="How contrast is measured"
        head={['What', 'How']}
        rows={[
          ['Measured', what],
          [
            'Figure',
            'WCAG 2.2 contrast ratio of the 5th percentile cell: nearly the worst place behind a text, or around the button, averaged over 4 px.',
          ],
          [
            'Needed',
            '3 : 1 for large text (24 px, or 18.7 px bold) and for the button against what is around it, 4.5 : 1 for smaller text.',
          ],
          [
            'Copy colour',
            <span key="c" className="inline-flex items-center gap-2">
              <i
                className="inline-block size-3.5 border border-ink/30"
                style={{ background: document.copy.color }}
              />
              {document.copy.color}
            </span>,
          ],
        ]}
      />
    </div>
  )
}
