import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { isLockedColor } from '../../../core/brand/Brand'
import { inkOn } from '../../../core/copy/inkOn'
import { buttonColors, hueOf, type ButtonSuggestion } from '../../../core/legibility/buttonColors'
import { parseHex } from '../../../core/picture/srgb'
import { contrastRatio } from '../../../core/scrim/contrast'
import { ColorField, type ContrastOf } from '../../color/ColorField'
import { useSavedColors } from '../../color/savedColors'
import { useBackdrop } from '../../state/backdropStore'
import type { LoadedSources } from '../../state/loadedSources'
import { Group, Toggle } from '../../ui/controls'
import { AskedButton } from '../../ui/AskedButton'
import { useAsked } from '../../ui/useAsked'
import { ButtonTarget } from './ButtonTarget'
import { isButton, measureSurrounds, surroundsKey, useContrastOf } from './measureSurrounds'
import { smallPictures } from './smallPictures'

interface ButtonProps {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
}

/** The button: its colour, those of its states, and colours that fit the picture. */
export function ButtonColorGroup({ document, sources }: ButtonProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { buttonColor, buttonStates } = document.copy
  const useContrast: ContrastOf = () => useContrastOf(document, sources, isButton, NO_BUTTON)
  const setStates = (states: typeof buttonStates, gesture: string | null = null): void =>
    dispatch({ type: 'copy/button-colors', color: buttonColor, states }, gesture)
  return (
    <Group title="Button" aside="needs 3 : 1 against the picture">
      <ColorField
        label="Button colour"
        value={buttonColor}
        onChange={(value, gesture) =>
          dispatch({ type: 'copy/write', field: 'buttonColor', value }, gesture)
        }
        useContrast={useContrast}
      />
      <Toggle
        label="Own colours under the pointer and in focus"
        note="Without them only a ring in the copy’s colour shows the focus."
        enabled={buttonStates !== null}
        onChange={(on) => setStates(on ? { hover: buttonColor, focus: document.copy.color } : null)}
      />
      {buttonStates && (
        <>
          <ColorField
            label="Under the pointer"
            value={buttonStates.hover}
            onChange={(hover, gesture) => setStates({ ...buttonStates, hover }, gesture)}
            useContrast={useContrast}
          />
          <StateNote color={buttonStates.hover} />
          <ColorField
            label="Ring in focus"
            value={buttonStates.focus}
            onChange={(focus, gesture) => setStates({ ...buttonStates, focus }, gesture)}
            useContrast={useContrast}
          />
        </>
      )}
      {/* What was found is true for what is behind the button, whatever colour that has. */}
      <Suggestions key={surroundsKey(document)} document={document} sources={sources} />
      <ButtonTarget document={document} />
    </Group>
  )
}

/** How the label is read on a colour of the button. */
function StateNote({ color }: { readonly color: string }) {
  const ratio = contrastRatio(parseHex(inkOn(color)), parseHex(color))
  return (
    <p className={`text-xs ${ratio < 4.5 ? 'text-fix' : 'text-muted'}`}>
      Its label is {inkOn(color) === '#ffffff' ? 'white' : 'dark'} there: {ratio.toFixed(2)} : 1,
      needs 4.5.
    </p>
  )
}

/** What a measurement came to: colours, or why there are none. */
interface Found {
  readonly suggestions: readonly ButtonSuggestion[]
  readonly why: string | null
}

/** Colours from the picture and the brand, measured before they are shown. */
function Suggestions({ document, sources }: ButtonProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const brand = useSavedColors()?.colors ?? []
  const { buttonColor } = document.copy
  const isLocked = isLockedColor(brand, buttonColor)
  const asked = useAsked(async (signal, tell): Promise<Found> => {
    tell('Measuring what is around the button')
    const found = await measureSurrounds(document, sources, signal)
    if (!found) return none('The frames cannot be measured here.')
    const around = found.texts.filter(isButton)
    if (around.length === 0) return none(NO_BUTTON)
    const surrounds = {
      darkest: Math.min(...around.map((each) => each.surrounds.darkest)),
      brightest: Math.max(...around.map((each) => each.surrounds.brightest)),
    }
    tell('Looking at the picture')
    const hue = hueOf(await smallPictures(found.order, signal))
    const suggestions = buttonColors(surrounds, hue, brand)
    return suggestions.length > 0
      ? { suggestions, why: null }
      : none(
          'No colour can be told from both the darkest and the brightest that is around the button. Add a scrim first, or move the copy.',
        )
  })
  const { state } = asked
  if (isLocked)
    return (
      <p className="text-xs text-muted">
        The button has a locked colour of the brand: no other is suggested.
      </p>
    )
  return (
    <>
      <AskedButton asked={asked}>Suggest colours from the picture</AskedButton>
      {state.is === 'done' && state.found.why && (
        <p role="status" className="text-xs">
          {state.found.why}
        </p>
      )}
      {state.is === 'done' && state.found.suggestions.length > 0 && (
        <ul aria-label="Suggested button colours" className="flex flex-col gap-1.5">
          {state.found.suggestions.map((each) => (
            <li key={each.color}>
              <Suggestion
                suggestion={each}
                label={document.copy.button.label}
                isChosen={each.color === buttonColor.toLowerCase()}
                onTake={() =>
                  dispatch({
                    type: 'copy/button-colors',
                    color: each.color,
                    states: { hover: each.hover, focus: each.focus },
                  })
                }
              />
            </li>
          ))}
        </ul>
      )}
    </>
  )
}

const NO_BUTTON = 'The copy has no button: write its label on the stage.'

const none = (why: string): Found => ({ suggestions: [], why })

const ORIGINS = {
  opposite: 'Opposite to the picture',
  neighbouring: 'Beside the picture’s hue',
} as const

const originOf = ({ origin, name, isExact }: ButtonSuggestion): string =>
  origin === 'brand' ? `${name}${isExact ? '' : ', other lightness'}` : ORIGINS[origin]

function Suggestion({
  suggestion,
  label,
  isChosen,
  onTake,
}: {
  readonly suggestion: ButtonSuggestion
  readonly label: string
  readonly isChosen: boolean
  readonly onTake: () => void
}) {
  const { color, hover, focus, labelRatio, aroundRatio } = suggestion
  const origin = originOf(suggestion)
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      aria-label={`${origin}, ${color}: label ${labelRatio.toFixed(1)} : 1, against the picture at least ${aroundRatio.toFixed(1)} : 1`}
      onClick={onTake}
      className="flex w-full items-center gap-2.5 rounded border border-line bg-white p-1.5 text-left hover:border-curtain aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
    >
      <span className="flex shrink-0 flex-col">
        {[color, hover].map((each, at) => (
          <span
            key={at}
            className={`w-28 truncate px-2 py-1 text-center text-xs font-semibold ${at === 0 ? 'rounded-t-sm' : 'rounded-b-sm'}`}
            style={{ background: each, color: inkOn(each) }}
          >
            {at === 0 ? label : 'pointer'}
          </span>
        ))}
      </span>
      <span className="flex min-w-0 flex-col text-xs">
        <b className="truncate font-semibold">{origin}</b>
        <span className="font-mono text-muted">
          {color}, ring {focus}
        </span>
        <span>
          label {labelRatio.toFixed(1)}, picture {aroundRatio.toFixed(1)} : 1
        </span>
      </span>
    </button>
  )
}
