import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import type { BackdropAction } from '../../../core/backdrop/reduce'
import { classOfWindow } from '../../../core/fit/focal'
import { SCREENS } from '../../../core/fit/screens'
import { toNumber } from '../../../core/Fraction'
import { longestRead } from '../../../core/legibility/readSpan'
import { isEnough, type WorstMoment } from '../../../core/legibility/worstOf'
import { frameWorker } from '../../state/frameWorker'
import type { ContrastOrder } from '../../worker/contrast/ContrastOrder'

/* Changes of the picture itself after which copy may be read: blur behind it, and another cut. */

/** Changes, or why there are none. */
type Offer = readonly BackdropAction[] | string

/** Blurs the files of the screens on which copy fails, behind the copy. */
export function blurBehind(
  { base, weight }: BackdropDocument,
  failing: readonly WorstMoment[],
  copyBlur: number,
): Offer {
  if (base.kind === 'paint') return 'colours have nothing to blur'
  const classes = new Set(
    failing.map(({ screen }) => classOfWindow(SCREENS[screen].width, weight.breakpoints)),
  )
  const rows = [...classes].map((each) => [each, weight.renditions[each]] as const)
  if (rows.some(([, { locked }]) => locked)) return 'a row under Weight is locked'
  if (rows.every(([, row]) => row.copyBlur >= copyBlur)) return 'it is blurred already'
  return rows.map(([screenClass]) => ({ type: 'weight/row', screenClass, row: { copyBlur } }))
}

/** A loop is cut shorter only while so many seconds of it, and such a share, are left. */
const LEAST_SECONDS = 2
const LEAST_SHARE = 0.5

/**
 * The longest part of a clip's cut in which no copy fails; `fails` tells of each output frame
 * whether some does.
 */
export function readCut({ base }: BackdropDocument, fails: readonly boolean[]): Offer {
  if (base.kind !== 'footage') return 'only clips have a cut'
  const { cut, speed, seam, frameRate } = base.timing
  if (seam.kind !== 'straight') return 'its seam mixes or repeats frames: cut it by hand'
  const span = longestRead(fails)
  const { length } = fails
  const seconds = (frames: number): number => frames / toNumber(frameRate)
  if (!span || span.end - span.first < LEAST_SHARE * length) return 'copy fails at too many moments'
  if (seconds(span.end - span.first) < LEAST_SECONDS) return 'too little of the loop would be left'
  const ticks = (frames: number): number =>
    Math.round(cut.start + seconds(frames) * speed * cut.timescale)
  const end = span.end === length ? cut.end : ticks(span.end)
  return [{ type: 'timing/cut', cut: { ...cut, start: ticks(span.first), end } }]
}

/**
 * Of each moment whether any text fails on any screen, as the trace tells it. Errors: those of
 * measuring.
 */
export async function failingMoments(
  order: ContrastOrder,
  signal: AbortSignal,
): Promise<boolean[]> {
  const failing = new Set<number>()
  await frameWorker().run(
    { type: 'contrasts', ...order },
    {
      signal,
      onStep: (step) => {
        if (step.phase !== 'screen') return
        const { texts } = order.screens.find(({ name }) => name === step.screen)!.layout
        for (const { seconds, places } of step.rows)
          if (places.some((place, at) => place && !isSafe(place.ratio, texts[at]!.needed)))
            failing.add(seconds)
      },
    },
  )
  return order.moments.map(({ seconds }) => failing.has(seconds))
}

/** The trace is a little off: what is just enough in it may fail at full size. */
const isSafe = (ratio: number, needed: number): boolean => isEnough(ratio / 1.02, needed)
