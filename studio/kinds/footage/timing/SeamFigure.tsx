import type { SeamFigure as Figure } from '../../../../core/api/wire'
import { StandingMark } from '../../../ui/controls'
import { seamMeaning } from './seamMeaning'

/** A seam's figure with its meaning; null while it is measured. */
export function SeamFigure({ figure, measuring }: { figure: Figure | null; measuring: boolean }) {
  if (!figure)
    return (
      <p className="flex items-center gap-2 text-muted" role="status">
        <StandingMark standing="busy" />
        {measuring
          ? 'The seam is being measured on the proof.'
          : 'The seam is measured when the proof is made.'}
      </p>
    )
  const { words, standing } = seamMeaning(figure)
  return (
    <div role="status" className="flex items-start gap-3">
      <span className="text-3xl leading-none figure-face">
        {figure.ratio === null ? '–' : figure.ratio.toFixed(2)}
      </span>
      <span className="text-[0.82rem] leading-snug">
        <span className="flex items-center gap-1.5">
          <StandingMark standing={standing} />
          <b className="font-semibold">{words}</b>
        </span>
        <span className="text-muted">
          Last frame to first: ΔE {figure.deltaE.toFixed(2)}
          {figure.worstDeltaE !== null && `, worst place ${figure.worstDeltaE.toFixed(2)}`},
          measured on composed frames.
        </span>
      </span>
    </div>
  )
}
