import { useEffect } from 'react'
import { freshOf, measuredKey, useContrastStore } from '../../state/contrastStore'
import { useTried } from '../../state/useTried'
import { useStage } from '../../state/stageStore'
import { Choice, Group } from '../../ui/controls'
import type { BenchProps } from '../Room'
import { useContrastView } from './contrastView'
import { CopyGroups } from './CopyGroups'
import { neededBy } from './FailingOverlay'
import { PlaceGroup } from './PlaceGroup'
import { RemedyGroup } from './RemedyGroup'
import { ScrimGroup } from './ScrimGroup'
import { toldWorst } from './toldWorst'
import { ToneGroup } from './ToneGroup'

/** Scrim and copy colours, with the contrast they give now. */
export function LegibilityBench({ document, sources, projectId }: BenchProps) {
  const contrast = useStage((state) => state.contrast)
  const needed = useStage((state) => state.needed)
  const watched = useStage((state) => state.worst)
  const tried = useTried(document)
  const contrasts = toldWorst(
    freshOf(
      useContrastStore((state) => state.contrasts),
      tried,
      sources,
    ),
  )
  const told = contrasts ?? watched
  const slides = document.base.kind === 'slideshow'
  return (
    <>
      <Group title="Heading on the current frame" aside={`needs ${needed} : 1`}>
        <p className="flex items-baseline gap-2" role="status">
          <span className="text-3xl figure-face">
            {contrast === null ? '–' : contrast.toFixed(2)}
          </span>
          <span className="text-muted">: 1</span>
          {contrast !== null && (
            <span className={contrast >= needed ? 'text-settled' : 'font-medium text-fix'}>
              {contrast >= needed
                ? 'readable here'
                : 'too low: increase the scrim strength or change the colour'}
            </span>
          )}
        </p>
        {told ? (
          <p className="text-xs">
            {contrasts
              ? 'Worst of all texts, frames and screens'
              : slides
                ? 'Worst of all slides and transitions'
                : 'Worst over the period of the particles'}
            :{' '}
            <b className="font-semibold">
              {told.ratio.toFixed(2)} : 1, {told.where}
            </b>
            {slides ? '. Timing, Legibility per slide, lists them all.' : '.'}
          </p>
        ) : (
          <p className="text-xs text-muted">
            Measured on the current frame only, not on the whole loop.
          </p>
        )}
      </Group>
      <OverlayGroup document={document} />
      {/* What was found is true for what it was found of. */}
      <RemedyGroup key={measuredKey(document, sources)} document={document} sources={sources} />
      <ScrimGroup document={document} sources={sources} projectId={projectId} />
      <ToneGroup document={document} />
      <PlaceGroup document={document} sources={sources} />
      <CopyGroups document={document} sources={sources} />
    </>
  )
}

/** Shows on the stage where copy of this colour would fail. */
function OverlayGroup({ document }: Pick<BenchProps, 'document'>) {
  const { overlay, set } = useContrastView()
  const setStage = useStage((state) => state.set)
  const needed = neededBy(document)
  useEffect(() => {
    setStage({ failsBelow: overlay === 'now' ? needed : null })
    return () => setStage({ failsBelow: null, failing: null })
  }, [overlay, needed, setStage])
  return (
    <Group title="Where copy would fail" aside={`less than ${needed} : 1 is hatched`}>
      <Choice
        label="Where copy would fail"
        hideLabel
        value={overlay}
        onChange={(next) => set({ overlay: next })}
        options={[
          { value: 'none', label: 'Hidden' },
          { value: 'now', label: 'Now' },
          { value: 'loop', label: 'Whole loop' },
        ]}
      />
    </Group>
  )
}
