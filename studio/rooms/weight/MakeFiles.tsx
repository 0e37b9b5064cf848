import { useEffect } from 'react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { recipeKey } from '../../../core/backdrop/recipe'
import { effortOf, progressOf } from '../../state/effort'
import type { LoadedSources } from '../../state/loadedSources'
import { useRenderWorkers } from '../../api/queries'
import {
  finalRecipes,
  isUnsure,
  missingWork,
  rendersApart,
  useWork,
  type Job,
} from '../../state/workStore'
import { Button, Group, Note, Progress } from '../../ui/controls'
import { FORMAT_NAMES, formatDuration, formatLeft, STEP_NAMES as STEPS } from '../../ui/format'
import { useNow } from '../../ui/useNow'

/** What is rendering, in words. */
function describeJob({ recipe, pass, apart }: Job): string {
  if (recipe.kind === 'poster')
    return `${recipe.shared ? `slide ${recipe.shared.index + 1}` : recipe.sequence.kind === 'image' ? 'image' : 'poster'} ${recipe.width} px, ${recipe.format}`
  const what = `${FORMAT_NAMES[recipe.family]} ${recipe.width} px`
  if (apart?.step && apart.step !== 'pass') return `${what}, ${STEPS[apart.step]}`
  return recipe.kind === 'probe' ? `${what}, ${STEPS.probe}` : `${what}, pass ${pass + 1}`
}

/** The button that makes what is missing, with progress, time left and cancel. */
export function MakeFiles({
  document,
  sources,
}: {
  document: BackdropDocument
  sources: LoadedSources
}) {
  const {
    made,
    absent,
    lookProblem,
    jobs: own,
    apart,
    effortPerSecond,
    makeFinals,
    resume,
    cancelFinals,
  } = useWork()
  // Continues files whose rendering was interrupted when the page was left; finished ones are kept.
  useEffect(() => void resume(document, sources), [document, sources, resume])
  const jobs = [...own, ...apart]
  const isApart = rendersApart(document)
  const usual = effortPerSecond[isApart ? 'worker' : 'here']
  const recipes = finalRecipes(document, sources.known)
  const missing = recipes.filter((recipe) => !made[recipeKey(recipe)])
  const active = jobs.filter((job) => job.state !== 'failed')
  const now = useNow(active.length > 0)
  const failed = jobs.filter((job) => job.state === 'failed')
  if (active.length > 0) {
    const running = active.find((job) => job.state === 'running')
    const { share, secondsLeft } = progressOf(active, recipes, usual, now)
    return (
      <Group title="Rendering files" aside={formatLeft(secondsLeft)}>
        <Progress value={share} label="Files rendered" />
        <p className="text-xs text-muted" role="status">
          {running ? describeJob(running) : apart.length > 0 ? 'waiting' : 'starting'};{' '}
          {active.length} to go.{' '}
          {running?.apart?.worker && `Rendered by the render worker on ${running.apart.worker}. `}
          {apart.length > 0
            ? 'You can close this page: the files are rendered all the same.'
            : 'You can keep working.'}
        </p>
        {apart.length > 0 && !running && <WaitingWords jobs={apart} />}
        <Button onClick={cancelFinals}>Cancel (keeps finished files)</Button>
      </Group>
    )
  }
  if (
    missing.length > 0 &&
    failed.length === 0 &&
    isUnsure({ made, absent, lookProblem }, missing.map(recipeKey))
  ) {
    return (
      <Group title="Files">
        <p role="status" className="text-muted">
          {lookProblem === null
            ? 'Checking which files exist …'
            : `Telon could not check which files exist. ${lookProblem} It will try again automatically.`}
        </p>
      </Group>
    )
  }
  return (
    <Group title="Files" aside={`${recipes.length - missing.length} of ${recipes.length} made`}>
      {failed.map((job) => (
        <Note key={job.key} tone="fix">
          {describeJob(job)}: {job.message}
        </Note>
      ))}
      {missing.length > 0 ? (
        <Button tone="accent" onClick={() => void makeFinals(document, sources)}>
          {failed.length > 0
            ? 'Try again'
            : recipes.length === missing.length
              ? 'Render files'
              : `Render ${missing.length} missing files`}
        </Button>
      ) : (
        <Note tone="plain">All files are up to date</Note>
      )}
      {missing.length > 0 && (missing.length < recipes.length || usual !== null) && (
        <p className="text-xs text-muted">
          {usual !== null &&
            `Takes ${formatDuration(missingWork(document, sources.known, made).reduce((sum, recipe) => sum + effortOf(recipe), 0) / usual)} ${isApart ? 'by the render worker' : 'on this machine'}. `}
          {missing.length < recipes.length && 'Only files affected by a change are rendered again.'}
        </p>
      )}
    </Group>
  )
}

/** Why jobs wait, where no render worker can take them. */
function WaitingWords({ jobs }: { jobs: readonly Job[] }) {
  const { data: workers } = useRenderWorkers()
  if (!workers) return null
  const waiting = jobs.filter(({ state }) => state === 'queued')
  const has = (encoder: string | null): boolean =>
    workers.some(({ encoders }) => encoder === null || encoders.includes(encoder))
  const lacking = waiting.find(({ recipe }) => !has(recipe.encoder))
  if (!lacking) return null
  return (
    <Note tone="fix">
      {workers.length === 0
        ? 'No render worker is running. The files wait until one is: start Telon with npm start, or choose the encoders of this browser.'
        : `No render worker has ${lacking.recipe.encoder}. Choose the encoder again below.`}
    </Note>
  )
}
