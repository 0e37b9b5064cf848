import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { toneForm } from '../../../core/backdrop/delivered'
import { FILTER_COST } from '../../../core/scrim/blendCost'
import { FIRST_TONE, isPlainTone, type ToneDecision } from '../../../core/tone/Tone'
import { ColorField } from '../../color/ColorField'
import { useBackdrop } from '../../state/backdropStore'
import { Button, Choice, Group, Slider } from '../../ui/controls'

const percent = (value: number): string => `${Math.round(value * 100)} %`

const FACTORS = [
  { field: 'brightness', label: 'Brightness', low: 0.2 },
  { field: 'contrast', label: 'Contrast', low: 0.2 },
  { field: 'saturation', label: 'Saturation', low: 0 },
] as const

/**
 * What is done to all colours of the base, and by whom: visitors\u2019 browsers, or once in the
 * files.
 */
export function ToneGroup({ document }: { readonly document: BackdropDocument }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { tone } = document
  const form = toneForm(document)
  const set = (fields: Partial<ToneDecision>, gesture: string | null = null): void =>
    dispatch({ type: 'tone/set', tone: fields }, gesture)
  return (
    <Group title="Tone of the picture" aside="below scrim and copy">
      {FACTORS.map(({ field, label, low }) => (
        <Slider
          key={field}
          label={label}
          value={tone[field]}
          low={low}
          high={2}
          step={0.01}
          shown={percent(tone[field])}
          onChange={(value, gesture) => set({ [field]: value }, gesture)}
        />
      ))}
      {form === 'files' && (
        <>
          <ColorField
            label="Tint"
            value={tone.tint.color}
            onChange={(color, gesture) => set({ tint: { ...tone.tint, color } }, gesture)}
          />
          <Slider
            label="Strength of the tint"
            value={tone.tint.strength}
            low={0}
            high={1}
            step={0.01}
            shown={percent(tone.tint.strength)}
            onChange={(strength, gesture) => set({ tint: { ...tone.tint, strength } }, gesture)}
          />
        </>
      )}
      <Made document={document} onChange={(next) => set({ form: next })} />
      {!isPlainTone(tone) && (
        <Button onClick={() => set({ ...FIRST_TONE, form: tone.form })}>Colours as they are</Button>
      )}
    </Group>
  )
}

/** Who makes it, with what that costs; one sentence where there is no choice. */
function Made({
  document,
  onChange,
}: {
  readonly document: BackdropDocument
  readonly onChange: (form: ToneDecision['form']) => void
}) {
  const { base, tone } = document
  const form = toneForm(document)
  const note = (text: string) => <p className="text-xs text-muted">{text}</p>
  if (base.kind === 'paint' && form === 'filter')
    return note(
      `Visitors\u2019 browsers do it, by a CSS filter: they draw these colours themselves. A tint is a layer of scrim in the blend mode Colour.`,
    )
  if (form !== tone.form) return note('Done in the clip, below its particles.')
  return (
    <>
      <Choice<ToneDecision['form']>
        label="Done"
        value={form}
        onChange={onChange}
        options={[
          { value: 'files', label: 'In the files', note: 'no cost for visitors' },
          {
            value: 'filter',
            label: 'By a CSS filter',
            note: `CPU ${FILTER_COST.toFixed(1)} of a clip alone`,
          },
        ]}
      />
      {form === 'files'
        ? note('All files are rendered anew when it changes; their budgets stay.')
        : note(
            'Files stay as they are. Every frame takes more of a visitor\u2019s processor (measured without a graphics processor). A tint is a layer of scrim in the blend mode Colour.',
          )}
    </>
  )
}
