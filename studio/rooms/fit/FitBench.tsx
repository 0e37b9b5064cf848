import { rendersClips, picturesOf } from '../../../core/backdrop/delivered'
import { useBackdrop } from '../../state/backdropStore'
import { Button, Choice, Group, NumberField, Toggle } from '../../ui/controls'
import type { BenchProps } from '../Room'
import { FOCAL_WORDS, useFocal } from './useFocal'

/** Region height and focal point. */
export function FitBench({ document }: BenchProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { height, scope, place } = document.fit
  const clips = rendersClips(document)
  const use = picturesOf(document)
  return (
    <>
      <Group
        title="Height of the region"
        aside={scope === 'page' ? 'behind the whole page' : 'a region of the page'}
      >
        <Choice
          label="Unit"
          hideLabel
          value={height.unit}
          onChange={(unit) =>
            dispatch({
              type: 'fit/height',
              height: unit === 'svh' ? { unit, value: 100 } : { unit, value: 640 },
            })
          }
          options={[
            { value: 'svh', label: 'Of the window', note: 'svh' },
            { value: 'px', label: 'Fixed', note: 'px' },
          ]}
        />
        <NumberField
          label={height.unit === 'svh' ? 'Percent of the window’s height' : 'Pixels'}
          value={height.value}
          low={10}
          high={height.unit === 'svh' ? 200 : 4000}
          suffix={height.unit}
          onChange={(value) => dispatch({ type: 'fit/height', height: { ...height, value } })}
        />
        <p className="text-xs text-muted">
          The region grows where the copy needs more room, so nothing is cut off.
        </p>
      </Group>
      <Group title="Place on the page">
        <Choice
          label="Place on the page"
          hideLabel
          value={place}
          onChange={(value) => dispatch({ type: 'fit/place', place: value })}
          options={[
            {
              value: 'top',
              label: 'First screen',
              note: clips ? 'poster loads first' : 'loads first',
            },
            { value: 'below', label: 'Further down', note: 'loads when near' },
          ]}
        />
        {place === 'below' && use && (
          <p className="text-xs text-muted">
            The {clips ? 'poster' : 'image'} must not delay what visitors see first, so it is loaded
            lazily{clips && ' and the clip after it'}.
          </p>
        )}
      </Group>
      {use?.placed && <FocalGroup document={document} shownWhole={use.fills === null} />}
    </>
  )
}

/** The point that stays in view, for all screens or for the stage's alone. */
function FocalGroup({
  document,
  shownWhole,
}: Pick<BenchProps, 'document'> & { shownWhole: boolean }) {
  const { point, screenClass, isOwn, move, setOwn } = useFocal(document)
  return (
    <Group title="Focal point" aside="drag it on the stage">
      <div className="flex gap-2">
        <NumberField
          label="Across"
          value={point.x * 100}
          low={0}
          high={100}
          suffix="%"
          onChange={(x) => move({ ...point, x: x / 100 })}
        />
        <NumberField
          label="Down"
          value={point.y * 100}
          low={0}
          high={100}
          suffix="%"
          onChange={(y) => move({ ...point, y: y / 100 })}
        />
      </div>
      {screenClass ? (
        <Toggle
          label={`Another point on ${FOCAL_WORDS[screenClass]}`}
          note={
            isOwn
              ? 'Stage and fields set the point of these screens only.'
              : 'Now the point of all screens holds here.'
          }
          enabled={isOwn}
          onChange={setOwn}
        />
      ) : (
        <p className="text-xs text-muted">
          For all screens. Choose Phone, Tablet or Laptop beside the stage to give those another
          point.
        </p>
      )}
      <p className="text-xs text-muted">
        {shownWhole
          ? 'The image is shown whole: the point says where it lies in the room that is left.'
          : 'The picture fills the region without distortion. Put the point on what must stay visible; check the phone, where most is cropped.'}
      </p>
      <Button onClick={() => move({ x: 0.5, y: 0.5 })}>Reset to centre</Button>
    </Group>
  )
}
