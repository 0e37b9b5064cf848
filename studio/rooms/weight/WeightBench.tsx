import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { savesEnough } from '../../../core/backdrop/measureAdvice'
import {
  classesServedBy,
  pageParts,
  pictureSize,
  posterRecipes,
} from '../../../core/backdrop/recipe'
import { sharedFocal } from '../../../core/fit/focal'
import { SCREENS, SCREEN_CLASSES, type ScreenClass } from '../../../core/fit/screens'
import { rendersClips, picturesOf } from '../../../core/backdrop/delivered'
import { detailOf } from '../../../core/material/findings'
import { proposeRenditions } from '../../../core/weight/proposeRenditions'
import { useSettings } from '../../api/queries'
import { adviceKey, useAdvice } from '../../state/adviceStore'
import { useBackdrop } from '../../state/backdropStore'
import type { LoadedSources } from '../../state/loadedSources'
import { rendersApart } from '../../state/workStore'
import { Button, Choice, Group, Note, Progress, Slider } from '../../ui/controls'
import { formatBytes } from '../../ui/format'
import type { BenchProps } from '../Room'
import { EncoderChoice } from './EncoderChoice'
import { MakeFiles } from './MakeFiles'
import { RenditionRow } from './RenditionRow'
import { useWeightView } from './weightView'

interface PartProps {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
}

/** Goal, renditions and suggestions; renders the files. */
export function WeightBench({ document, sources, projectId, Limits }: BenchProps) {
  const screenClass = useWeightView((state) => state.screenClass)
  const open = useWeightView((state) => state.set)
  const clips = rendersClips(document)
  if (!clips && !picturesOf(document)) return <NoFiles document={document} />
  return (
    <>
      <MakeFiles document={document} sources={sources} />
      {clips && <GoalGroup document={document} sources={sources} />}
      <EncoderChoice document={document} sources={sources} />
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
        {posterRecipes(document, sources.known)[0]?.recipe.format === 'svg' && (
          <Note tone="plain">
            This drawing is delivered as one SVG for all screens. Widths apply only where it must be
            drawn in pixels: with blur behind the copy, or above the limit of a picture.
          </Note>
        )}
        <RenditionRow
          document={document}
          sources={sources}
          screenClass={screenClass}
          projectId={projectId}
          Limits={Limits}
        />
        <SuggestRenditions document={document} sources={sources} projectId={projectId} />
        <ProjectWindows document={document} projectId={projectId} />
      </Group>
      {clips && <AdviceGroup document={document} sources={sources} screenClass={screenClass} />}
    </>
  )
}

/** A base without files: what the page itself takes. */
function NoFiles({ document }: Pick<PartProps, 'document'>) {
  const { markup, style, script } = pageParts(document)
  return (
    <Group title="Files" aside="none">
      <p className="text-muted">
        Nothing is rendered or loaded: the style draws it. A first visit takes the page’s own parts
        alone, at most {formatBytes(markup + style + script)} compressed (markup{' '}
        {formatBytes(markup)}, style {formatBytes(style)}
        {script > 0 && `, script ${formatBytes(script)}`}).
      </p>
    </Group>
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
      Screens of the project: phones up to {limits.phone} px, laptops up to {limits.laptop} px.{' '}
      <button
        type="button"
        className="underline"
        onClick={() => dispatch({ type: 'weight/set', weight: { breakpoints: limits } })}
      >
        Use them
      </button>
    </p>
  )
}

/** Renditions suggested from the picture, the screens and the scrim. */
function SuggestRenditions({ document, sources, projectId }: PartProps & { projectId: string }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { screens } = useSettings(projectId)
  const picture = pictureSize(document, sources.known)
  const detail = detailOf(sources.all.flatMap(({ findings }) => findings))
  const rows = proposeRenditions({
    picture,
    detail,
    height: document.fit.height,
    breakpoints: document.weight.breakpoints,
    focalOf: (each) => sharedFocal(document.fit, classesServedBy(document, each)),
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
        {detail < 1 ? '. The clip has detail for half its width only.' : '.'}
      </p>
    </div>
  )
}

/** Changes that make a class lighter, with the measured saving of each. */
function AdviceGroup({ document, sources, screenClass }: PartProps & { screenClass: ScreenClass }) {
  const { of, advice, running, done, error, measure, cancel } = useAdvice()
  const dispatch = useBackdrop((state) => state.dispatch)
  const key = adviceKey(document, sources, screenClass)
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
            <Button onClick={() => take(id)} aria-label={`Use: ${title}`}>
              Take
            </Button>
          </div>
        ))}
      {current && !running && grain && !savesEnough(grain) && (
        <p className="text-xs text-muted">
          Noise reduction saves {formatBytes(Math.max(0, grain.savesBytes))},{' '}
          {Math.max(0, Math.round(grain.saves * 100))} %: too little for the detail it loses.
        </p>
      )}
      {current && !running && useful.length === 0 && advice.length > 0 && (
        <p className="text-xs text-muted">None of the tested options saves a useful amount.</p>
      )}
      {!running && (
        <>
          <Button onClick={() => void measure(document, sources, screenClass)}>
            {current ? 'Measure again' : 'Test options'}
          </Button>
          {!current && (
            <p className="text-xs text-muted">
              Each option is tested with short encodes{rendersApart(document) && ' of this browser'}
              . Savings are for the clip’s bytes at equal quality.
            </p>
          )}
        </>
      )}
    </Group>
  )
}
