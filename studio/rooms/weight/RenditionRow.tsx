import { Lock, LockOpen } from 'lucide-react'
import type { BackdropDocument, RenditionSettings } from '../../../core/backdrop/BackdropDocument'
import { clipsTaken } from '../../../core/backdrop/listedClips'
import {
  clipBudget,
  clipRecipes,
  containerOf,
  deliveredClasses,
  posterClasses,
  pictureSize,
  posterMaxBytes,
  renditionOf,
} from '../../../core/backdrop/recipe'
import { SCREENS, SCREEN_CLASSES, type ScreenClass } from '../../../core/fit/screens'
import { nearestRate, toNumber } from '../../../core/Fraction'
import { rendersClips, sequenceOf, picturesOf } from '../../../core/backdrop/delivered'
import { FAMILIES } from '../../../core/weight/families'
import { enginesFor } from '../../../core/weight/support'
import { useSettings } from '../../api/queries'
import { useBackdrop } from '../../state/backdropStore'
import type { LoadedSources } from '../../state/loadedSources'
import type { Limits } from '../Room'
import { useWork } from '../../state/workStore'
import { Button, Choice, Note, NumberField, Slider, Toggle } from '../../ui/controls'
import { FORMAT_NAMES, formatBytes } from '../../ui/format'
import { madeVisits } from '../Balance'
import { overFloors } from './overFloors'

interface Props {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
  readonly screenClass: ScreenClass
  readonly projectId: string
  readonly Limits: Limits | undefined
}

type RowProps = Omit<Props, 'projectId' | 'Limits'>

/** The renditions of one class of screens: whether it has own files, and how they are made. */
export function RenditionRow({ document, sources, screenClass, projectId, Limits }: Props) {
  const set = useRowChange(screenClass)
  const row = document.weight.renditions[screenClass]
  const parts = { document, sources, screenClass }
  const clips = rendersClips(document)
  const use = picturesOf(document)
  return (
    <>
      <RowHead {...parts} />
      {row.locked && <p className="text-xs text-muted">Locked. Unlock the row to change it.</p>}
      <fieldset
        disabled={row.locked}
        className="flex flex-col gap-3 disabled:opacity-60"
        aria-label={`Files for ${SCREENS[screenClass].label}`}
      >
        <RowSizes {...parts} />
        <RowFigures {...parts} />
        <ProjectBudget
          projectId={projectId}
          screenClass={screenClass}
          budgetBytes={row.budgetBytes}
          onTake={(budget) => set({ budgetBytes: budget })}
        />
        {use?.fills && (
          <Choice
            label="Picture"
            value={row.crop}
            onChange={(crop) => set({ crop })}
            options={[
              { value: 'screen', label: 'Cropped', note: 'to what its windows show' },
              { value: 'whole', label: 'Whole' },
            ]}
          />
        )}
        <RowBlur screenClass={screenClass} strength={row.copyBlur} />
        {clips ? (
          <RowFormats {...parts} projectId={projectId} />
        ) : (
          <PictureLimits document={document} screenClass={screenClass} Limits={Limits} />
        )}
      </fieldset>
      {clips && <FloorNotes {...parts} />}
    </>
  )
}

/** How heavy an image may be, and in which formats it is delivered. */
function PictureLimits({
  document,
  screenClass,
  Limits,
}: Pick<Props, 'document' | 'screenClass' | 'Limits'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  return (
    <>
      {Limits && <Limits document={document} screenClass={screenClass} />}
      <NumberField
        label={Limits ? 'Maximum of the first picture' : 'Maximum of one picture'}
        value={document.poster.maxBytes[screenClass] / 1000}
        low={2}
        high={100_000}
        suffix="kB"
        onChange={(kilobytes) =>
          dispatch({ type: 'poster/max-bytes', screenClass, bytes: kilobytes * 1000 })
        }
      />
      <Toggle
        label="AVIF"
        note="Lighter than WebP and JPEG at the same quality; rendering takes longer. For all screens."
        enabled={document.poster.avif}
        onChange={(enabled) => dispatch({ type: 'poster/avif', enabled })}
      />
      <p className="text-xs text-muted">
        Each picture is as fine as this allows, and no heavier than needed to look like the
        original. Screens with twice the density get twice the width, where the image has it.
      </p>
    </>
  )
}

/** Changes fields of a row. */
function useRowChange(screenClass: ScreenClass) {
  const dispatch = useBackdrop((state) => state.dispatch)
  return (row: Partial<Omit<RenditionSettings, 'formats' | 'locked'>>): void =>
    dispatch({ type: 'weight/row', screenClass, row })
}

/** Whether the class has files of its own, and the lock. */
function RowHead({ document, sources, screenClass }: RowProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const set = useRowChange(screenClass)
  const from = sources.known
  const row = document.weight.renditions[screenClass]
  const clips = rendersClips(document)
  const own = (clips ? deliveredClasses : posterClasses)(document, from).includes(screenClass)
  const size = renditionOf(document, from, screenClass)
  return (
    <div className="flex items-start justify-between gap-2">
      <Toggle
        label="Own files for this screen"
        enabled={row.enabled}
        onChange={(on) => set({ enabled: on })}
        note={
          own
            ? `${size.width} × ${size.height} px`
            : row.enabled
              ? screenClass === 'phone' && document.behaviour.phone === 'poster'
                ? 'phones show the poster (set under Behaviour)'
                : 'same as the next wider file'
              : 'uses the files of the next screen'
        }
      />
      <Button
        tone="quiet"
        aria-pressed={row.locked}
        onClick={() => dispatch({ type: 'weight/lock', screenClass, locked: !row.locked })}
        title={row.locked ? 'Unlock this row' : 'Lock: suggestions will not change this row'}
        aria-label={row.locked ? 'Unlock this row' : 'Lock this row'}
      >
        {row.locked ? (
          <Lock className="size-4" aria-hidden />
        ) : (
          <LockOpen className="size-4" aria-hidden />
        )}
      </Button>
    </div>
  )
}

function RowSizes({ document, sources, screenClass }: RowProps) {
  const set = useRowChange(screenClass)
  const row = document.weight.renditions[screenClass]
  const own = sequenceOf(document, sources.known)?.frameRate ?? { num: 30, den: 1 }
  const clipFps = Math.min(
    60,
    Math.max(...[...sources.known.values()].map(({ fps }) => fps ?? 0), 0),
  )
  return (
    <div className="flex gap-2">
      <NumberField
        label="First visit"
        value={row.budgetBytes / 1000}
        low={20}
        high={100_000}
        suffix="kB"
        onChange={(kilobytes) => set({ budgetBytes: kilobytes * 1000 })}
      />
      <NumberField
        label="Width"
        value={row.width}
        low={160}
        high={3840}
        suffix="px"
        onChange={(width) => set({ width })}
      />
      {rendersClips(document) && (
        <NumberField
          label="Rate"
          suffix="fps"
          value={toNumber(row.frameRate ?? own)}
          low={5}
          high={60}
          decimals={2}
          onChange={(fps) =>
            set({
              frameRate:
                fps === toNumber(own)
                  ? null
                  : nearestRate(Math.min(fps, Math.max(clipFps, toNumber(own)))),
            })
          }
        />
      )}
    </div>
  )
}

/** What a first visit takes, or how its budget is divided while files are not rendered. */
function RowFigures({ document, sources, screenClass }: RowProps) {
  const made = useWork((state) => state.made)
  const row = document.weight.renditions[screenClass]
  const visit = madeVisits({ document, sources, made }).find(
    (each) => each.screenClass === screenClass,
  )!
  const widest = pictureSize(document, sources.known).width
  return (
    <p className="text-xs text-muted">
      {!rendersClips(document)
        ? visit.poster > 0
          ? `Takes ${formatBytes(visit.total)}: picture ${formatBytes(visit.poster)} at most, page and style at most ${formatBytes(visit.page)}.`
          : `Of this, ${formatBytes(posterMaxBytes(document, screenClass))} at most for the picture, the rest for page and style.`
        : visit.clip > 0
          ? `Takes ${formatBytes(visit.total)}: poster ${formatBytes(visit.poster)}, clip ${formatBytes(visit.clip)}, page, style and script at most ${formatBytes(visit.page)}.`
          : `Of this, ${formatBytes(clipBudget(document, screenClass))} for the clip, ${formatBytes(posterMaxBytes(document, screenClass))} for the poster, the rest for page, style and script.`}
      {row.width > widest && ` The picture is ${widest} px wide; it is never enlarged.`}
    </p>
  )
}

function RowBlur({ screenClass, strength }: { screenClass: ScreenClass; strength: number }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  return (
    <>
      <Slider
        label="Blur behind the copy"
        value={strength}
        low={0}
        high={1}
        step={0.1}
        shown={strength === 0 ? 'no' : `${Math.round(strength * 100)} %`}
        onChange={(value, gesture) =>
          dispatch(
            { type: 'weight/row', screenClass, row: { copyBlur: Math.round(value * 10) / 10 } },
            gesture,
          )
        }
      />
      {strength > 0 && (
        <p className="text-xs text-muted">
          Blurs poster and clip behind the copy on this screen. Visible on the stage once the files
          are rendered.
        </p>
      )}
    </>
  )
}

function RowFormats({ document, sources, screenClass, projectId }: Omit<Props, 'Limits'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const from = sources.known
  const row = document.weight.renditions[screenClass]
  const own = deliveredClasses(document, from).includes(screenClass)
  // The class whose H.264 is used if this row has none.
  const fallback =
    own && !row.formats.h264
      ? clipsTaken(
          screenClass,
          document,
          clipRecipes(document, from).map((clip) => ({
            screenClass: clip.screenClass,
            family: clip.recipe.family,
          })),
        ).find(({ family, screenClass: each }) => family === 'h264' && each !== screenClass)
          ?.screenClass
      : undefined
  const lastForAll =
    row.formats.h264 &&
    row.enabled &&
    SCREEN_CLASSES.filter(
      (each) =>
        document.weight.renditions[each].enabled && document.weight.renditions[each].formats.h264,
    ).length === 1
  return (
    <div className="flex flex-col gap-2">
      <span className="text-xs text-muted">Formats, and the engines that play them</span>
      {FAMILIES.map((family) => (
        <FormatToggle
          key={family}
          family={family}
          projectId={projectId}
          loops={sequenceOf(document, from)?.loops ?? false}
          enabled={row.formats[family]}
          kept={family === 'h264' && lastForAll}
          onChange={(on) =>
            dispatch({ type: 'weight/format', screenClass, format: family, enabled: on })
          }
        />
      ))}
      {fallback && (
        <p className="text-xs text-muted">
          Browsers that play none of these take {SCREENS[fallback].label}’s H.264; a first visit
          counts it.
        </p>
      )}
    </div>
  )
}

/** A format of a row, with the browser engines that play it. */
function FormatToggle({
  family,
  projectId,
  loops,
  enabled: on,
  kept,
  onChange,
}: {
  family: (typeof FAMILIES)[number]
  projectId: string
  loops: boolean
  enabled: boolean
  kept: boolean
  onChange: (on: boolean) => void
}) {
  const { support } = useSettings(projectId)
  const words = { yes: '', some: ' in part', no: ' not' } as const
  const engines = enginesFor(support, family, containerOf({ family, sequence: { loops } }))
  return (
    <div
      title={engines
        .map(({ engine, note }) => `${engine}: ${note || 'all current versions'}`)
        .join('\n')}
    >
      <Toggle
        label={FORMAT_NAMES[family]}
        note={
          kept
            ? 'Required for at least one screen, because every browser plays it.'
            : `${engines.map(({ engine, verdict }) => `${engine}${words[verdict]}`).join(', ')} (table of ${support.date})`
        }
        enabled={on}
        onChange={onChange}
      />
    </div>
  )
}

/** The project's budget, if this row has another. */
function ProjectBudget({
  projectId,
  screenClass,
  budgetBytes: budget,
  onTake,
}: {
  projectId: string
  screenClass: ScreenClass
  budgetBytes: number
  onTake: (budget: number) => void
}) {
  const { budgets } = useSettings(projectId)
  if (budgets[screenClass] === budget) return null
  return (
    <p className="text-xs text-muted">
      Budget of the project: {formatBytes(budgets[screenClass])}.{' '}
      <button type="button" className="underline" onClick={() => onTake(budgets[screenClass])}>
        Use it
      </button>
    </p>
  )
}

/** Budgets below the minimum size of a format. */
function FloorNotes({ document, sources, screenClass }: RowProps) {
  const made = useWork((state) => state.made)
  const floors = overFloors(document, sources, made).filter(
    (floor) => floor.screenClass === screenClass,
  )
  return floors.map(({ family, floor, budgetBytes: budget }) => (
    <Note key={family} tone="fix">
      {FORMAT_NAMES[family]} cannot encode this clip below about {formatBytes(floor)} at this size;
      the budget leaves {formatBytes(budget)}. Measure below what would help, or switch the format
      off here.
    </Note>
  ))
}
