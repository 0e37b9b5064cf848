import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { DECK_SHELL } from '../../rooms/Room'
import { GradientBar } from './GradientBar'
import { useSelected } from './paintSelection'
import { usePaint } from './usePaint'

/** The gradients as bars. */
export function PaintDeck({ document: { base } }: { document: DocumentOf<'paint'> }) {
  const { setGradient } = usePaint(base)
  const { index: open, stop, set } = useSelected(base.gradients)
  return (
    <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Gradients">
      {base.gradients.length === 0 && (
        <p className="text-muted">
          An even colour. Add a gradient on the bench to see and drag its stops here.
        </p>
      )}
      {base.gradients.map((gradient, index) => (
        <div key={index}>
          <div className="flex justify-between px-3 text-xs text-muted">
            <span>
              {base.gradients.length > 1 ? (index === 0 ? 'Back, ' : 'Front, ') : ''}
              {gradient.shape}
            </span>
            <span>double-click the bar to add a stop</span>
          </div>
          <GradientBar
            gradient={gradient}
            open={index === open ? stop : -1}
            onOpen={(next) => set({ gradient: index, stop: next })}
            onChange={(next, gesture) => setGradient(index, next, gesture)}
          />
        </div>
      ))}
    </div>
  )
}
