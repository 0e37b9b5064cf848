import type { Cycle } from './cycle'

/*
 * A crossfade that keeps its brightness: only the upper one of two slides changes its opacity, over
 * a lower one that stays whole. With both changing, the ground shows through half-way. Slide 0 lies
 * at the bottom and never changes: it is seen at once, without script, and the last slide fades out
 * over it.
 */

/** A place in an animation: a share of it, 0 to 1, and the opacity there. */
export interface OpacityKey {
  readonly at: number
  readonly opacity: number
}

/** The animation of one slide's opacity, which repeats every cycle. */
export interface SlideFade {
  /** When it begins, in seconds after slide 0 was shown. */
  readonly delaySeconds: number
  readonly keys: readonly OpacityKey[]
}

/** The least distance of a step in time, as a share of the cycle: browsers keep both ends apart. */
const STEP = 1e-5

/** The fades of slides 1, 2, … of a cycle; slide 0 has none. Before it begins a slide is unseen. */
export function crossfades({ seconds, spans }: Cycle): SlideFade[] {
  return spans.slice(1).map(({ appearsAt, fullFrom, leavesFrom, goneAt }, index) => {
    const share = (time: number): number => (time - appearsAt) / seconds
    const start: OpacityKey[] =
      fullFrom > appearsAt
        ? [
            { at: 0, opacity: 0 },
            { at: share(fullFrom), opacity: 1 },
          ]
        : [{ at: 0, opacity: 1 }]
    const isLast = index === spans.length - 2
    // The last one fades out over slide 0; others are covered by the next one, then vanish.
    const end: OpacityKey[] = isLast
      ? [
          { at: share(leavesFrom), opacity: 1 },
          { at: Math.max(share(goneAt), share(leavesFrom) + STEP), opacity: 0 },
        ]
      : [
          { at: share(goneAt), opacity: 1 },
          { at: share(goneAt) + STEP, opacity: 0 },
        ]
    return { delaySeconds: appearsAt, keys: [...start, ...end, { at: 1, opacity: 0 }] }
  })
}

/** The opacity of a fade at `time` after the start, linear between keys. */
export function opacityAt(
  { delaySeconds, keys }: SlideFade,
  seconds: number,
  time: number,
): number {
  if (time < delaySeconds) return 0
  const share = ((time - delaySeconds) % seconds) / seconds
  const after = keys.findIndex(({ at }) => at > share)
  if (after <= 0) return keys[after === 0 ? 0 : keys.length - 1]!.opacity
  const [from, to] = [keys[after - 1]!, keys[after]!]
  return from.opacity + ((to.opacity - from.opacity) * (share - from.at)) / (to.at - from.at)
}
