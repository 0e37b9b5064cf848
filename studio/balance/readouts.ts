import type { ClipSource } from '../../core/api/wire'
import { describeFinding } from '../../core/material/describeFinding'
import { findingsLeftBy, findingsWithin } from '../../core/material/findings'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { firstVisits, type FirstVisit } from '../../core/backdrop/firstVisit'
import {
  clipRecipes,
  loopOf,
  pictureSize,
  posterRecipes,
  proofRecipe,
  recipeKey,
  type Recipe,
} from '../../core/backdrop/recipe'
import { outcomes } from '../../core/behaviour/conditions'
import { keptWidth, regionHeightPx } from '../../core/fit/cover'
import { SCREENS } from '../../core/fit/screens'
import { loopSeconds } from '../../core/loop/framePlan'
import type { Job } from '../state/workStore'
import { finalRecipes, isUnsure, recipeSource } from '../state/workStore'
import type { Rendition } from '../../core/api/wire'
import { FORMAT_NAMES, formatFps, megabytes } from '../ui/format'
import type { Standing } from '../ui/controls'
import { overFloors } from './overFloors'
import { seamMeaning } from '../deck/timing/seamMeaning'

/** The seven readouts, in the order of the work. */
export const READOUTS = [
  'material',
  'timing',
  'legibility',
  'fit',
  'behaviour',
  'weight',
  'handoff',
] as const
export type ReadoutName = (typeof READOUTS)[number]

export const READOUT_LABELS: Record<ReadoutName, string> = {
  material: 'Material',
  timing: 'Timing',
  legibility: 'Legibility',
  fit: 'Fit',
  behaviour: 'Behaviour',
  weight: 'Weight',
  handoff: 'Handoff',
}

/** Content of a readout: a figure with its unit, a line below, and its state. */
export interface Readout {
  readonly figure: string
  readonly unit: string
  readonly note: string
  readonly standing: Standing
}

/** Everything the readouts are read from. */
export interface Balance {
  readonly document: BackdropDocument
  readonly source: ClipSource
  readonly made: Readonly<Record<string, Rendition>>
  /** Keys of files that the server does not have, and why it could not be asked. */
  readonly absent: Readonly<Record<string, true>>
  readonly lookProblem: string | null
  readonly jobs: readonly Job[]
  readonly proof: Job | null
  readonly contrast: number | null
  readonly needed: number
}

/** Motion that starts by itself and lasts longer must be pausable. Source: WCAG 2.2, 2.2.2. */
const PAUSE_AFTER_SECONDS = 5

/** One readout's state, from measured figures only. */
export function readoutOf(name: ReadoutName, balance: Balance): Readout {
  return READERS[name](balance)
}

const READERS: Record<ReadoutName, (balance: Balance) => Readout> = {
  material({ document, source }) {
    const { averageFps } = source.facts.video
    const { width, height } = pictureSize(document, recipeSource(source))
    const { cut } = document.timing
    const [gravest] = findingsWithin(
      findingsLeftBy(source.findings, document.picture.crop),
      (cut.start * 1000) / cut.timescale,
      (cut.end * 1000) / cut.timescale,
    ).filter((finding) => finding.weight !== 'note')
    return {
      figure: String(Math.min(width, height)),
      unit: 'p',
      note: gravest
        ? describeFinding(gravest).title
        : `${source.name}, ${formatFps(averageFps)} fps`,
      standing: gravest ? (gravest.weight === 'fix' ? 'fix' : 'look') : 'settled',
    }
  },
  timing({ document, source, made, proof }) {
    const seconds = loopSeconds(loopOf(document))
    const rendition = made[recipeKey(proofRecipe(document, recipeSource(source)))]
    const seam = rendition?.facts.kind === 'clip' ? rendition.facts.seam : null
    const base = { figure: seconds.toFixed(1), unit: 's' }
    const { repeat, atEnd } = document.timing
    if (repeat === 'once')
      return {
        ...base,
        note:
          atEnd === 'fade' ? 'plays once, fades to the poster' : 'plays once, holds its last frame',
        standing: 'settled',
      }
    if (!rendition)
      return {
        ...base,
        note: proof?.state === 'failed' ? 'no proof, see the stage' : 'seam is being measured',
        standing: proof?.state === 'failed' ? 'fix' : 'busy',
      }
    if (!seam) return { ...base, note: 'hardly moves', standing: 'settled' }
    const { words, standing } = seamMeaning(seam)
    if (seam.ratio === null) return { ...base, note: words, standing }
    return {
      ...base,
      note: `seam ${seam.ratio.toFixed(1)}${standing === 'look' ? ', a visible jump' : ''}`,
      standing,
    }
  },
  legibility({ contrast, needed }) {
    if (contrast === null)
      return { figure: '–', unit: ': 1', note: 'waiting for a frame', standing: 'busy' }
    return {
      figure: contrast.toFixed(1),
      unit: ': 1',
      note: `heading, this frame; needs ${needed}`,
      standing: contrast >= needed ? 'settled' : 'fix',
    }
  },
  fit({ document, source }) {
    const { height } = document.fit
    const { phone } = SCREENS
    const kept = keptWidth(pictureSize(document, recipeSource(source)), {
      width: phone.width,
      height: regionHeightPx(height, phone.height),
    })
    return {
      figure: String(height.value),
      unit: height.unit,
      note: `phone shows ${Math.round(kept * 100)} %`,
      standing: kept < 0.25 ? 'look' : 'settled',
    }
  },
  behaviour({ document }) {
    const all = outcomes(document)
    const posters = all.filter((outcome) => outcome.shows === 'poster').length
    const base = { figure: String(posters), unit: `of ${all.length} show the poster` }
    const { behaviour, timing } = document
    if (
      !behaviour.pauseControl &&
      (timing.repeat === 'loop' || loopSeconds(loopOf(document)) > PAUSE_AFTER_SECONDS)
    )
      return { ...base, note: 'visitors cannot pause it', standing: 'fix' }
    if (behaviour.reducedMotion === 'play')
      return { ...base, note: 'moves under reduced motion', standing: 'look' }
    return { ...base, note: 'respects reduced motion; can be paused', standing: 'settled' }
  },
  weight(balance) {
    const { document, jobs } = balance
    const visits = madeVisits(balance)
    const shown = visits.find((visit) => visit.screenClass === 'laptop')!
    const unit = `of ${megabytes(shown.budgetBytes)} MB`
    const figure = shown.clip > 0 ? megabytes(shown.total) : '–'
    if (jobs.some((job) => job.state === 'running'))
      return { figure, unit, note: `${jobs.length} files rendering`, standing: 'busy' }
    if (isAsking(balance))
      return { figure, unit, note: 'checking which files exist', standing: 'busy' }
    if (shown.clip === 0)
      return { figure, unit, note: 'not rendered for this cut', standing: 'look' }
    const phone = visits.find((visit) => visit.screenClass === 'phone')!
    const phones =
      document.behaviour.phone === 'poster'
        ? 'phone shows the poster'
        : phone.clip === 0
          ? 'phone not rendered yet'
          : `phone ${megabytes(phone.total)} of ${megabytes(phone.budgetBytes)}`
    const [over] = overFloors(document, balance.source, balance.made)
    if (over)
      return {
        figure,
        unit,
        note: `${SCREENS[over.screenClass].label}: too little for ${FORMAT_NAMES[over.family]}`,
        standing: 'fix',
      }
    const unmade = visits.find(
      (visit) =>
        visit.clip === 0 &&
        !(visit.screenClass === 'phone' && document.behaviour.phone === 'poster'),
    )
    if (unmade && unmade !== phone)
      return {
        figure,
        unit,
        note: `${SCREENS[unmade.screenClass].label.toLowerCase()} not rendered yet`,
        standing: 'look',
      }
    return {
      figure,
      unit,
      note: phones,
      standing: visits.some((visit) => visit.total > visit.budgetBytes)
        ? 'fix'
        : unmade
          ? 'look'
          : 'settled',
    }
  },
  handoff(balance) {
    const { document, source, made, jobs } = balance
    const keys = finalRecipes(document, source).map(recipeKey)
    const missing = keys.filter((key) => !made[key]).length
    // Seven texts go along with the media: page, fragment, two styles, script, notes, manifest.
    if (missing === 0)
      return {
        figure: String(keys.length + 7),
        unit: 'files',
        note: 'ready to download',
        standing: 'settled',
      }
    if (isAsking(balance))
      return { figure: '–', unit: 'files', note: 'checking which files exist', standing: 'busy' }
    return {
      figure: String(missing),
      unit: 'to render',
      note: jobs.length > 0 ? 'rendering' : `of ${keys.length} media files`,
      standing: jobs.length > 0 ? 'busy' : 'look',
    }
  },
}

/** Whether the server has not said of the final files which are made. */
function isAsking(balance: Balance): boolean {
  return isUnsure(balance, finalRecipes(balance.document, balance.source).map(recipeKey))
}

/**
 * What a first visit takes on each class of screens, of the files that are made: a class whose
 * clips are not all made has none yet.
 */
export function madeVisits({
  document,
  source,
  made,
}: Pick<Balance, 'document' | 'source' | 'made'>): FirstVisit[] {
  const from = recipeSource(source)
  const bytesOf = (recipe: Recipe): number => made[recipeKey(recipe)]?.bytes ?? 0
  return firstVisits(document, {
    clips: clipRecipes(document, from).map(({ screenClass, recipe }) => ({
      screenClass,
      family: recipe.family,
      bytes: bytesOf(recipe),
    })),
    posters: posterRecipes(document, from).map(({ screenClass, recipe }) => ({
      screenClass,
      bytes: bytesOf(recipe),
    })),
  })
}
