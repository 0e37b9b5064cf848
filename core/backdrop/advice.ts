import type { ScreenClass } from '../fit/screens'
import { toNumber, type Fraction } from '../Fraction'
import { kindOf } from '../kinds'
import { clipRate, rendersClips } from './delivered'
import type { Sources } from '../kinds/Kind'
import type { Analysis } from '../material/Analysis'
import { ProbeCurve } from '../weight/ProbeCurve'
import type { ProbeFacts } from '../weight/ProbeFacts'
import type { BackdropDocument } from './BackdropDocument'
import { budgetLeaving, clipRecipes, type ClipRecipe } from './recipe'
import { reduce, type BackdropAction } from './reduce'
import { withLayer } from '../scrim/Scrim'

/** A change that makes a clip lighter. */
export type AdviceId =
  | 'shorter'
  | 'calmer'
  | 'frame-rate'
  | 'slower'
  | 'crop'
  | 'smaller'
  | 'noise-reduction'
  | 'copy-blur'
  | 'scrim'
  | 'phone-still'

/** A change that makes a clip lighter: what changes, and why visitors may not notice. */
export interface Alternative {
  readonly id: AdviceId
  readonly title: string
  readonly because: string
  /** Taken together they are one decision. */
  readonly actions: readonly BackdropAction[]
}

/** The share of the present width that a smaller file has. */
const SMALLER = 0.8
/** How strongly noise is reduced: enough that grain goes, not so much that texture smears. */
const DENOISE = 0.6
/** How much stronger a scrim is tried, and the strongest that is suggested. */
const STRONGER = 0.15
const STRONGEST = 0.85
/** How strongly the ground behind the copy is blurred when that is proposed. */
const COPY_BLUR = 0.6
/** The smallest budget that documents accept. */
const MIN_BUDGET = 20_000
/** Rates up to so many times the lowest one tested count as the bottom of a curve. */
const BOTTOM = 1.3
/** Lower rates are suggested only above this one: below it motion begins to stutter. */
const MIN_FPS = 20
const LIGHT_FPS: Fraction = { num: 20, den: 1 }

/**
 * Changes that could make the files of a class lighter, given the present document. `analysis` says
 * where the clip is calm; null if it was not measured.
 */
export function alternatives(
  document: BackdropDocument,
  screenClass: ScreenClass,
  analysis: Analysis | null,
): Alternative[] {
  const { base, weight, scrim, behaviour } = document
  const row = weight.renditions[screenClass]
  const found: Alternative[] = [...kindOf(base).lighter(base, analysis)]
  // All others are about clips.
  if (!rendersClips(document)) return found
  if (!row.locked && toNumber(row.frameRate ?? clipRate(document)) > MIN_FPS + 1) {
    found.push({
      id: 'frame-rate',
      title: 'Twenty frames a second',
      because: 'On slow motion of clouds, water or light the difference is hardly visible.',
      actions: [{ type: 'weight/row', screenClass, row: { frameRate: LIGHT_FPS } }],
    })
  }
  if (!row.locked && row.crop === 'whole')
    found.push({
      id: 'crop',
      title: 'Cropped for the screen',
      because: 'The part that no window of this screen shows is not sent.',
      actions: [{ type: 'weight/row', screenClass, row: { crop: 'screen' } }],
    })
  if (!row.locked && row.width * SMALLER >= 320) {
    const width = 2 * Math.round((row.width * SMALLER) / 2)
    found.push({
      id: 'smaller',
      title: `Smaller, ${width} px wide`,
      because: 'Softer on high-density screens; behind copy and scrim hardly visible.',
      actions: [{ type: 'weight/row', screenClass, row: { width } }],
    })
  }
  if (weight.noiseReduction === 0)
    found.push({
      id: 'noise-reduction',
      title: 'Noise reduction',
      because: 'Noise is different in every frame and costs many bytes.',
      actions: [{ type: 'weight/set', weight: { noiseReduction: DENOISE } }],
    })
  if (
    !row.locked &&
    row.copyBlur === 0 &&
    document.copy.heading.trim().length + document.copy.body.trim().length > 0
  ) {
    found.push({
      id: 'copy-blur',
      title: 'Blur behind the copy',
      because:
        'A blurred area needs few bytes, and copy is easier to read on it. The rest of the picture stays sharp.',
      actions: [{ type: 'weight/row', screenClass, row: { copyBlur: COPY_BLUR } }],
    })
  }
  // Only a budget can use the saving of a scrim: the scrim itself is not in the files.
  const [layer] = scrim.layers
  const stronger = (layer?.strength ?? 1) + STRONGER
  if (!row.locked && weight.goal === 'budget' && layer && stronger <= STRONGEST) {
    found.push({
      id: 'scrim',
      title: `Stronger scrim, ${Math.round(stronger * 100)} %`,
      because:
        'It hides detail, so coarser encoding looks the same, and copy is easier to read. The budget is lowered by the saving.',
      actions: [
        { type: 'scrim/set', scrim: withLayer(scrim, 0, { ...layer, strength: stronger }) },
      ],
    })
  }
  if (screenClass === 'phone' && behaviour.phone === 'play')
    found.push({
      id: 'phone-still',
      title: 'Only the poster on phones',
      because: 'Phones save battery and data.',
      actions: [{ type: 'behaviour/set', behaviour: { phone: 'poster' } }],
    })
  return found
}

/** The document with a suggested change. */
export function taken(document: BackdropDocument, { actions }: Alternative): BackdropDocument {
  return actions.reduce(reduce, document)
}

/**
 * The change to a stronger scrim, with the budget that uses its saving: the share `saves` of
 * `clipBytes`.
 */
export function withBudget(
  alternative: Alternative,
  document: BackdropDocument,
  screenClass: ScreenClass,
  clipBytes: number,
  saves: number,
): Alternative {
  const budget = Math.max(
    MIN_BUDGET,
    budgetLeaving(document, screenClass, Math.round(clipBytes * (1 - saves))),
  )
  return {
    ...alternative,
    actions: [
      ...alternative.actions,
      { type: 'weight/row', screenClass, row: { budgetBytes: budget } },
    ],
  }
}

/**
 * The clip that represents a class when changes are measured: the one in its most efficient format.
 */
export function measuredRecipe(
  document: BackdropDocument,
  known: Sources,
  screenClass: ScreenClass,
): ClipRecipe | null {
  return (
    clipRecipes(document, known).find((clip) => clip.screenClass === screenClass)?.recipe ?? null
  )
}

/** The part of a probe's result that is about bytes. */
type Told = Pick<ProbeFacts, 'points' | 'steering' | 'frames'>

/** Bytes of a loop at a setting, from a probe; with `frames` of its own. */
export function probedBytes({ points, steering, frames }: Told, setting: number): number {
  return new ProbeCurve(points, steering).loopBytes(setting, frames)
}

/**
 * The share of bytes that a changed loop saves. At the same quantizer both loops have the same
 * quality. A bit rate does not determine quality, so there both are compared at the quality of the
 * present one; at the lowest rates, where an encoder gives the same output for any rate, both are
 * compared at their lowest quality.
 */
export function savedShare(present: Told, changed: Told, setting: number): number {
  if (present.steering === 'quantizer')
    return 1 - probedBytes(changed, setting) / probedBytes(present, setting)
  const [own, curve] = [
    new ProbeCurve(present.points, present.steering),
    new ProbeCurve(changed.points, changed.steering),
  ]
  const [highest, lowest] = [
    curve.points[0]!.setting,
    curve.points[curve.points.length - 1]!.setting,
  ]
  const bottom = own.points[own.points.length - 1]!
  if (setting <= bottom.setting * BOTTOM)
    return 1 - probedBytes(changed, lowest) / probedBytes(present, bottom.setting)
  const wanted = own.ssim(setting)
  return (
    1 -
    probedBytes(
      changed,
      curve.coarsestThat((each) => curve.ssim(each) >= wanted, highest, lowest),
    ) /
      probedBytes(present, setting)
  )
}

/**
 * The share of bytes that a stronger scrim saves: behind it a coarser setting looks as the present
 * one does now. `seen` are bytes and quality at several settings, finest first, each behind the
 * present scrim and behind the stronger one.
 */
export function scrimGain(
  seen: readonly { readonly bytes: number; readonly now: number; readonly stronger: number }[],
): number {
  const [present] = seen
  if (!present) return 0
  let bytes = present.bytes
  for (let index = 1; index < seen.length; index++) {
    const [finer, coarser] = [seen[index - 1]!, seen[index]!]
    if (coarser.stronger >= present.now) bytes = coarser.bytes
    else {
      const span = finer.stronger - coarser.stronger
      const share = span <= 0 ? 0 : Math.min(1, Math.max(0, (finer.stronger - present.now) / span))
      if (finer.stronger > present.now) bytes = finer.bytes * (coarser.bytes / finer.bytes) ** share
      break
    }
  }
  return 1 - bytes / present.bytes
}
