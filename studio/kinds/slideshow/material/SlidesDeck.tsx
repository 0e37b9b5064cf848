import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { CLASS_SCREENS } from '../../../../core/fit/screens'
import { describeSlideFinding, lightnessOf } from '../../../../core/kinds/slideshow/slideFindings'
import { DECK_SHELL, type DeckProps } from '../../../rooms/Room'
import { formatBytes } from '../../../ui/format'
import { Table } from '../../../ui/Table'
import { findingsOf, slidesOf } from '../slidesOf'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** What each image is, slide by slide. */
export function SlidesDeck({ document, sources }: Props) {
  const found = findingsOf(document, sources, CLASS_SCREENS.wide)
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Facts of the slides">
      <Table
        label="Facts of the slides"
        head={['Slide', 'Image', 'Size shown', 'Lightness', 'As added', 'Found']}
        rows={slidesOf(document, sources).map(({ number, source }) => {
          const lightness = lightnessOf(source?.analysis?.palette ?? [])
          return [
            String(number),
            source?.name ?? 'gone from the shelf',
            source ? `${source.facts.displayWidth} × ${source.facts.displayHeight}` : '–',
            lightness === null ? 'not measured' : `${Math.round(lightness * 100)} %`,
            source
              ? `${source.facts.format.toUpperCase()}, ${formatBytes(source.facts.bytes)}`
              : '–',
            found
              .filter(({ slide }) => slide === number - 1)
              .map((each) => describeSlideFinding(each).title)
              .join('; ') || 'nothing',
          ]
        })}
      />
    </div>
  )
}
