import { Table } from '../../ui/Table'
import { DECK_SHELL, type DeckProps } from '../Room'

/** Copy colour over the frame on stage. */
export function LegibilityDeck({ document }: DeckProps) {
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="How contrast is measured">
      <Table
        label="How contrast is measured"
        head={['What', 'How']}
        rows={[
          [
            'Measured',
            'The heading’s words over the frame on stage now, under the scrim. It follows while the clip plays. Other frames of the loop are not included.',
          ],
          [
            'Figure',
            'WCAG 2.2 contrast ratio of the 5th percentile cell: nearly the worst place behind the heading, averaged over 4 px.',
          ],
          ['Needed', '3 : 1 for large text (24 px, or 18.7 px bold), 4.5 : 1 for smaller text.'],
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
