import { loopSeconds, type Cut } from '../../loop/framePlan'
import type { Analysis } from '../../material/Analysis'
import type { LighterBase } from '../Kind'
import type { Footage } from './Footage'
import { loopOf } from './footageSequence'
import type { FootageAction } from './reduceFootage'

const SHORTER = 0.75
const SLOWER = 0.75
const SHORTEST_SECONDS = 4

/**
 * Changes of the cut that make the files lighter. `analysis` says where the clip is calm; null if
 * it was not measured.
 */
export function lighterFootage(
  base: Footage,
  analysis: Analysis | null,
): LighterBase<FootageAction>[] {
  const { cut, speed } = base.timing
  const seconds = loopSeconds(loopOf(base))
  const shortened = (share: number): Cut => ({
    ...cut,
    end: cut.start + Math.round((cut.end - cut.start) * share),
  })
  const found: LighterBase<FootageAction>[] = []
  if (seconds * SHORTER >= SHORTEST_SECONDS)
    found.push({
      id: 'shorter',
      title: `Shorter loop, ${(seconds * SHORTER).toFixed(1)} s`,
      because: 'Each second costs the same; few visitors watch a background for long.',
      actions: [{ type: 'timing/cut', cut: shortened(SHORTER) }],
    })
  const calmest = calmestCut(cut, analysis)
  if (calmest)
    found.push({
      id: 'calmer',
      title: `Calmer cut, from ${(calmest.start / calmest.timescale).toFixed(1)} s`,
      because: 'The same length where less moves.',
      actions: [{ type: 'timing/cut', cut: calmest }],
    })
  if (speed * SLOWER >= 0.5 && seconds >= SHORTEST_SECONDS)
    found.push({
      id: 'slower',
      title: `Slower, × ${(speed * SLOWER).toFixed(2)}`,
      because: 'The loop has the same length; less changes from frame to frame.',
      actions: [
        { type: 'timing/speed', speed: speed * SLOWER },
        { type: 'timing/cut', cut: shortened(SLOWER) },
      ],
    })
  return found
}

/**
 * A cut of the same length where the clip moves least; null if nothing is known, or nothing is
 * clearly calmer.
 */
function calmestCut(cut: Cut, analysis: Analysis | null): Cut | null {
  if (!analysis || analysis.motion.length < 2) return null
  const msEach = analysis.durationMs / analysis.motion.length
  const length = Math.round(((cut.end - cut.start) * 1000) / cut.timescale / msEach)
  const [from, to] = analysis.usable
    ? [Math.ceil(analysis.usable.startMs / msEach), Math.floor(analysis.usable.endMs / msEach)]
    : [0, analysis.motion.length]
  const motionFrom = (start: number): number =>
    analysis.motion.slice(start, start + length).reduce((sum, value) => sum + value, 0)
  let best: number | null = null
  for (let start = from; start + length <= to; start++)
    if (best === null || motionFrom(start) < motionFrom(best)) best = start
  const now = motionFrom(Math.round((cut.start * 1000) / cut.timescale / msEach))
  if (best === null || motionFrom(best) > now * 0.85) return null
  const start = Math.round((best * msEach * cut.timescale) / 1000)
  return { ...cut, start, end: start + cut.end - cut.start }
}
