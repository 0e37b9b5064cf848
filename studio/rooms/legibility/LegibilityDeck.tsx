import { useState } from 'react'
import { DeckTabs } from '../../ui/DeckTabs'
import { Table } from '../../ui/Table'
import { DECK_SHELL, type DeckProps } from '../Room'
import { ContrastOverTime } from './ContrastOverTime'
import { ContrastTable } from './ContrastTable'

/** The contrast of all copy over all frames, and how it is measured. */
export function LegibilityDeck(props: DeckProps) {
  const [view, setView] = useState<'time' | 'table' | 'how'>('time')
  return (
    <DeckTabs
      view={view}
      onChange={setView}
      views={{
        time: { label: 'Over time', draw: () => <ContrastOverTime {...props} /> },
        table: { label: 'Text × screen', draw: () => <ContrastTable {...props} /> },
        how: {
          label: 'How it is measured',
          draw: () => <HowMeasured document={props.document} />,
        },
      }}
    />
  )
}

const WHAT =
  'Every text and control over every frame, laid out as on each screen: the base, particles that are drawn live, then the scrim. The worst times of each are checked at full size.'
const IN_PLACE =
  ' An image that stays in place is measured as it is seen when its region has come to the top of the window.'

function HowMeasured({ document }: Pick<DeckProps, 'document'>) {
  const { base } = document
  const what = base.kind === 'image' && base.scrolling === 'fixed' ? WHAT + IN_PLACE : WHAT
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
