import { useWork } from '../../state/workStore'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { classServing } from '../../../core/backdrop/recipe'
import { SCREENS } from '../../../core/fit/screens'
import { visitModes } from '../../../core/kinds/slideshow/visitModes'
import { DECK_SHELL } from '../../rooms/Room'
import { useWeightView } from '../../rooms/weight/weightView'
import type { LoadedSources } from '../../state/loadedSources'
import { formatBytes, PICTURE_NAMES } from '../../ui/format'
import { Table } from '../../ui/Table'
import { slideSums, weighedSlides } from './slideWeights'

/** What each kind of visit downloads of live slides, in the browsers of each format. */
export function SlideVisits({
  document,
  sources,
}: {
  document: DocumentOf<'slideshow'>
  sources: LoadedSources
}) {
  const made = useWork((state) => state.made)
  const screenClass = useWeightView((state) => state.screenClass)
  const all = slideSums(document, weighedSlides(document, sources.known, made))
  const served = classServing(
    screenClass,
    all.map((each) => each.screenClass),
  )
  const sums = all.filter((each) => each.screenClass === served)
  const rows = visitModes(document).map(({ name, slides, because }, index) => [
    name,
    slides[0]!.length === 1 ? 'slide 1' : `${slides[0]!.length} slides`,
    ...sums.map(({ modes }) => formatBytes(modes[index]!.bytes)),
    because,
  ])
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="What visits download">
      <p className="mb-1 text-xs text-muted">
        {sums.length > 0
          ? `With page, style and script, on ${SCREENS[screenClass].label.toLowerCase()} screens; where any slide may come second, the heaviest is counted.`
          : 'Bytes are known once all slides are rendered.'}
      </p>
      <Table
        label="What visits download"
        head={[
          'Visit',
          'Pictures',
          ...sums.map(({ format }) => `Browsers with ${PICTURE_NAMES[format]}`),
          'Why',
        ]}
        rows={rows}
      />
    </div>
  )
}
