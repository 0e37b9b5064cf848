import { Lock, LockOpen } from 'lucide-react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument, RenditionSettings } from '../../core/backdrop/BackdropDocument'
import { savesEnough } from '../../core/backdrop/measureAdvice'
import { clipsTaken } from '../../core/backdrop/listedClips'
import {
  classesServedBy,
  clipBudget,
  clipRecipes,
  containerOf,
  deliveredClasses,
  pictureSize,
  renditionOf,
  posterMaxBytes,
} from '../../core/backdrop/recipe'
import { FAMILIES } from '../../core/weight/families'
import { SCREENS, SCREEN_CLASSES, type ScreenClass } from '../../core/fit/screens'
import { nearestRate, toNumber } from '../../core/loop/Fraction'
import { detailOf } from '../../core/material/findings'
import { proposeRenditions } from '../../core/weight/proposeRenditions'
import { enginesFor } from '../../core/weight/support'
import { madeVisits } from '../balance/readouts'
import { useWeightView } from '../deck/weight/weightView'
import { adviceKey, useAdvice } from '../state/adviceStore'
import { useBackdrop } from '../state/backdropStore'
import { useSettings } from '../api/queries'
import { recipeSource, useWork } from '../state/workStore'
import { Button, Choice, Group, Note, NumberField, Progress, Slider, Toggle } from '../ui/controls'
import { FORMAT_NAMES, formatBytes } from '../ui/format'
import type { BenchProps } from './benches'
import { MakeFiles } from './MakeFiles'
import { overFloors } from '../balance/overFloors'
import { sourceFps } from '../../core/media/probe'

interface PartProps {
  readonly document: BackdropDocument
  readonly source: ClipSource
}

/** Goal, renditions and suggestions; renders the files. */
export function WeightBench({ document, source, projectId }: BenchProps) {
  const screenClass = useWeightView((state) => state.screenClass)
  const open = useWeightView((state) => state.set)
  return (
    <>
      <MakeFiles document={document} source={source} />
      <GoalGroup document={document} source={source} />
      <Group title="Files for each screen" aside="renditions">
        <Choice
          label="Screen"
          hideLabel
          value={screenClass}
          onChange={(next) => open({ screenClass: next })}
          options={SCREEN_CLASSES.map((each) => ({
            value: each,
            label: SCREENS[each].label,
            note: windowsOf(each, document),
          }))}
        />
        <RowFields
          document={document}
          source={source}
          screenClass={screenClass}
          projectId={projectId}
        />
        <SuggestRenditions document={document} source={source} projectId={projectId} />
        <ProjectWindows document={document} projectId={projectId} />
      </Group>
      <AdviceGroup document={document} source={source} screenClass={screenClass} />
    </>
  )
}

function windowsOf(screenClass: ScreenClass, { weight }: BackdropDocument): string {
  const { phone, laptop } = weight.breakpoints
  return screenClass === 'phone'
    ? `to ${phone} px`
    : screenClass === 'laptop'
      ? `to ${laptop} px`
      : 'wider'
}

/** Size budget or constant quality. */
function GoalGroup({ document }: PartProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { goal, targetSsim, noiseReduction } = document.weight
  return (
    <Group title="Optimise for">
      <Choice
        label="Optimise for"
        hideLabel
        value={goal}
        onChange={(next) => dispatch({ type: 'weight/set', weight: { goal: next } })}
        options={[
          { value: 'budget', label: 'Size budget', note: 'best quality that fits' },
          { value: 'quality', label: 'Constant quality', note: 'SSIM, any size' },
        ]}
      />
      {goal === 'quality' && (
        <Slider
          label="Target SSIM (0.985 is visually lossless)"
          value={targetSsim}
          low={0.85}
          high={0.995}
          step={0.005}
          shown={targetSsim.toFixed(3)}
          onChange={(value, gesture) =>
            dispatch(
              { type: 'weight/set', weight: { targetSsim: Math.round(value * 1000) / 1000 } },
              gesture,
            )
          }
        />
      )}
      <Slider
        label="Reduce noise"
        value={noiseReduction}
        low={0}
        high={1}
        step={0.1}
        shown={noiseReduction === 0 ? 'no' : `${Math.round(noiseReduction * 100)} %`}
        onChange={(value, gesture) =>
          dispatch(
            { type: 'weight/set', weight: { noiseReduction: Math.round(value * 10) / 10 } },
            gesture,
          )
        }
      />
    </Group>
  )
}

/** One row of renditions. */
function RowFields({
  document,
  source,
  screenClass,
  projectId,
}: PartProps & { screenClass: ScreenClass; projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const made = useWork((state) => state.made)
  const from = recipeSource(source)
  const row = document.weight.renditions[screenClass]
  const own = deliveredClasses(document, from).includes(screenClass)
  const visit = madeVisits({ document, source, made }).find(
    (each) => each.screenClass === screenClass,
  )!
  const set = (change: Partial<Omit<RenditionSettings, 'formats' | 'locked'>>): void =>
    dispatch({ type: 'weight/row', screenClass, row: change })
  const size = renditionOf(document, from, screenClass)
  const widest = pictureSize(document, from).width
  const clipFps = Math.min(60, sourceFps(source.facts.video))
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
    <>
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
      {row.locked && <p className="text-xs text-muted">Locked. Unlock the row to change it.</p>}
      <fieldset
        disabled={row.locked}
        className="flex flex-col gap-3 disabled:opacity-60"
        aria-label={`Files for ${SCREENS[screenClass].label}`}
      >
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
          <NumberField
            label="Rate"
            suffix="fps"
            value={toNumber(row.frameRate ?? document.timing.frameRate)}
            low={5}
            high={60}
            decimals={2}
            onChange={(fps) =>
              set({
                frameRate:
                  fps === toNumber(document.timing.frameRate)
                    ? null
                    : nearestRate(
                        Math.min(fps, Math.max(clipFps, toNumber(document.timing.frameRate))),
                      ),
              })
            }
          />
        </div>
        <p className="text-xs text-muted">
          {visit.clip > 0
            ? `Takes ${formatBytes(visit.total)}: poster ${formatBytes(visit.poster)}, clip ${formatBytes(visit.clip)}, page, style and script at most ${formatBytes(visit.page)}.`
            : `Of it ${formatBytes(clipBudget(document, screenClass))} for the clip, ${formatBytes(posterMaxBytes(document, screenClass))} for the still, the rest for page, style and script.`}
          {row.width > widest && ` The picture is ${widest} px wide; it is never enlarged.`}
        </p>
        <ProjectBudget
          projectId={projectId}
          screenClass={screenClass}
          budgetBytes={row.budgetBytes}
          onTake={(budget) => set({ budgetBytes: budget })}
        />
        <Choice
          label="Picture"
          value={row.crop}
          onChange={(crop) => set({ crop })}
          options={[
            { value: 'screen', label: 'Cropped', note: 'to what its windows show' },
            { value: 'whole', label: 'Whole' },
          ]}
        />
        <Slider
          label="Blur behind the copy"
          value={row.soften}
          low={0}
          high={1}
          step={0.1}
          shown={row.soften === 0 ? 'no' : `${Math.round(row.soften * 100)} %`}
          onChange={(value, gesture) =>
            dispatch(
              { type: 'weight/row', screenClass, row: { soften: Math.round(value * 10) / 10 } },
              gesture,
            )
          }
        />
        {row.soften > 0 && (
          <p className="text-xs text-muted">
            Blurs poster and clip behind the copy on this screen. Visible on the stage once the
            files are rendered.
          </p>
        )}
        <div className="flex flex-col gap-2">
          <span className="text-xs text-muted">Formats, and the engines that play them</span>
          {FAMILIES.map((family) => (
            <FormatToggle
              key={family}
              family={family}
              projectId={projectId}
              loops={document.timing.repeat === 'loop'}
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
      </fieldset>
      <FloorNotes document={document} source={source} screenClass={screenClass} />
    </>
  )
}

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
  const engines = enginesFor(support, family, containerOf({ family, loops }))
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
      The project’s own is {formatBytes(budgets[screenClass])}.{' '}
      <button type="button" className="underline" onClick={() => onTake(budgets[screenClass])}>
        Take it
      </button>
    </p>
  )
}

/** The project's windows, if this backdrop has others. */
function ProjectWindows({
  document,
  projectId,
}: {
  document: BackdropDocument
  projectId: string
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { breakpoints: limits } = useSettings(projectId)
  const { phone, laptop } = document.weight.breakpoints
  if (limits.phone === phone && limits.laptop === laptop) return null
  return (
    <p className="text-xs text-muted">
      In the project phones’ windows go to {limits.phone} px, laptops’ to {limits.laptop} px.{' '}
      <button
        type="button"
        className="underline"
        onClick={() => dispatch({ type: 'weight/set', weight: { breakpoints: limits } })}
      >
        Take them
      </button>
    </p>
  )
}

/** What no encoder can do: budgets below the fewest bytes that a format makes of the clip. */
function FloorNotes({ document, source, screenClass }: PartProps & { screenClass: ScreenClass }) {
  const made = useWork((state) => state.made)
  const floors = overFloors(document, source, made).filter(
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

/** Renditions suggested from the picture, the screens and the scrim. */
function SuggestRenditions({ document, source, projectId }: PartProps & { projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { screens } = useSettings(projectId)
  const picture = pictureSize(document, recipeSource(source))
  const detail = detailOf(source.findings)
  const rows = proposeRenditions({
    picture,
    detail,
    height: document.fit.height,
    breakpoints: document.weight.breakpoints,
    focal: document.fit.focal,
    scrim: document.scrim,
    copy: document.copy,
    screens,
    servedBy: (each) => classesServedBy(document, each),
  })
  const differs = SCREEN_CLASSES.filter(
    (each) =>
      !document.weight.renditions[each].locked &&
      (document.weight.renditions[each].width !== rows[each].width ||
        document.weight.renditions[each].crop !== rows[each].crop),
  )
  if (differs.length === 0) return null
  return (
    <div className="flex flex-col gap-1">
      <Button onClick={() => dispatch({ type: 'weight/renditions', rows })}>
        Use suggested sizes
      </Button>
      <p className="text-xs text-muted">
        {differs
          .map(
            (each) =>
              `${SCREENS[each].label} ${rows[each].width} px${rows[each].crop === 'screen' ? ', cropped' : ''}`,
          )
          .join('; ')}
        {detail < 1 ? '. The clip holds detail for half its width only.' : '.'}
      </p>
    </div>
  )
}

/** Changes that make a class lighter, with the measured saving of each. */
function AdviceGroup({ document, source, screenClass }: PartProps & { screenClass: ScreenClass }) {
  const { of, advice, running, done, error, measure, cancel } = useAdvice()
  const dispatch = useBackdrop((state) => state.dispatch)
  const key = adviceKey(document, source, screenClass)
  const current = key !== null && of === key
  const take = (id: string): void => {
    const gesture = crypto.randomUUID()
    advice.find((each) => each.id === id)?.actions.forEach((action) => dispatch(action, gesture))
  }
  const useful = advice.filter(savesEnough)
  const grain = advice.find((each) => each.id === 'noise-reduction')
  if (key === null)
    return (
      <Group title="Ways to reduce size" aside={SCREENS[screenClass].label}>
        <p className="text-xs text-muted">
          This screen has no files of its own. Choose the screen whose files it uses.
        </p>
      </Group>
    )
  return (
    <Group title="Ways to reduce size" aside={SCREENS[screenClass].label}>
      {running && (
        <>
          <Progress value={done} label="Measured" />
          <p className="text-xs text-muted" role="status">
            Testing options with short encodes …{' '}
            <button type="button" className="underline" onClick={cancel}>
              Stop
            </button>
          </p>
        </>
      )}
      {error && <Note tone="fix">{error}</Note>}
      {current &&
        useful.map(({ id, title, because, saves, savesBytes }) => (
          <div
            key={id}
            className="flex items-start justify-between gap-2 border-b border-line pb-2"
          >
            <div>
              <span className="font-medium">{title}</span>{' '}
              <span className="whitespace-nowrap">
                saves {formatBytes(savesBytes)}, {Math.round(saves * 100)} %
              </span>
              <p className="text-xs text-muted">{because}</p>
            </div>
            <Button onClick={() => take(id)} aria-label={`Take: ${title}`}>
              Take
            </Button>
          </div>
        ))}
      {current && !running && grain && !savesEnough(grain) && (
        <p className="text-xs text-muted">
          Grain costs {formatBytes(Math.max(0, grain.savesBytes))},{' '}
          {Math.max(0, Math.round(grain.saves * 100))} %: less than its loss is worth.
        </p>
      )}
      {current && !running && useful.length === 0 && advice.length > 0 && (
        <p className="text-xs text-muted">None of the tested options saves a useful amount.</p>
      )}
      {!running && (
        <>
          <Button onClick={() => void measure(document, source, screenClass)}>
            {current ? 'Measure again' : 'Test options'}
          </Button>
          {!current && (
            <p className="text-xs text-muted">
              Each option is tested with short encodes. Savings are for the clip’s bytes at equal
              quality.
            </p>
          )}
        </>
      )}
    </Group>
  )
}
