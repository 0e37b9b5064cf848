import { Move } from 'lucide-react'
import { ACROSS, DOWN, type CopyPlace } from '../../../core/copy/copyPlace'
import { classOfWindow } from '../../../core/fit/focal'
import { SCREENS } from '../../../core/fit/screens'
import { isOneOf } from '../../../core/legibility/TextPlace'
import { isRightToLeft } from '../../../core/copy/isRightToLeft'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'
import { Handle } from '../../ui/Handle'
import type { StageArea } from './StageArea'

const WORDS = ['Heading', 'Text', 'Button label']
/** So far the handle is from the words, in pixels of the stage. */
const GAP = 18

/** Moves the copy to one of nine places of its region, by pointer or keys. */
export function CopyHandle({ document, width, height }: StageArea) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const screen = useStage((state) => state.screen)
  const layout = useStage((state) => state.layout)
  const boxes = (layout?.texts ?? [])
    .filter((text) => isOneOf(text, WORDS))
    .flatMap(({ boxes: own }) => own)
  if (!layout || boxes.length === 0) return null
  const screenClass = classOfWindow(SCREENS[screen].width, document.weight.breakpoints)
  const now = document.copy.places[screenClass]
  const [left, top] = [Math.min(...boxes.map(({ x }) => x)), Math.min(...boxes.map(({ y }) => y))]
  const scale = width / layout.region.width
  // Where lines begin on the right, so do places.
  const isMirrored = isRightToLeft(document.handoff.lang)
  const go = (column: number, down: number, gesture: string): void => {
    const across = Math.min(2, Math.max(0, column))
    const side = ACROSS[isMirrored ? 2 - across : across]!
    const row = DOWN[Math.min(2, Math.max(0, down))]!
    if (side === now.across && row === now.down) return
    // Lines that were aligned to their side go on being so.
    const align: CopyPlace['align'] = now.align === now.across ? side : now.align
    dispatch(
      { type: 'copy/place', screens: [screenClass], place: { across: side, down: row, align } },
      gesture,
    )
  }
  return (
    <div className="pointer-events-none absolute top-0 left-0" style={{ width, height }}>
      <Handle
        name="Position of the copy"
        place={{ x: Math.max(14, left * scale - GAP), y: Math.max(14, top * scale - GAP) }}
        onDrag={({ x, y }, gesture) =>
          go(Math.floor((3 * x) / width), Math.floor((3 * y) / height), gesture)
        }
        onKey={([across, down], gesture) =>
          go(
            (isMirrored ? 2 - ACROSS.indexOf(now.across) : ACROSS.indexOf(now.across)) +
              Math.sign(across),
            DOWN.indexOf(now.down) + Math.sign(down),
            gesture,
          )
        }
      >
        <span className="grid size-7 place-items-center rounded-full border-2 border-white bg-black/55 text-white">
          <Move className="size-3.5" aria-hidden />
        </span>
      </Handle>
    </div>
  )
}
