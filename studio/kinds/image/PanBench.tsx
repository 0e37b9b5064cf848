import { ArrowLeftRight } from 'lucide-react'
import { PAN_COST, playedCostWords } from '../../../core/behaviour/playedCost'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import {
  DRIFT_SECONDS,
  FIRST_DRIFT,
  type ImageBase,
  type View,
} from '../../../core/kinds/image/Image'
import { useBackdrop } from '../../state/backdropStore'
import { Button, Group, Note, Slider, Toggle } from '../../ui/controls'
import { ViewFields } from '../pan/ViewFields'

type Drift = NonNullable<ImageBase['drift']>

/** Slow pan and zoom: from which view to which, and how long it takes. */
export function PanBench({ document: { base } }: { document: DocumentOf<'image'> }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const set = (drift: Drift | null, gesture: string | null = null): void =>
    dispatch({ type: 'image/set', image: { drift } }, gesture)
  const { drift, placing } = base
  if (placing !== 'cover')
    return (
      <Group title="Pan and zoom">
        <p className="text-muted">
          Only an image that covers the region can be panned: choose Cover under Material.
        </p>
      </Group>
    )
  return (
    <>
      <Group title="Pan and zoom">
        <Toggle
          label="Slow pan and zoom"
          note="Moves from the start view to the end view and back, so it never jumps. The style does it: no file, no clip."
          enabled={drift !== null}
          onChange={(on) => set(on ? FIRST_DRIFT : null)}
        />
        {drift && (
          <Slider
            label="There and back"
            value={drift.seconds}
            low={DRIFT_SECONDS.min}
            high={DRIFT_SECONDS.max}
            step={1}
            shown={`${drift.seconds} s`}
            onChange={(seconds, gesture) => set({ ...drift, seconds }, gesture)}
          />
        )}
        {drift && <p className="text-xs text-muted">{playedCostWords(PAN_COST)}</p>}
        {drift && speedOf(drift) > MAX_CALM_SPEED && (
          <Note tone="look">
            It moves {(speedOf(drift) * 100).toFixed(1)} % of the region a second: behind copy, up
            to {MAX_CALM_SPEED * 100} % is calm. Give it more time, or bring the views closer
            together.
          </Note>
        )}
      </Group>
      {drift && (
        <>
          <ViewGroup
            title="Start view"
            view={drift.from}
            onChange={(from) => set({ ...drift, from })}
          />
          <ViewGroup title="End view" view={drift.to} onChange={(to) => set({ ...drift, to })} />
          <Group title="Direction">
            <Button onClick={() => set({ ...drift, from: drift.to, to: drift.from })}>
              <ArrowLeftRight className="size-4" aria-hidden />
              Swap start and end
            </Button>
            <p className="text-xs text-muted">
              Without motion (reduced motion, print) the start view is shown.
            </p>
          </Group>
        </>
      )}
    </>
  )
}

/** A share of the region a second: faster than this, motion draws the eye from the copy. */
const MAX_CALM_SPEED = 0.02

/** How fast the corners move at most, on average, in shares of the region a second. */
function speedOf({ from, to, seconds }: Drift): number {
  const corner = ({ x, y, zoom }: View, right: number, down: number): readonly [number, number] => [
    (right - x) * zoom,
    (down - y) * zoom,
  ]
  const ways = [0, 1].flatMap((right) =>
    [0, 1].map((down) => {
      const [a, b] = [corner(from, right, down), corner(to, right, down)]
      return Math.hypot(a[0] - b[0], a[1] - b[1])
    }),
  )
  return Math.max(...ways) / (seconds / 2)
}

/** A view in numbers. */
function ViewGroup({
  title,
  view,
  onChange,
}: {
  title: string
  view: View
  onChange: (view: View) => void
}) {
  return (
    <Group title={title} aside="drag it on the stage">
      <ViewFields view={view} onChange={onChange} />
    </Group>
  )
}
