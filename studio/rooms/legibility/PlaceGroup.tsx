import { Radio, RadioGroup } from '@headlessui/react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { COPY_PLACES, isSamePlace, placeText } from '../../../core/copy/copyPlace'
import { classOfWindow } from '../../../core/fit/focal'
import { SCREEN_CLASSES, SCREENS, type ScreenClass } from '../../../core/fit/screens'
import { isRightToLeft } from '../../../core/copy/isRightToLeft'
import { useBackdrop } from '../../state/backdropStore'
import { measuredKey } from '../../state/contrastStore'
import type { LoadedSources } from '../../state/loadedSources'
import { useStage } from '../../state/stageStore'
import { Button, Choice, Group } from '../../ui/controls'
import { useAsked } from '../../ui/useAsked'
import { suggestPlaces } from './suggestPlaces'

const CLASS_LABELS: Readonly<Record<ScreenClass, string>> = {
  phone: 'phones',
  laptop: 'tablets and laptops',
  wide: 'wide screens',
}

/** Where the copy stands on the screens of the stage's class, and where it would stand best. */
export function PlaceGroup({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const screen = useStage((state) => state.screen)
  const screenClass = classOfWindow(SCREENS[screen].width, document.weight.breakpoints)
  const place = document.copy.places[screenClass]
  const current = COPY_PLACES.findIndex((each) => isSamePlace(each, place))
  const set = (fields: Partial<typeof place>, screens: readonly ScreenClass[] = [screenClass]) =>
    dispatch({ type: 'copy/place', screens, place: fields })
  const isShared = SCREEN_CLASSES.every(
    (each) => JSON.stringify(document.copy.places[each]) === JSON.stringify(place),
  )
  return (
    <Group title="Position of the copy" aside={`on ${CLASS_LABELS[screenClass]}`}>
      <div className="flex items-start gap-3">
        <RadioGroup
          aria-label="Position of the copy"
          dir={isRightToLeft(document.handoff.lang) ? 'rtl' : undefined}
          value={current}
          onChange={(index: number) => set(COPY_PLACES[index]!)}
          className="grid w-28 shrink-0 grid-cols-3 gap-px overflow-hidden rounded border border-line-strong/60 bg-line"
        >
          {COPY_PLACES.map((each, index) => (
            <Radio
              key={placeText(each)}
              value={index}
              aria-label={placeText(each)}
              className="grid h-7 cursor-pointer place-items-center bg-paper focus-visible:outline-2 data-checked:bg-curtain"
            >
              <span
                aria-hidden
                className={`h-0.5 w-4 ${index === current ? 'bg-white' : 'bg-ink/50'}`}
              />
            </Radio>
          ))}
        </RadioGroup>
        <p className="text-xs text-muted">
          Or drag the handle beside the copy on the stage; arrow keys move it, too.
        </p>
      </div>
      <Choice
        label="Alignment of its lines"
        value={place.align}
        onChange={(align) => set({ align })}
        options={[
          { value: 'start', label: 'Start' },
          { value: 'center', label: 'Center' },
          { value: 'end', label: 'End' },
        ]}
      />
      {!isShared && <Button onClick={() => set(place, SCREEN_CLASSES)}>Same on all screens</Button>}
      {/* What was found is true for what it was found of. */}
      <Suggestions key={measuredKey(document, sources)} document={document} sources={sources} />
    </Group>
  )
}

/** Places that are read best over the whole loop, on request; taken in one step. */
function Suggestions({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { state, ask, stop } = useAsked(
    async (signal) => (await suggestPlaces(document, sources, signal)) ?? undefined,
  )
  const found = state.is === 'done' ? state.found : []
  const better = found.filter(({ share, shareNow }) => share > shareNow)
  return (
    <>
      {state.is === 'busy' ? (
        <Button onClick={stop}>Stop looking</Button>
      ) : (
        <Button onClick={ask}>Find the best positions</Button>
      )}
      {state.is === 'failed' && (
        <p role="alert" className="text-xs text-fix">
          {state.message}
        </p>
      )}
      {found.length > 0 && (
        <ul className="text-xs" aria-label="Best positions">
          {found.map(({ screenClass, place, share, shareNow }) => (
            <li key={screenClass}>
              <b className="font-semibold">{CLASS_LABELS[screenClass]}</b>:{' '}
              {share > shareNow
                ? `${placeText(place)}: at least ${Math.round(share * 100)} % of the contrast that is needed, now ${Math.round(shareNow * 100)} %`
                : 'no other position is better'}
            </li>
          ))}
        </ul>
      )}
      {better.length > 0 && (
        <Button
          tone="accent"
          onClick={() => {
            const gesture = crypto.randomUUID()
            for (const { screenClass, place } of better)
              dispatch({ type: 'copy/place', screens: [screenClass], place }, gesture)
          }}
        >
          Use {better.length === 1 ? 'it' : 'them'}
        </Button>
      )}
    </>
  )
}
