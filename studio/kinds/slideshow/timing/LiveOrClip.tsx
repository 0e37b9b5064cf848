import { slideshowCost } from '../../../../core/kinds/slideshow/slideCost'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { firstVisits } from '../../../../core/backdrop/firstVisit'
import {
  classServing,
  clipRecipes,
  posterRecipes,
  recipeKey,
} from '../../../../core/backdrop/recipe'
import { deliveryAdvice } from '../../../../core/kinds/slideshow/deliveryAdvice'
import { slideCycle } from '../../../../core/kinds/slideshow/Slideshow'
import { DECK_SHELL, type DeckProps } from '../../../rooms/Room'
import { useBackdrop } from '../../../state/backdropStore'
import { useWork } from '../../../state/workStore'
import { DeliverButton } from '../../../ui/DeliverButton'
import { formatBytes } from '../../../ui/format'
import { Table } from '../../../ui/Table'
import { slideSums, weighedSlides } from '../slideWeights'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** What visitors get of images that are changed live, and of a clip of them. */
export function LiveOrClip({ document, sources }: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const made = useWork((state) => state.made)
  const { base } = document
  const advice = deliveryAdvice(base)
  const live = { ...document, base: { ...base, delivery: 'live' as const } }
  const clip = { ...document, base: { ...base, delivery: 'clip' as const } }
  const all = slideSums(live, weighedSlides(live, sources.known, made))
  const served = classServing(
    'laptop',
    all.map(({ screenClass }) => screenClass),
  )
  const sums = all.filter(({ screenClass }) => screenClass === served)
  const heaviest = sums.reduce<(typeof sums)[number] | null>(
    (most, each) => (most === null || each.cycle > most.cycle ? each : most),
    null,
  )
  const files = clipRecipes(clip, sources.known).map(({ screenClass, recipe }) => ({
    screenClass,
    family: recipe.family,
    bytes: made[recipeKey(recipe)]?.bytes ?? 0,
  }))
  const posters = posterRecipes(clip, sources.known).map(({ screenClass, recipe }) => ({
    screenClass,
    bytes: made[recipeKey(recipe)]?.bytes ?? 0,
  }))
  const visit = firstVisits(clip, { clips: files, posters }).find(
    ({ screenClass }) => screenClass === 'laptop',
  )!
  const { laptop } = document.weight.renditions
  const within = (bytes: number): string => `up to ${formatBytes(bytes)}, its budget`
  const choice = (delivery: 'live' | 'clip', label: string) => (
    <DeliverButton
      label={label}
      isChosen={base.delivery === delivery}
      onChoose={() => dispatch({ type: 'slides/shared', slides: { delivery } })}
    />
  )
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Live or clip">
      <p className="mb-1 text-[0.82rem]" role="status">
        Recommended:{' '}
        <b className="font-semibold">{advice.delivery === 'live' ? 'live' : 'as a clip'}</b>.{' '}
        {advice.because}
      </p>
      <Table
        label="Live or clip"
        head={['What', 'Live, as images', 'As a clip']}
        rows={[
          ['Delivered', choice('live', 'Live'), choice('clip', 'As a clip')],
          [
            'First visit, laptop',
            heaviest ? `up to ${formatBytes(heaviest.first)}` : within(laptop.budgetBytes),
            visit.clip > 0 ? `up to ${formatBytes(visit.total)}` : within(laptop.budgetBytes),
          ],
          [
            `Whole cycle, ${slideCycle(base).seconds.toFixed(1)} s`,
            `${heaviest ? `up to ${formatBytes(heaviest.cycle)}` : within(base.cycleBytes.laptop)}, one slide after another`,
            'all of it on the first visit',
          ],
          [
            'Processor, of a playing clip',
            `${slideshowCost(base).toFixed(2)} on average, none during a hold`,
            '1.00',
          ],
          ['Without script', 'the whole cycle, by style', 'the poster: slide 1'],
          ['Pictures', 'sharp at any size, one file each', 'video: softer, one picture size'],
        ]}
      />
    </div>
  )
}
