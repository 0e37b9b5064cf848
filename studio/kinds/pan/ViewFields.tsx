import { insideView, MAX_ZOOM, type View } from '../../../core/kinds/image/Image'
import { NumberField } from '../../ui/controls'
import { zoomed } from './zoomed'

/** A view in numbers. */
export function ViewFields({ view, onChange }: { view: View; onChange: (view: View) => void }) {
  return (
    <div className="flex gap-2">
      <NumberField
        label="Left"
        value={view.x * 100}
        low={0}
        high={100}
        suffix="%"
        decimals={1}
        onChange={(x) => onChange(insideView({ ...view, x: x / 100 }))}
      />
      <NumberField
        label="Top"
        value={view.y * 100}
        low={0}
        high={100}
        suffix="%"
        decimals={1}
        onChange={(y) => onChange(insideView({ ...view, y: y / 100 }))}
      />
      <NumberField
        label="Zoom"
        value={view.zoom}
        low={1}
        high={MAX_ZOOM}
        suffix="×"
        decimals={2}
        onChange={(zoom) => onChange(zoomed(view, zoom))}
      />
    </div>
  )
}
