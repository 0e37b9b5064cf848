import { picturesOf } from '../../../core/backdrop/recipe'
import { kindOf } from '../../../core/kinds'
import { useBackdrop } from '../../state/backdropStore'
import { Button, Choice, Group, NumberField } from '../../ui/controls'
import type { BenchProps } from '../Room'

/** Region height and focal point. */
export function FitBench({ document }: BenchProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { height, focal, scope, place } = document.fit
  const { clips } = kindOf(document.base)
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
      {use?.fills && (
        <Group title="Focal point" aside="drag it on the stage">
          <div className="flex gap-2">
            <NumberField
              label="Across"
              value={focal.x * 100}
              low={0}
              high={100}
              suffix="%"
              onChange={(x) => dispatch({ type: 'fit/focal', focal: { ...focal, x: x / 100 } })}
            />
            <NumberField
              label="Down"
              value={focal.y * 100}
              low={0}
              high={100}
              suffix="%"
              onChange={(y) => dispatch({ type: 'fit/focal', focal: { ...focal, y: y / 100 } })}
            />
          </div>
          <p className="text-xs text-muted">
            The picture fills the region without distortion. Put the point on what must stay
            visible; check the phone, where most is cropped.
          </p>
          <Button onClick={() => dispatch({ type: 'fit/focal', focal: { x: 0.5, y: 0.5 } })}>
            Reset to centre
          </Button>
        </Group>
      )}
    </>
  )
}
