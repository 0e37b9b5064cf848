import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { isRendered, particlesOf, renderHindrance } from '../../core/backdrop/delivered'
import { particleAdvice } from '../../core/backdrop/particleAdvice'
import { recipeKey } from '../../core/backdrop/recipe'
import type { Size } from '../../core/fit/cover'
import { hasClips } from '../../core/kinds'
import { costingParts } from '../../core/particles/costingParts'
import type { Particles } from '../../core/particles/Particles'
import type { DeckProps } from '../rooms/Room'
import { DECK_SHELL } from '../rooms/Room'
import { useBackdrop } from '../state/backdropStore'
import { forecastOf, useProbing } from '../state/useProbing'
import { useWork } from '../state/workStore'
import { Button } from '../ui/controls'
import { DeliverButton } from '../ui/DeliverButton'
import { Table } from '../ui/Table'
import { useAsync } from '../ui/useAsync'
import { measuredLoad } from './costCurve'
import { inForm, laptopClips, laptopVisit } from './laptopVisit'
import { useArea } from './ParticlesBench'

/** Changes are waited for, so that a drag does not measure all the way. */
const WAIT_MS = 700

/** What visitors get of particles that are drawn live, and of one clip with the base. */
export function LiveOrRendered({ document, sources }: DeckProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const made = useWork((state) => state.made)
  const area = useArea(document)
  const hindrance = renderHindrance(document.base)
  const [live, rendered] = [inForm(document, 'live'), inForm(document, 'rendered')]
  const chosen = isRendered(document) ? 'rendered' : 'live'
  const load = useLoad(document, area)
  const advice = particleAdvice(document, load)
  const plays = hasClips(document.base)
  const clips = hindrance ? [] : laptopClips(rendered, sources.known)
  const unprobed = clips.filter(
    ({ recipe }) => !made[recipeKey(recipe)] && !forecastOf(recipe, made),
  )
  const choice = (form: Particles['form'], label: string) => (
    <DeliverButton
      label={label}
      isChosen={chosen === form}
      isPossible={form === 'live' || hindrance === null}
      onChoose={() => dispatch({ type: 'particles/show', show: { form } })}
    />
  )
  const { pointer } = document.particles!.definition
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Live or rendered">
      <p className="mb-1 text-[0.82rem]" role="status">
        Recommended:{' '}
        <b className="font-semibold">{advice.form === 'live' ? 'live' : 'as one clip'}</b>.{' '}
        {advice.because}
      </p>
      <Table
        label="Live or rendered"
        head={['What', 'Live, by the script', 'As one clip with the base']}
        rows={[
          ['Delivered', choice('live', 'Live'), choice('rendered', 'As one clip')],
          [
            'First visit, laptop',
            laptopVisit(live, sources.known, made),
            hindrance ? '–' : laptopVisit(rendered, sources.known, made),
          ],
          [
            'Processor, of a playing clip',
            load === null
              ? 'measuring …'
              : `about ${(load + Number(plays)).toFixed(1)} without graphics processor${plays ? `, ${load.toFixed(1)} of it for the particles` : ''}`,
            hindrance ? '–' : '1.0',
          ],
          ['Slow machines', 'fewer particles, at last their first picture', 'frames are left out'],
          [
            'Without script',
            'the base without particles',
            'the poster, which shows their first picture',
          ],
          [
            'Pictures',
            `sharp at any size${pointer ? '; follow a mouse' : ''}`,
            `video: softer, cropped with the base${pointer ? '; do not follow a mouse' : ''}`,
          ],
        ]}
      />
      {unprobed.length > 0 && <Expecting sources={sources} unprobed={unprobed} />}
    </div>
  )
}

/** What particles take of a processor, in that of a playing clip; null while it is measured. */
function useLoad(document: BackdropDocument, area: Size): number | null {
  const definition = particlesOf(document)!
  const { frameRate } = document.particles!
  const key = JSON.stringify([costingParts(definition), area, frameRate])
  return useAsync<number | null>(
    key,
    (signal) => measuredLoad(definition, area, frameRate, signal),
    {
      delayMs: WAIT_MS,
    },
  ).value
}

/** Offers to work out how large the clip would be. */
function Expecting({
  sources,
  unprobed,
}: Pick<DeckProps, 'sources'> & { unprobed: ReturnType<typeof laptopClips> }) {
  const { probing, probe } = useProbing(sources, unprobed)
  return (
    <p className="mt-1 flex flex-wrap items-center gap-2 text-xs">
      {probing?.abort ? (
        <Button className="min-h-6! px-2!" onClick={() => probing.abort?.abort()}>
          Stop
        </Button>
      ) : (
        <Button className="min-h-6! px-2!" onClick={() => void probe()}>
          Work out the size of the clip
        </Button>
      )}
      <span role="status" className="text-muted">
        {probing?.words ?? 'Short parts of it are encoded at five quality levels.'}
      </span>
    </p>
  )
}
