import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import {
  AROUND,
  LETTER_SIZES,
  lettersWith,
  type Around,
  type Letters,
} from '../../../core/copy/letters'
import { isOneOf } from '../../../core/legibility/TextPlace'
import { ColorField } from '../../color/ColorField'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'
import { Choice, Group, Slider } from '../../ui/controls'
import { oppositeOf } from './Remedy'

const NAMES: Readonly<Record<Around, string>> = {
  outline: 'Outline',
  shadow: 'Shadow',
  plate: 'Plate',
}
const SIZE_NAMES: Readonly<Record<Around, string>> = {
  outline: 'Width',
  shadow: 'Blur',
  plate: 'Room around the words',
}

const percent = (value: number): string => `${Math.round(value * 100)} %`

/** What letters have around them, and how much of their surroundings that makes. */
export function LettersGroup({ document }: { readonly document: BackdropDocument }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { letters } = document.copy
  const set = (next: Letters | null, gesture: string | null = null): void =>
    dispatch({ type: 'copy/parts', parts: { letters: next } }, gesture)
  const choose = (around: Around | 'nothing'): void => {
    if (around === 'nothing') set(null)
    else set(lettersWith(around, letters?.color ?? oppositeOf(document)))
  }
  return (
    <Group title="Letters" aside="what they have around them">
      <Choice<Around | 'nothing'>
        label="Around the letters"
        hideLabel
        value={letters?.around ?? 'nothing'}
        onChange={choose}
        options={[
          { value: 'nothing', label: 'Nothing' },
          ...AROUND.map((around) => ({ value: around, label: NAMES[around] })),
        ]}
      />
      {letters && (
        <>
          <ColorField
            label={`Colour of the ${NAMES[letters.around].toLowerCase()}`}
            value={letters.color}
            onChange={(color, gesture) => set({ ...letters, color }, gesture)}
          />
          <Slider
            label="Strength"
            value={letters.strength}
            low={0}
            high={1}
            step={0.01}
            shown={percent(letters.strength)}
            onChange={(strength, gesture) => set({ ...letters, strength }, gesture)}
          />
          <Slider
            label={SIZE_NAMES[letters.around]}
            value={letters.size}
            low={1}
            high={LETTER_SIZES[letters.around].most}
            step={1}
            shown={`${letters.size} px`}
            onChange={(size, gesture) => set({ ...letters, size }, gesture)}
          />
          <Given />
          <p className="text-xs text-muted">
            Of heading, texts, outlined button, link onward and footer. The header is the page’s
            own.
          </p>
        </>
      )}
    </Group>
  )
}

/** What it gives next to the letters, as it is measured. */
function Given() {
  const layout = useStage((state) => state.layout)
  const given = (layout?.texts ?? []).flatMap(({ label, plate, covered }) =>
    plate && covered !== undefined && isOneOf({ label }, ['Heading', 'Text'])
      ? [{ label, alpha: plate.layer.alpha }]
      : [],
  )
  if (given.length === 0) return null
  return (
    <p className="text-xs" role="status">
      Next to the letters it is at least{' '}
      {given.map(({ label, alpha }, index) => (
        <span key={label}>
          {index > 0 && ', '}
          <b className="font-semibold">{percent(alpha)}</b> opaque ({label.toLowerCase()})
        </span>
      ))}
      ; contrast is measured with that.
    </p>
  )
}
