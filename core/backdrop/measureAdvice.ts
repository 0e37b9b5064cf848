import type { ScreenClass } from '../fit/screens'
import type { Sources } from '../kinds/Kind'
import type { Analysis } from '../material/Analysis'
import { maxQualitySetting } from '../weight/passes'
import { ProbeCurve } from '../weight/ProbeCurve'
import type { ProbeFacts } from '../weight/ProbeFacts'
import {
  alternatives,
  measuredRecipe,
  probedBytes,
  savedShare,
  scrimGain,
  taken,
  withBudget,
  type Alternative,
} from './advice'
import type { BackdropDocument } from './BackdropDocument'
import { probeOf, recipeKey, type ClipRecipe, type ProbeRecipe } from './recipe'
import { meanStrength } from '../scrim/scrimAt'

/** An alternative with what it was measured to save. */
export interface MeasuredAdvice extends Alternative {
  /** A share of the clip's bytes as it would be now, and those bytes; for equally fine pictures. */
  readonly saves: number
  readonly savesBytes: number
}

/** How the measuring goes: 0 to 1, and what was found last. */
export interface AdviceStep {
  readonly done: number
  readonly advice: MeasuredAdvice | null
}

/** Short encodes of a clip. */
export interface ProbeRun {
  readonly facts: ProbeFacts
  /**
   * Frames that were compared, for each setting: their quality behind scrims that leave so much
   * contrast.
   */
  readonly compared: readonly (readonly { readonly behind: readonly number[] }[])[]
}

/**
 * Makes short encodes: `settings` null for the usual ones, `contrasts` what scrims leave of the
 * contrast.
 */
export type ProbeRunner = (
  recipe: ProbeRecipe,
  settings: readonly number[] | null,
  contrasts: readonly number[],
) => Promise<ProbeRun>

/** What advice is measured for, and with. */
export interface AdviceOrder {
  readonly document: BackdropDocument
  readonly known: Sources
  readonly screenClass: ScreenClass
  readonly analysis: Analysis | null
  /** The usual probe of `measuredRecipe`. */
  readonly base: ProbeFacts
  readonly run: ProbeRunner
}

/**
 * The share of a clip that a change must save to be suggested; noise reduction is visible and must
 * save more.
 */
const MIN_SAVING = 0.02
const MIN_SAVING_OF_GRAIN = 0.15

/** Whether advice saves enough to be offered. */
export function savesEnough({ id, saves }: Pick<MeasuredAdvice, 'id' | 'saves'>): boolean {
  return saves >= (id === 'noise-reduction' ? MIN_SAVING_OF_GRAIN : MIN_SAVING)
}

/**
 * How much coarser the settings behind a scrim are tried: quantizers by this factor, rates by its
 * fourth power.
 */
const COARSER = [1, 1.08, 1.18, 1.3]

/**
 * Measures the changes that could make the files of a class lighter, one after another: each is
 * encoded in part at the setting of the present file. These are the suggestions made where a budget
 * is too small for the encoder. Gives nothing for a class without its own clip. Errors: those of
 * `run`.
 */
export async function* measureAdvice({
  document,
  known,
  screenClass,
  analysis,
  base,
  run,
}: AdviceOrder): AsyncGenerator<AdviceStep> {
  const recipe = measuredRecipe(document, known, screenClass)
  if (!recipe) return
  const setting = presentSetting(recipe, base)
  const settings = base.steering === 'quantizer' ? [setting] : null
  const present = settings ? (await run(probeOf(recipe), settings, [])).facts : base
  const bytes = probedBytes(present, setting)
  const all = alternatives(document, screenClass, analysis)
  for (const [index, alternative] of all.entries()) {
    const changed = taken(document, alternative)
    const other = measuredRecipe(changed, known, screenClass)
    const saves =
      alternative.id === 'phone-still'
        ? 1
        : alternative.id === 'scrim'
          ? await scrimSaving(
              run,
              recipe,
              setting,
              base,
              meanStrength(document.scrim),
              meanStrength(changed.scrim),
            )
          : !other || recipeKey(other) === recipeKey(recipe)
            ? null
            : savedShare(present, (await run(probeOf(other), settings, [])).facts, setting)
    const done = (index + 1) / all.length
    if (saves === null) yield { done, advice: null }
    else
      yield {
        done,
        advice: {
          ...(alternative.id === 'scrim'
            ? withBudget(alternative, document, screenClass, bytes, saves)
            : alternative),
          saves,
          savesBytes: Math.round(bytes * saves),
        },
      }
  }
}

/** What the encoder is asked for in the file as it would be made now. */
function presentSetting(
  { goal }: ClipRecipe,
  { points, steering, frames, bounds }: ProbeFacts,
): number {
  const curve = new ProbeCurve(points, steering)
  const ceiling = maxQualitySetting({ curve, bounds })
  if (goal?.kind === 'quality')
    return Math.round(
      curve.coarsestThat((each) => curve.ssim(each) >= goal.ssim, bounds.finest, bounds.coarsest),
    )
  return Math.round(
    goal ? curve.finestWithin(goal.bytes, frames, ceiling, bounds.coarsest) : ceiling,
  )
}

/** The saving of a stronger scrim: coarser settings are compared behind both scrims. */
async function scrimSaving(
  run: ProbeRunner,
  recipe: ClipRecipe,
  setting: number,
  { steering, bounds }: ProbeFacts,
  now: number,
  stronger: number,
): Promise<number> {
  const settings = COARSER.map((times) =>
    Math.round(
      steering === 'quantizer'
        ? Math.min(bounds.coarsest, setting * times)
        : Math.max(bounds.coarsest, setting / times ** 4),
    ),
  )
  const { facts, compared } = await run(probeOf(recipe), settings, [1 - now, 1 - stronger])
  const mean = (index: number, which: number): number =>
    compared[index]!.reduce((sum, frame) => sum + frame.behind[which]!, 0) / compared[index]!.length
  return scrimGain(
    facts.points.map((point, index) => ({
      bytes: probedBytes({ ...facts, points: [point] }, point.setting),
      now: mean(index, 0),
      stronger: mean(index, 1),
    })),
  )
}
