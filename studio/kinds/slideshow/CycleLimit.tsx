import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { SCREENS, type ScreenClass } from '../../../core/fit/screens'
import { useBackdrop } from '../../state/backdropStore'
import { NumberField } from '../../ui/controls'

/** What all slides may take together on a class of screens, and what they take. */
export function CycleLimit({
  document,
  screenClass,
}: {
  document: DocumentOf<'slideshow'>
  screenClass: ScreenClass
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { base } = document
  if (base.delivery === 'clip') return null
  return (
    <>
      <NumberField
        label={`Whole cycle, ${SCREENS[screenClass].label.toLowerCase()}`}
        value={base.cycleBytes[screenClass] / 1000}
        low={20}
        high={1_000_000}
        suffix="kB"
        onChange={(kilobytes) =>
          dispatch({
            type: 'slides/shared',
            slides: { cycleBytes: { ...base.cycleBytes, [screenClass]: kilobytes * 1000 } },
          })
        }
      />
      <p className="text-xs text-muted">
        First visit: slide 1 and the one after it, with page, style and script. Within both budgets
        the bytes are shared so that the worst slide looks as good as possible; what no eye would
        see is not spent.
      </p>
    </>
  )
}
